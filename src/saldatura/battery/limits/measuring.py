"""Measuring: what stands out of the noise, and what a value can be."""

from saldatura.battery.limits.limit import Limit

EARLY_V = Limit(0.1, "V", "A discharge that ends so far above the end was stopped before it.", "house")
EARLY_SHARE = Limit(0.82, "share", "A discharge that gave less of the rating and ended early is no capacity.", "house")
FLOWS_SHARE = Limit(0.02, "share", "A current counts as one from this share of the largest in a log.", "house")
SAME_START_V = Limit(
    0.15, "V", "A discharge that begins within so much of where the last began is another one.", "house"
)
FALLEN_V = Limit(0.4, "V", "A discharge has fallen so far before another begins.", "house")
NICKEL_BELOW_V = Limit(2.0, "V", "A cell that stands below is of nickel.", "domain table of chemistries")
NICKEL_FULL_V = Limit(1.28, "V", "Where a full nickel cell stands under its first load.", "usual data sheets")
IRON_BELOW_V = Limit(3.62, "V", "A cell that stands below is of iron phosphate.", "domain table of chemistries")
IRON_FULL_V = Limit(3.3, "V", "Where a full iron phosphate cell stands under its first load.", "usual data sheets")
LITHIUM_FULL_V = Limit(4.0, "V", "Where a full cell of layered oxide stands under its first load.", "usual data sheets")
OPEN_ABOVE_OHM = Limit(
    2000000.0, "ohm", "A sensor that reads more is open.", "house, beyond every thermistor at −40 °C"
)
SHORTED_BELOW_OHM = Limit(
    20.0, "ohm", "A sensor that reads less is shorted.", "house, below every thermistor at 150 °C"
)
BELIEVABLE_K = Limit(8.0, "K", "A pack that has lain in the room is at the room's temperature within this.", "house")
DIODE_MOST_V = Limit(0.78, "V", "More no silicon junction drops.", "silicon junctions at a meter's current")
LEAST_STEP_A = Limit(0.02, "A", "A smaller step stands out of no log.", "house")
STEP_SHARE = Limit(0.3, "share", "A step must stand out by this share of the largest current.", "house")
HOLD_SHARE = Limit(0.1, "share", "And then hold within this share of itself.", "house")
QUIET_SHARE = Limit(
    0.25, "share", "What the rest before still drifts, of what grew: more, and the growth tells nothing.", "house"
)
AT_ONCE_S = Limit(
    1.0,
    "s",
    "What comes later after a step holds charge transfer and diffusion already.",
    "cell model, charge transfer within a second",
)
LEAST_DAYS = Limit(
    0.25, "days", "Between two rest sets nearer in time the meter's last digit reads as a leak.", "house"
)
CHARGED_V = Limit(
    0.01, "V", "No leak fills a group: what rose by more against its siblings was charged between the sets.", "house"
)
SHARED_V = Limit(
    0.015, "V", "Temperature moves all rest voltages of a pack by no more.", "some 0.3 mV/K over a cold night"
)
HAS_IT = Limit(
    0.05,
    "share",
    "A switch that is on, a fuse and a contact drop no more than this at a meter's current.",
    "common hand meters",
)
DIODE_LOW_V = Limit(
    0.35, "V", "A body diode of a switch that is off drops at least this.", "silicon junctions at a meter's current"
)
DIODE_HIGH_V = Limit(0.9, "V", "A body diode drops no more.", "silicon junctions at a meter's current")
SIGN_SHARE = Limit(0.1, "share", "Less of the string has no sign worth speaking of.", "house")
APART_DAYS = Limit(
    1.0,
    "days",
    "Two rest voltages nearer in time tell nothing of self-discharge.",
    "house, a shorter rest still settles",
)
DIODE_OPEN_V = Limit(1.2, "V", "A junction that drops more is open.", "silicon junctions at a meter's current")
DIODE_SHORTED_V = Limit(0.1, "V", "A junction that drops less is shorted.", "silicon junctions at a meter's current")
NOT_KNOWN_SHARE = Limit(0.3, "share", "A resistance in more doubt than this is no figure.", "house")
WELL_KNOWN_SHARE = Limit(0.05, "share", "A resistance in less doubt is told without it.", "house")
LAST_OF_STEP = Limit(0.9, "share", "What was read from here on is the end of the step.", "house")
AT_ONCE_AH = Limit(0.005, "Ah", "Less charge than this passes at once.", "house")
STEP_FROM_S = Limit(6.0, "s", "The step of switching on is read from here.", "bench of charges")
STEP_TO_S = Limit(16.0, "s", "And to here.", "bench of charges")
SAID_IN_VOLTS_V = Limit(
    0.0995, "V", "A smaller difference is said in millivolts; what rounds to a tenth of a volt is said so.", "house"
)
PUT_BACK_S = Limit(
    300.0, "s", "A reading taken back longer ago is read anew: put back it would count as read now.", "house"
)
