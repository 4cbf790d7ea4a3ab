"""Running a load: how warm, how long, what still serves."""

from saldatura.battery.limits.limit import Limit

HOTTEST_C = Limit(
    60.0,
    "°C",
    "No cell is run warmer, unless its data sheet says otherwise.",
    "usual data sheets, discharge",
)
GIVES = Limit(0.8, "share", "A current lasts where so much of what the weakest group holds still comes out.", "house")
USEFUL = Limit(
    0.7,
    "share",
    "Below this share of its label a pack is worn out, where its tool's need is not told.",
    "domain, end of usefulness",
)
GIVES_NOTHING = Limit(
    0.02, "share", "A string that gives less than this of its rating at the load gives nothing.", "house"
)
LEAST_YEARS = Limit(0.05, "years", "Fewer are no service.", "house")
MOST_OF_LOAD = Limit(1.25, "times", "A run is of no more than this times what the device draws.", "house")
UNKNOWN_DEVICE_C = Limit(3.0, "C", "A pack whose device is not known is run no harder.", "house")
FOUND_WITHIN = Limit(1.01, "times", "A current that a string bears is searched for this finely.", "house")
LONGEST_RUN_S = Limit(30 * 86400.0, "s", "No run is reckoned longer.", "house, 30 days")
