"""Voltage windows of each chemistry, a cell."""

from typing import Literal

from pydantic import Field

from saldatura.battery.quantities import ChemistryKey, Value


class ResistanceRange(Value):
    """10 s DC resistance × capacity of a cell, Ω·Ah: of a strong, a usual and a weak one."""

    low: float
    usual: float
    high: float


class Window(Value):
    """The voltages of one cell of a chemistry, and the figures that scale with its capacity.

    `full_v` of nickel chemistries is only where a rested full cell lies: their charge ends on −ΔV, not on a voltage.
    `highest_charge_v` is the most that data sheets of the kind let a charger be set to.
    """

    key: ChemistryKey
    name: str = Field(description="Which it is.")
    family: Literal["lithium", "nickel"]
    full_v: float = Field(description="Voltage to charge to, V. Default: full for the chemistry.")
    highest_charge_v: float
    nominal_v: float = Field(description="Nominal voltage of the pack, V.")
    tool_end_v: float
    hard_end_v: float
    storage_v: float
    rest_floor_v: float
    precharge_below_v: float
    charge_normally_from_v: float
    resistance_ohm_ah: ResistanceRange
    curve_sigma_v: float
    curves: tuple[str, ...]

    @property
    def questioned_v(self) -> float:
        """What reads more than this is asked about: no charger is set so high, and no meter errs so far."""
        return self.full_v + 0.15

    @property
    def most_v(self) -> float:
        """What reads more than this is no cell."""
        return self.full_v + 0.6

    @property
    def slow_precharge_below_v(self) -> float:
        """Below the middle between floor and normal charge, copper is nearer: slower, and for an hour at most."""
        return (self.rest_floor_v + self.charge_normally_from_v) / 2


_CYLINDRICAL_R = ResistanceRange(low=0.04, usual=0.08, high=0.20)


_POUCH_R = ResistanceRange(low=0.01, usual=0.02, high=0.06)


def _lithium(
    key: ChemistryKey,
    name: str,
    volts: tuple[float, float, float, float, float, float],
    curves: tuple[str, ...],
    resistance: ResistanceRange = _CYLINDRICAL_R,
    precharge: tuple[float, float] = (3.0, 2.5),
    curve_sigma_v: float = 0.010,
    highest_charge_v: float | None = None,
) -> Window:
    full, nominal, tool_end, hard_end, storage, floor = volts
    return Window(
        key=key,
        name=name,
        family="lithium",
        full_v=full,
        highest_charge_v=highest_charge_v or full,
        nominal_v=nominal,
        tool_end_v=tool_end,
        hard_end_v=hard_end,
        storage_v=storage,
        rest_floor_v=floor,
        precharge_below_v=precharge[0],
        charge_normally_from_v=precharge[1],
        resistance_ohm_ah=resistance,
        curve_sigma_v=curve_sigma_v,
        curves=curves,
    )


def _nickel(key: ChemistryKey, name: str, curve: str) -> Window:
    return Window(
        key=key,
        name=name,
        family="nickel",
        full_v=1.42,
        highest_charge_v=1.6,
        nominal_v=1.2,
        tool_end_v=1.0,
        hard_end_v=0.9,
        storage_v=1.3,
        rest_floor_v=0.0,
        precharge_below_v=0.9,
        charge_normally_from_v=0.0,
        resistance_ohm_ah=ResistanceRange(low=0.02, usual=0.05, high=0.10),
        curve_sigma_v=0.030,
        curves=(curve,),
    )


_OXIDE = (4.20, 3.65, 3.0, 2.5, 3.80, 1.5)


WINDOWS: dict[ChemistryKey, Window] = {
    w.key: w
    for w in (
        _lithium(
            "li_oxide",
            "4.20 V lithium-ion",
            _OXIDE,
            ("nmc811_chen2020", "nmc532_mohtat2020", "nca_kim2011", "lco_ramadass2004"),
        ),
        _lithium("nmc", "lithium-ion, NMC", _OXIDE, ("nmc811_chen2020", "nmc532_mohtat2020")),
        _lithium("nca", "lithium-ion, NCA", _OXIDE, ("nca_kim2011",)),
        _lithium("lco", "lithium-ion, LCO", (4.20, 3.7, 3.0, 2.5, 3.80, 1.5), ("lco_ramadass2004",)),
        _lithium(
            "lipo_hv",
            "4.35 V pouch",
            (4.35, 3.80, 3.3, 3.0, 3.85, 2.0),
            ("lco_ramadass2004", "nmc532_mohtat2020"),
            _POUCH_R,
            (3.3, 3.0),
            0.025,
        ),
        _lithium(
            "lipo",
            "4.20 V pouch",
            (4.20, 3.70, 3.3, 3.0, 3.80, 2.0),
            ("lco_ramadass2004", "nmc532_mohtat2020"),
            _POUCH_R,
            (3.3, 3.0),
        ),
        _lithium(
            "lfp",
            "iron phosphate",
            (3.60, 3.25, 2.5, 2.0, 3.30, 1.0),
            ("lfp_prada2013",),
            precharge=(2.5, 2.0),
            curve_sigma_v=0.015,
            highest_charge_v=3.65,
        ),
        _nickel("nimh", "nickel-metal hydride", "nernst_nimh"),
        _nickel("nicd", "nickel-cadmium", "nernst_nicd"),
    )
}
