"""An interconnect as asked for and answered: cells, pieces of strip, take-offs, and what each carries."""

from collections import Counter
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from saldatura.battery.errors import Misfit
from saldatura.battery.join.words import net_types as words
from saldatura.battery.quantities import CellVolts, Celsius, PositiveOhms, Value, Words

MOST_SEGMENTS, MOST_CELLS = 20_000, 4000

Name = Annotated[Words, Field(min_length=1, max_length=60)]

Material = Literal["nickel", "plated_steel", "copper", "aluminium", "brass"]


class MaterialRow(Value):
    """Resistivity at 20 °C in Ω·mm²/m and its coefficient per K; density × heat capacity, J/m³K; heat conduction, W/mK."""

    resistivity: float
    per_k: float
    heat_j_m3_k: float
    k_w_mk: float


MATERIALS: dict[Material, MaterialRow] = {
    "nickel": MaterialRow(resistivity=0.070, per_k=0.006, heat_j_m3_k=8908.0 * 444, k_w_mk=91.0),
    "plated_steel": MaterialRow(resistivity=0.15, per_k=0.005, heat_j_m3_k=7850.0 * 490, k_w_mk=50.0),
    "copper": MaterialRow(resistivity=0.0172, per_k=0.0039, heat_j_m3_k=8960.0 * 385, k_w_mk=398.0),
    "aluminium": MaterialRow(resistivity=0.0282, per_k=0.0039, heat_j_m3_k=2700.0 * 897, k_w_mk=237.0),
    "brass": MaterialRow(resistivity=0.065, per_k=0.0015, heat_j_m3_k=8500.0 * 380, k_w_mk=110.0),
}


class NetCell(Value):
    """A cell: its voltage and its resistance; its poles are the nodes X+ and X−."""

    cell: Name = Field(description="Name of the cell.")
    volts: CellVolts = Field(description="Its voltage without a load, V.")
    resistance_ohm: PositiveOhms = Field(description="Its resistance, ohm.")


class Segment(Value):
    """A piece of strip between two nodes."""

    segment: Name = Field(description="Name of the piece.")
    from_: Annotated[Name, Field(alias="from")] = Field(description="The node it begins at.")
    to: Name = Field(description="The node it ends at.")
    material: Material = Field("nickel", description="What it is made of. Default nickel.")
    width_mm: Annotated[float, Field(gt=0, le=1000)] = Field(description="Width, mm.")
    thickness_mm: Annotated[float, Field(gt=0, le=50)] = Field(description="Thickness of a layer, mm.")
    length_mm: Annotated[float, Field(gt=0, le=10_000)] = Field(description="Length, mm.")
    layers: Annotated[int, Field(ge=1, le=20)] = Field(
        1, description="Layers, joined to each other along their length. Default 1."
    )

    model_config = {"populate_by_name": True, "serialize_by_alias": True}

    @property
    def ohm(self) -> float:
        """R = ρ·l / (w·t·layers), at 20 °C."""
        return (
            MATERIALS[self.material].resistivity
            * self.length_mm
            / 1000
            / (self.width_mm * self.thickness_mm * self.layers)
        )


class TakeOff(Value):
    """The nodes where the load is joined."""

    positive: Name = Field(description="The positive node.")
    negative: Name = Field(description="The negative node.")


class InterconnectRequest(Value):
    """A block under a load. `peak_a` and `peak_s`: a peak beside the load that lasts. A positive current discharges. `cell_rise_k`: the
    poles' temperature over ambient; `face_w_m2k`: what the exposed face of a strip gives off.
    """

    cells: Annotated[list[NetCell], Field(min_length=1, max_length=MOST_CELLS)] = Field(
        description="The cells with their voltage and resistance."
    )
    segments: Annotated[list[Segment], Field(min_length=1, max_length=MOST_SEGMENTS)] = Field(
        description="The pieces of strip between nodes; `X+` and `X-` are the poles of cell X."
    )
    weld_ohm: Annotated[float, Field(ge=0, le=1)] = Field(
        0.0003, description="Resistance of one weld, ohm; each pole is reached through one. Default 0.3 mΩ."
    )
    take_off: TakeOff = Field(description="Where the load is joined.")
    current_a: Annotated[float, Field(ge=-10_000, le=10_000)] = Field(
        description="Current of the load that lasts, A; positive discharges."
    )
    ambient_c: Celsius = Field(
        25.0, description="Temperature about the cells, °C. Default 25 °C, where resistances are stated."
    )
    peak_a: Annotated[float, Field(ge=0, le=10_000)] | None = Field(
        None, description="Current of the peak, A. Default: none is asked about."
    )
    peak_s: Annotated[float, Field(gt=0, le=3600)] = Field(
        10.0, description="How long the peak lasts, s. Default 10 s."
    )
    cell_rise_k: Annotated[float, Field(ge=0, le=200)] = Field(
        0.0, description="How much warmer than the air the poles are, K. Default 0."
    )
    face_w_m2k: Annotated[float, Field(ge=0.1, le=1000)] = Field(
        10.0, description="What the exposed face of a strip gives off, W/m²K. Default 10, still air in a case."
    )

    @model_validator(mode="after")
    def _once(self) -> Self:
        for what, names in (("cell", [c.cell for c in self.cells]), ("segment", [s.segment for s in self.segments])):
            twice = next((name for name, n in Counter(names).items() if n > 1), None)
            if twice is not None:
                raise Misfit(f"{what}s", "listed_twice", words.listed_twice_name(what, twice))
        loop = next((s for s in self.segments if s.from_ == s.to), None)
        if loop is not None:
            raise Misfit("segments", "segment_to_itself", words.segment_begins_and_ends(loop.segment, loop.from_))
        return self


class CellCurrent(Value):
    """What a cell gives: A out of its plus, and as a multiple of the even share of its neighbours in parallel."""

    cell: str = Field(description="Name of the cell.")
    current_a: float = Field(description="Current out of its plus, A.")
    share: float = Field(description="Its current over the mean of the cells in parallel with it.")


class SegmentCurrent(Value):
    """What a piece of strip carries: A from its first node to its second, heat, density; its highest temperature where it lasts over ambient
    and over the cells, and at the peak over the cells."""

    segment: str = Field(description="Name of the piece.")
    current_a: float = Field(description="Current from its first node to its second, A.")
    heat_w: float = Field(description="Heat of the resistor, W.")
    rise_k: float = Field(
        description="Its highest temperature over the air under the load that lasts, K, with conduction to the poles."
    )
    over_cell_k: float = Field(description="Its highest temperature over its cells under the load that lasts, K.")
    peak_rise_k: float | None = Field(
        description="Its highest temperature over its cells at the end of the peak, K; None: no peak was asked about."
    )
    a_per_mm2: float = Field(description="Current over its cross-section, A/mm².")


class NetFinding(Value):
    """What is wrong with the block whatever its strips are; `cells` name those that it is about."""

    kind: Literal["do_not_join", "reversed_cell", "take_offs_exchanged", "cells_hot", "loss"] = Field(
        description="Cells that must not be joined, turned round, take-offs exchanged, cells too hot, or strips that lose too much."
    )
    cells: list[str] = Field(description="Cells that it is about.")
    because: str = Field(description="Why, in a technician's words.")


class StripChange(Value):
    """A piece of strip as it would be made instead."""

    segment: str = Field(description="Name of the piece.")
    material: Material = Field(description="What it is made of then.")
    width_mm: float = Field(description="Its width then, mm.")
    layers: int = Field(description="Its layers then.")


class Mend(Value):
    """The least change by which the strips are enough: pieces made anew, or another place for the leads."""

    changes: list[StripChange] = Field([], description="Pieces made anew. Default: none.")
    take_off: TakeOff | None = Field(None, description="Where the load is joined instead; None: where it is.")
    says: str = Field(description="What it means, in words.")


class Interconnect(Value):
    """The network solved. `links_w`: heat of all strips, `welds_w` of all welds; `enough`: no strip is warmer over the cells than is allowed,
    and nothing stands against joining the cells at all."""

    terminal_v: float = Field(description="Voltage between the take-offs under the load, V.")
    cells: list[CellCurrent] = Field(description="What each cell gives.")
    segments: list[SegmentCurrent] = Field(description="What each piece carries.")
    links_w: float = Field(description="Heat of all pieces of strip, W.")
    welds_w: float = Field(description="Heat of all welds, W.")
    loss_fraction: float | None = Field(
        description="Heat of the strips over the power of the block; None without a current."
    )
    enough: bool = Field(
        description="Whether no piece is warmer over its cells than is allowed, and nothing stands against joining the cells."
    )
    because: str = Field(description="Why, in a technician's words.")
    findings: list[NetFinding] = Field([], description="What is wrong with the block whatever its strips are.")
    mend: str | None = Field(
        description="The least change that makes it enough, in words; None: it is, or no strip makes it so."
    )
    mended: Mend | None = Field(
        None, description="The same change piece by piece; None: none is needed, or none is enough."
    )


# A request that runs as it is.
EXAMPLE: dict[str, Any] = {
    "cells": [
        {"cell": "c1", "volts": 3.7, "resistance_ohm": 0.02},
        {"cell": "c2", "volts": 3.7, "resistance_ohm": 0.02},
    ],
    "segments": [
        {
            "segment": "s1",
            "from": "c1+",
            "to": "c2+",
            "material": "nickel",
            "width_mm": 8,
            "thickness_mm": 0.15,
            "length_mm": 20,
            "layers": 1,
        },
        {
            "segment": "s2",
            "from": "c2+",
            "to": "n9",
            "material": "nickel",
            "width_mm": 8,
            "thickness_mm": 0.15,
            "length_mm": 15,
        },
        {
            "segment": "s3",
            "from": "c1-",
            "to": "c2-",
            "material": "nickel",
            "width_mm": 8,
            "thickness_mm": 0.15,
            "length_mm": 20,
        },
        {
            "segment": "s4",
            "from": "c2-",
            "to": "n0",
            "material": "nickel",
            "width_mm": 8,
            "thickness_mm": 0.15,
            "length_mm": 15,
        },
    ],
    "weld_ohm": 0.0003,
    "take_off": {"positive": "n9", "negative": "n0"},
    "current_a": 10,
    "ambient_c": 25,
}
