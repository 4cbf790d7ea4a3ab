"""Building: cells that go together, strips, joints and welds."""

from saldatura.battery.limits.limit import Limit

TOGETHER_V = Limit(
    0.02,
    "V",
    "Cells of one group that rest further apart are brought to one voltage before they are joined.",
    "house, what flows is the difference over two resistances",
)
TOGETHER_STRINGS_V = Limit(
    0.05,
    "V",
    "Strings that rest further apart are not joined side by side: the higher one would pour into the other.",
    "domain, strings in parallel",
)
SUMS_AGREE_V = Limit(
    0.03,
    "V",
    "So much a group, two sums of groups and the meter between them may differ.",
    "house, a meter of two digits on both",
)
UNRATED_C = Limit(
    15.0, "C", "Without a data sheet no cell is driven harder than this.", "usual data sheets of power cells"
)
MOST_RATIO = Limit(
    2.0,
    "times",
    "Resistances further apart do not go into one pack.",
    "house, of two side by side the better carries two thirds",
)
LASTS_K = Limit(
    20.0, "K", "A strip may be so much warmer than its cells where the load lasts.", "domain, policy of interconnects"
)
PEAK_K = Limit(40.0, "K", "A strip may be so much warmer than its cells at a peak.", "domain, policy of interconnects")
LOSS_SHARE = Limit(0.03, "share", "Strips may lose so much of the pack's power.", "domain, policy of interconnects")
AGAINST_W = Limit(0.001, "W", "A cell that takes up so much while the block discharges stands against it.", "house")
WIRES_MM = Limit(2.0, "mm", "What a bundle of sense wires needs beside or on the block.", "house")
COVERS_MM = Limit(1.0, "mm", "Insulating paper on either face, and what solder or a tab stands above a strip.", "house")
WELD_HOLDS = Limit(0.95, "share", "Both edges of a window leave at least this.", "domain, welding")
WELD_SURE = Limit(0.7, "share", "So sure that a setting holds before it is recommended.", "bench of welders")
WELD_DONE = Limit(0.9, "share", "So sure that nothing more is asked.", "bench of welders")
WELD_MAY_BURN = Limit(0.015, "share", "No setting is named that may burn a cell oftener.", "bench of welders")
IN_ITS_PLACE_V = Limit(0.3, "V", "A cell that reads less in its place is no cell, or not reached.", "house")
LEAST_IRON_W = Limit(80.0, "W", "A weaker iron takes longer than two seconds a joint.", "domain, soldered cells")
DONOR_SHARE = Limit(0.85, "share", "Donor cells that hold less beside the groups they join are no help.", "house")
SAME_SIZE_MM = Limit(0.2, "mm", "A diameter so near a usual cell's is that cell's.", "house")
SUB_C_FROM_AH = Limit(
    1.0, "Ah", "A nickel pack whose cells hold so much is built of sub-C; smaller ones of AA.", "house"
)
BESIDE = Limit(1.3, "times", "Cells whose middles lie nearer than so many diameters stand beside each other.", "house")
FAR_PITCHES = Limit(2.2, "times", "A strip that reaches further from cell to cell is looked at twice.", "house")
ONE_SIZE = Limit(1.02, "times", "Strips that differ by less are one strip.", "house")
NEXT_PITCHES = Limit(1.5, "times", "A link that reaches further than so many pitches joins no neighbours.", "house")
WORTH_TAKING = Limit(0.005, "share", "More cells that gain less of the smallest group are not asked for.", "house")
SCHOOL_LOW_A = Limit(
    5.0, "A", "Current of a strip of 8 × 0.15 mm nickel that the careful allow.", "a common school among repairers"
)
SCHOOL_HIGH_A = Limit(
    10.0, "A", "Current of a strip of 8 × 0.15 mm nickel that the bold allow.", "a common school among repairers"
)
TRIAL_V = Limit(
    0.06,
    "V",
    "At rest after a trial charge a pack may stand so far from full, for each group.",
    "house, the fall of the first hour",
)
MORNING_V = Limit(
    0.08,
    "V",
    "The next morning it may have fallen so far, for each group.",
    "house, the trial's and a night's own loss",
)
JOINT_S = Limit(2.0, "s", "The iron stays on a joint no longer.", "domain, soldered cells")
SOLDERS_C = Limit(220.0, "°C", "Solder wets what is so warm.", "usual solders, melting from 183 to 217 °C")
TIP_C = Limit(380.0, "°C", "What the iron is set to.", "house, for leaded and lead-free solder on tabs")
SMALL_TIP_W_K = Limit(0.08, "W/K", "What a pointed tip passes into a tab.", "house, shank and contact about 12 K/W")
BIG_TIP_W_K = Limit(0.3, "W/K", "What a broad chisel passes into a tab.", "house, shank and contact about 3 K/W")
WETS_S = Limit(0.5, "s", "Solder takes so long to wet and flow once the joint is warm.", "house")
CELL_END_W_K = Limit(0.1, "W/K", "What a tab's weld passes into its cell.", "house, four spots into a can of 0.3 mm")
PAUSE_TO_K = Limit(10.0, "K", "The next joint on a cell waits until the last one's warmth has fallen to this.", "house")
THICK_MM = Limit(0.25, "mm", "Nickel so thick is welded by few machines in one layer.", "house, usual pedal welders")
THICK_COPPER_MM = Limit(0.2, "mm", "Copper so thick is not welded as it is.", "house, usual pedal welders")
ROOM_C = Limit(22.0, "°C", "What a joint begins at and cools to.", "house, a heated room")
TRIED_S = Limit(12.0, "s", "An iron that has not brought a joint to melt by then never does.", "house")
PAUSED_S = Limit(120.0, "s", "No pause between joints is reckoned longer.", "house")
