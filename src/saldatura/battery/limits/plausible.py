"""What is asked about, because nothing measured reads so."""

from saldatura.battery.limits.limit import Limit

RESISTANCE_APART = Limit(
    25.0, "times", "So far from what a group of its size usually has, a resistance is asked about.", "house"
)
MOST_OF_RATED = Limit(1.5, "times", "More than so many times what a pack is rated for comes out of none.", "house")
MOST_SOH = Limit(1.2, "times", "More than this of the rating is a slip of the unit.", "house")
KILO_OHM_K = Limit(25.0, "K", "A value in kΩ typed as ohms would lie this near the air's temperature.", "house")
HOTTEST_SENSOR_C = Limit(150.0, "°C", "Nothing measured on a bench is hotter.", "house")
MOST_GROUP_V = Limit(10.0, "V", "Beyond this a voltage is not one group's.", "house")
LONGEST_CHARGE_S = Limit(60 * 86400.0, "s", "A charge that takes longer is a slip of the current.", "house, 60 days")
MOST_CELL_AH = Limit(40.0, "Ah", "No cell of a small pack holds more.", "house")
LEAST_CELL_AH = Limit(0.05, "Ah", "No cell of a small pack holds less.", "house")
HAND_HELD_C = Limit(8.0, "C", "No hand-held pack is loaded harder, unless its device is known to draw it.", "house")
REVERSED_BAND_V = Limit(0.5, "V", "A group is asked about from so far below zero.", "house")
BEYOND_ANY = Limit(1e7, "in its unit", "No instrument of a bench writes a larger number.", "house")
OTHER_SIZE = Limit(0.05, "share", "A capacity that changes by more than this is another size of pack.", "house")
COUNTS_OVER = Limit(
    1.1, "times", "A counter may count so many times what current and time give.", "displays' usual error"
)
COUNTS_OVER_AH = Limit(0.02, "Ah", "And so much beside.", "displays' usual digits")
OXIDE_WH_KG = Limit(175.0, "Wh/kg", "What round cells of oxide hold.", "usual data sheets of 18650 and 21700")
POUCH_WH_KG = Limit(160.0, "Wh/kg", "What pouches for drones hold.", "usual data sheets")
PHOSPHATE_WH_KG = Limit(115.0, "Wh/kg", "What iron phosphate cells hold.", "usual data sheets of 26650")
NIMH_WH_KG = Limit(60.0, "Wh/kg", "What nickel metal hydride cells hold.", "usual data sheets of sub-C and AA")
NICD_WH_KG = Limit(45.0, "Wh/kg", "What nickel cadmium cells hold.", "usual data sheets of sub-C")
