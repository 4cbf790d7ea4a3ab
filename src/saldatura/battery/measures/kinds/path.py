"""The power path, node by node."""

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from saldatura.battery.judge.measured import PathVolts
from saldatura.battery.judge.types import Evidence
from saldatura.battery.measures.kinds.base import Measure
from saldatura.battery.quantities import Pack
from saldatura.battery.string.path import PathRequest, power_path

# What of a path's parts is a node of the judgement.
NODES = {
    "fuse": "fuse",
    "thermal fuse": "fuse",
    "discharge switch": "discharge_switch",
    "charge switch": "charge_switch",
    "strip and joint to the contact": "contact",
    "contact": "terminal",
}


class PathMeasure(Measure):
    """Nodes of the power path as read."""

    kind: Literal["path"] = Field("path", description="Which kind it is.")
    path: PathRequest

    def said(self, rated_ah: float) -> str:
        return power_path(self.path).says

    def evidence(self, pack: Pack) -> Iterator[Evidence]:
        yield PathVolts(node="string", volts=self.path.string_v)
        for part in self.path.chain:
            node = NODES.get(part.part)
            if node is not None and part.volts is not None:
                yield PathVolts.model_validate({"node": node, "volts": part.volts})
