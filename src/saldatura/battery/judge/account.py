"""One way to explain a string: which groups and wires are at fault, and how far that changes what is read."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from saldatura.battery.cell.curves import Array

# States of the groups that each cause touches, and the chance that it touches a given group.
TOUCHES: dict[str, tuple[dict[str, float], float]] = {
    "imbalance": ({"low": 0.85, "high": 0.15}, 0.14),
    "weak_group": ({"weak": 1.0}, 0.07),
    "dead_group": ({"dead": 1.0}, 0.08),
    "reversed_group": ({"reversed": 1.0}, 0.06),
    "run_flat": ({"flat": 0.9, "dead": 0.1}, 0.6),
    "leaking_group": ({"leaking": 1.0}, 0.06),
    "bad_joint": ({"joint": 1.0}, 0.06),
}


@dataclass(frozen=True)
class Account:
    """The evidence under one account: its log probability, how likely each node is (N, W), and by cause how likely each of
    `groups` is touched at each node, (G, N, W)."""

    log_p: float
    node: Array
    shares: dict[str, Array]
    groups: list[int]

    @cached_property
    def states(self) -> dict[int, dict[str, float]]:
        """How likely each group is touched by each cause."""
        by_group: dict[int, dict[str, float]] = {}
        for cause, share in self.shares.items():
            for g, value in zip(self.groups, np.tensordot(share, self.node, 2).tolist(), strict=True):
                by_group.setdefault(g, {})[cause] = value
        return by_group

    @cached_property
    def by_soc(self) -> Array:
        """How likely each state of charge of the siblings is, (N,)."""
        return np.asarray(self.node.sum(axis=1))
