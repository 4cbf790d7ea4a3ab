"""A virtual pack as a value: what it is made of and what is wrong with it, from which the model is built."""

from typing import Annotated

import numpy as np
from pydantic import Field

from saldatura.battery.cell.windows import WINDOWS
from saldatura.battery.errors import Impossible
from saldatura.battery.pack import words
from saldatura.battery.pack.board import Board, BoardLimits
from saldatura.battery.pack.build import PackModel, build
from saldatura.battery.pack.chip import ChipSpec
from saldatura.battery.pack.faults import Fault
from saldatura.battery.pack.operate import Rig
from saldatura.battery.quantities import AmpHours, Celsius, Pack, PositiveOhms, TapNumber, Value

MOST_FAULTS = 60


class PackSpec(Value):
    """State of charge of each group (one value: of all, spread a little by `seed`), and the faults, as injected.

    `loose`: balance leads that hang off the pack, by name, each with the tap that it comes from.
    """

    soc: Annotated[list[Annotated[float, Field(ge=-0.1, le=1.15)]], Field(min_length=1, max_length=40)] = Field(
        description="State of charge, best, 0–1."
    )
    faults: Annotated[list[Fault], Field(max_length=MOST_FAULTS)] = Field(
        [], description="What is wrong under this account, in words; none: everything as read."
    )
    curve: Annotated[int, Field(ge=0, le=20)] = Field(0, description="The forecast against time.")
    capacity_ah: AmpHours | None = Field(
        None, description="Capacity of the group, Ah; measured where known. Default: the rated one."
    )
    resistance_ohm: PositiveOhms | None = Field(
        None, description="10 s DC resistance of a group at 25 °C, ohm. Default: usual for the chemistry and capacity."
    )
    with_board: bool = True
    ambient_c: Celsius = Field(
        22.0, description="Temperature about the cells, °C. Default 25 °C, where resistances are stated."
    )
    seed: Annotated[int, Field(ge=0, le=2**31)] = 1
    chip: ChipSpec | None = Field(None, description="The chip of a smart pack; none: it has none.")
    loose: Annotated[dict[Annotated[str, Field(min_length=1, max_length=40)], TapNumber], Field(max_length=41)] = {}


def model_of(pack: Pack, spec: PackSpec) -> PackModel:
    """The pack's truth. Raises Impossible for faults on parts that do not exist, or socs that are not one a group."""
    if len(spec.soc) not in (1, pack.series):
        raise Impossible("soc", "soc_not_for_groups", words.values_for_groups_give(len(spec.soc), pack.series))
    beyond = next((name for name, tap in spec.loose.items() if tap > pack.series), None)
    if beyond is not None:
        raise Impossible("loose", "no_such_tap", words.lead_comes_from_tap(beyond, pack.series))
    socs = np.asarray(spec.soc)
    if len(spec.soc) == 1:
        socs = np.clip(socs[0] + np.random.default_rng(spec.seed).normal(0, 0.004, pack.series), -0.1, 1.15)
    return build(pack, socs.tolist(), spec.faults, spec.curve, spec.capacity_ah, spec.resistance_ohm)


def rig_of(pack: Pack, spec: PackSpec) -> Rig:
    """The pack at rest, with the board usual for its chemistry where it has one."""
    return Rig.at_rest(model_of(pack, spec), Board(usual_board(pack)) if spec.with_board else None, spec.ambient_c)


def usual_board(pack: Pack) -> BoardLimits:
    """Limits a maker would choose: a little outside the chemistry's window, currents by the capacity."""
    window = WINDOWS[pack.chemistry]
    over = window.full_v + 0.05
    return BoardLimits(
        over_v=over,
        over_release_v=over - 0.10,
        under_v=window.hard_end_v,
        under_release_v=window.hard_end_v + 0.4,
        over_current_a=10 * pack.rated_ah,
        short_circuit_a=40 * pack.rated_ah,
        latch_below_v=window.rest_floor_v - 0.5,
        fuse_above_v=over + 0.25,
        charge_c=(0.0, 50.0),
        discharge_c=(-20.0, 70.0),
    )
