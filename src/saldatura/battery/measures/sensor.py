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
from saldatura.battery.measures import words
from saldatura.battery.pack.sensors import Thermistor
from saldatura.battery.quantities import Celsius, Value
from saldatura.battery.wording import figure

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
            says=words.it_should_read(request.ambient_c, _ohms(expected)),
        )
    if request.ohm > OPEN_ABOVE_OHM:
        return Sensed(
            celsius=None,
            expected_ohm=expected,
            state="open",
            says=words.OPEN_NO_SENSOR_READS,
        )
    as_kilo = thermistor.celsius(request.ohm * 1000)
    if request.ohm < expected / 50 and abs(as_kilo - request.ambient_c) <= KILO_OHM_K:
        return Sensed(
            celsius=None,
            expected_ohm=expected,
            state="ask_unit",
            says=words.as_it_is_near(request.ohm, as_kilo, request.ambient_c),
        )
    celsius = thermistor.celsius(request.ohm)
    if request.ohm < SHORTED_BELOW_OHM or not celsius < HOTTEST_SENSOR_C:
        return Sensed(
            celsius=None,
            expected_ohm=expected,
            state="shorted",
            says=words.SHORTED_OR_ANOTHER_TYPE,
        )
    return _judged(request, celsius, expected, _dirt(request, expected))


def _dirt(request: SensorRequest, expected: float) -> str:
    assert request.ohm is not None
    extra = request.ohm - expected
    return words.too_much_as_dirty(_ohms(extra)) if extra > 0 else ""


def _judged(request: SensorRequest, celsius: float, expected: float | None, more: str) -> Sensed:
    off = celsius - request.ambient_c
    if abs(off) <= BELIEVABLE_K:
        return Sensed(
            celsius=round(celsius, 1),
            expected_ohm=expected,
            state="believable",
            says=words.beside_of_air_believable(celsius, request.ambient_c),
        )
    if off > 0:
        return Sensed(
            celsius=round(celsius, 1),
            expected_ohm=expected,
            state="hot",
            says=(words.warmer_than_air(celsius, off)),
        )
    where = "colder"
    says = words.is_than_air_if(celsius, off, where, more)
    return Sensed(celsius=round(celsius, 1), expected_ohm=expected, state="implausible", says=says)


def _diodes(request: SensorRequest) -> Sensed:
    if request.volts is None:
        usual = request.junctions * (DIODE_V_25 + DIODE_V_PER_K * (request.ambient_c - 25))
        return Sensed(
            celsius=None,
            expected_ohm=None,
            state="not_read",
            says=words.should_read_about(request.ambient_c, request.junctions, usual),
        )
    each = request.volts / request.junctions
    if each > DIODE_OPEN_V:
        return Sensed(celsius=None, expected_ohm=None, state="open", says=words.OPEN_JUNCTION_NEVER_HOLDS)
    if each < DIODE_SHORTED_V:
        return Sensed(celsius=None, expected_ohm=None, state="shorted", says=words.SHORTED_OR_FEWER_JUNCTIONS)
    celsius = 25 + (each - DIODE_V_25) / DIODE_V_PER_K
    # What a junction drops at 25 °C hangs on its make and the meter's current: colder than the air is no fault of it. Warmer may be warm.
    if each <= DIODE_MOST_V and celsius < request.ambient_c - BELIEVABLE_K:
        return Sensed(
            celsius=None,
            expected_ohm=None,
            state="believable",
            says=(words.each_sound_junctions_what(each, DIODE_V_PER_K)),
        )
    return _judged(request, celsius, None, "")


def _ohms(ohm: float) -> str:
    return f"{figure(ohm / 1000, 2)} kΩ" if abs(ohm) >= 1000 else f"{figure(ohm, 0)} Ω"
