"""The `sensor` computation: a temperature sensor's reading to °C, and whether it can be believed."""

from typing import Annotated, Literal

from pydantic import Field

from saldatura.battery.limits.measuring import (
    BELIEVABLE_K,
    DIODE_MOST_V,
    DIODE_OPEN_V,
    DIODE_SHORTED_V,
    OPEN_ABOVE_OHM,
    SHORTED_BELOW_OHM,
)
from saldatura.battery.limits.plausible import HOTTEST_SENSOR_C, KILO_OHM_K
from saldatura.battery.pack.sensors import Thermistor
from saldatura.battery.quantities import Celsius, Value
from saldatura.battery.wording import counted, figure

DIODE_V_25, DIODE_V_PER_K = 0.60, -0.002


# The commonest thermistor of packs, which a form begins with.
USUAL_R25_OHM, USUAL_B_K = 10_000.0, 3435.0


class SensorRequest(Value):
    """A thermistor by its `ohm`, or `junctions` diodes in series by their `volts`; `ambient_c` beside the pack."""

    kind: Literal["thermistor", "diodes"] = Field("thermistor", description="Which kind it is.")
    ohm: Annotated[float, Field(ge=0, le=1e12)] | None = Field(
        None, description="What the ohmmeter reads, ohm. Default: not read yet."
    )
    volts: Annotated[float, Field(ge=0, le=100)] | None = Field(
        None, description="Volts across the junctions. Default: not read."
    )
    r25_ohm: Annotated[float, Field(ge=10, le=1e7)] = Field(
        USUAL_R25_OHM, description="Resistance of the thermistor at 25 °C, ohm. Default 10 kΩ, the commonest."
    )
    b_k: Annotated[float, Field(ge=500, le=10_000)] = Field(
        USUAL_B_K, description="B value of the thermistor, K. Default 3435 K, the commoner of two usual ones."
    )
    junctions: Annotated[int, Field(ge=1, le=10)] = Field(1, description="Diode junctions in series. Default 1.")
    ambient_c: Celsius = Field(22.0, description="Temperature of the air beside the pack, °C. Default 22 °C, a room.")


class Sensed(Value):
    """What the sensor says: °C where it says anything, its state, and a sentence."""

    celsius: float | None = Field(description="What the sensor says, °C; None where it says nothing.")
    expected_ohm: float | None = Field(description="What a sound sensor reads at the air's temperature, ohm.")
    state: Literal["believable", "open", "shorted", "hot", "implausible", "ask_unit", "not_read"] = Field(
        description="Its state in a word."
    )
    says: str = Field(description="What it means, in words.")


def sense(request: SensorRequest) -> Sensed:
    """Temperature and state of a sensor."""
    if request.kind == "diodes":
        return _diodes(request)
    thermistor = Thermistor(r25_ohm=request.r25_ohm, b_k=request.b_k)
    expected = round(thermistor.ohm(request.ambient_c), 1)
    if request.ohm is None:
        return Sensed(
            celsius=None,
            expected_ohm=expected,
            state="not_read",
            says=f"At {request.ambient_c:.0f} °C it should read {_ohms(expected)}.",
        )
    if request.ohm > OPEN_ABOVE_OHM:
        return Sensed(
            celsius=None,
            expected_ohm=expected,
            state="open",
            says="Open: no sensor reads so much at any temperature. The board takes it for deep cold and blocks the charge.",
        )
    as_kilo = thermistor.celsius(request.ohm * 1000)
    if request.ohm < expected / 50 and abs(as_kilo - request.ambient_c) <= KILO_OHM_K:
        return Sensed(
            celsius=None,
            expected_ohm=expected,
            state="ask_unit",
            says=f"{request.ohm:g} Ω, or {request.ohm:g} kΩ? As kΩ it is {as_kilo:.0f} °C, near the air's {request.ambient_c:.0f} °C. Look at the meter's unit.",
        )
    celsius = thermistor.celsius(request.ohm)
    if request.ohm < SHORTED_BELOW_OHM or not celsius < HOTTEST_SENSOR_C:
        return Sensed(
            celsius=None,
            expected_ohm=expected,
            state="shorted",
            says="Shorted, or another type of sensor: the board takes it for great heat and blocks everything. Feel with the back of the hand that the pack is cool.",
        )
    return _judged(request, celsius, expected, _dirt(request, expected))


def _dirt(request: SensorRequest, expected: float) -> str:
    assert request.ohm is not None
    extra = request.ohm - expected
    return f"; {_ohms(extra)} too much, as a dirty connector adds" if extra > 0 else ""


def _judged(request: SensorRequest, celsius: float, expected: float | None, more: str) -> Sensed:
    off = celsius - request.ambient_c
    shown = f"{celsius:.1f}".replace("-", "−")
    if abs(off) <= BELIEVABLE_K:
        return Sensed(
            celsius=round(celsius, 1),
            expected_ohm=expected,
            state="believable",
            says=f"{shown} °C beside {request.ambient_c:.0f} °C of air: believable.",
        )
    if off > 0:
        return Sensed(
            celsius=round(celsius, 1),
            expected_ohm=expected,
            state="hot",
            says=(
                f"{shown} °C, {off:.0f} K warmer than the air: it may be hot. Do not open it; feel with the back of the hand or a thermometer. "
                "Only if it is cool to the touch is the sensor or its type wrong."
            ),
        )
    where = "colder"
    says = f"{shown} °C is {abs(off):.0f} K {where} than the air{more}. If the pack has rested here, the sensor or its type is wrong."
    return Sensed(celsius=round(celsius, 1), expected_ohm=expected, state="implausible", says=says)


def _diodes(request: SensorRequest) -> Sensed:
    if request.volts is None:
        usual = request.junctions * (DIODE_V_25 + DIODE_V_PER_K * (request.ambient_c - 25))
        return Sensed(
            celsius=None,
            expected_ohm=None,
            state="not_read",
            says=f"At {figure(request.ambient_c, 0)} °C {counted(request.junctions, 'junction')}{' in series' if request.junctions > 1 else ''} should read about {usual:.2f} V in the diode range.",
        )
    each = request.volts / request.junctions
    if each > DIODE_OPEN_V:
        return Sensed(celsius=None, expected_ohm=None, state="open", says="Open: a junction never holds so much.")
    if each < DIODE_SHORTED_V:
        return Sensed(
            celsius=None, expected_ohm=None, state="shorted", says="Shorted, or fewer junctions than thought."
        )
    celsius = 25 + (each - DIODE_V_25) / DIODE_V_PER_K
    # What a junction drops at 25 °C hangs on its make and the meter's current: colder than the air is no fault of it. Warmer may be warm.
    if each <= DIODE_MOST_V and celsius < request.ambient_c - BELIEVABLE_K:
        return Sensed(
            celsius=None,
            expected_ohm=None,
            state="believable",
            says=(
                f"{each:.2f} V each: sound junctions. What one drops at 25 °C depends on its make and the meter's current, so no temperature follows; "
                f"warmed with a finger each falls by about {-DIODE_V_PER_K * 1000:.0f} mV a kelvin."
            ),
        )
    return _judged(request, celsius, None, "")


def _ohms(ohm: float) -> str:
    return f"{ohm / 1000:.2f} kΩ" if abs(ohm) >= 1000 else f"{ohm:.0f} Ω"
