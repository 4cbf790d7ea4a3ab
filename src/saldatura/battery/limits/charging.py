"""Charging: how warm, how hard, how near."""

from saldatura.battery.limits.limit import Limit

NICKEL_FROM_C = Limit(
    0.0, "°C", "Below, nickel cells build up gas that they cannot take back.", "IEC 61951-1/-2 and usual data sheets"
)
NICKEL_TO_C = Limit(45.0, "°C", "Above, nickel cells take no charge and age.", "IEC 61951-1/-2 and usual data sheets")
HARDEST_C = Limit(5.0, "C", "No data sheet lets a cell be charged harder.", "usual data sheets")
USUAL_C = Limit(1.0, "C", "Above it the data sheet must say so.", "usual data sheets")
WARMEST_C = Limit(60.0, "°C", "A cell that grows so warm on a charge is not charged so.", "usual data sheets")
NICKEL_GENTLE_C = Limit(
    0.11,
    "C",
    "Faster, nickel needs an end of its own: −ΔV, dT/dt or a clock.",
    "IEC 61951-1/-2, 0.1 C with a charger's tolerance",
)
LEAST_CHARGE_SHARE = Limit(0.01, "share", "Less than this of the rated charge is not worth clipping on for.", "house")
BLEED_W = Limit(
    5.0,
    "W",
    "What a resistor that a group is let down over may give off where a hand holds to it.",
    "a resistor on a bench clip",
)
THERE_V = Limit(0.006, "V", "A group so near its target is there.", "house, half of what groups may end apart")
HOT_C = Limit(45.0, "°C", "A pack that was so warm in use was hot.", "domain table, no charge above")
CHARGER_OVER_V = Limit(
    0.05, "V", "A charger that ends so far above full a group overcharges.", "chargers' usual tolerance, 1 %"
)
CLIP_V = Limit(0.08, "V", "A clip's reading and the group's rest lie no further apart.", "house")
ALIKE_SHARE = Limit(0.1, "share", "Currents that differ by less are one.", "house")
AT_TARGET_REST_V = Limit(
    0.002, "V", "A group that rests so near below its target needs no charge.", "common hand meters, two digits"
)
READ_ALIKE_V = Limit(
    0.01, "V", "A group that rests so near its target is left alone unless another lies further off.", "house"
)
ROUNDED_SHARE = Limit(0.01, "share", "A current as typed may be rounded by this.", "house")
