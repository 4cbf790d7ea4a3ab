"""What a pack's own chip may say before it contradicts itself, a meter, its label or its age."""

from saldatura.battery.limits.limit import Limit

CELLS_SUM_V = Limit(
    0.06, "V", "Cells and pack are measured at different times by one converter.", "gauges' data sheets"
)
CELLS_SUM_SHARE = Limit(0.01, "share", "Or this share of the pack's volts.", "gauges' data sheets")
SOC_SHARE = Limit(
    0.06, "share", "Remaining over full is rounded to a percent, and smoothed while it is shown.", "house"
)
REMAINING_OVER_FULL = Limit(1.03, "times", "More left than fits is no rounding.", "house")
FULL_OVER_DESIGN = Limit(1.25, "times", "New cells hold a few percent over their label, not a quarter.", "data sheets")
METER_V = Limit(0.04, "V", "A cell by the chip and by a meter agree within this.", "gauges' data sheets: 10 to 20 mV")
METER_SHARE = Limit(0.012, "share", "A pack by the chip and by a meter agree within this share.", "gauges' data sheets")
FLOWS_A = Limit(0.05, "A", "A current that no board's own draw explains.", "boards draw a few mA")
FULL_SHARE = Limit(
    0.9, "share", "Flagged full with less is not full.", "specification: set at full, cleared below 80 to 95 %"
)
EMPTY_SHARE = Limit(0.2, "share", "Flagged empty with more is not empty.", "specification: cleared above 20 %")
LABEL_SHARE = Limit(0.1, "share", "Design and label agree within this.", "labels round down")
OCV_SHARE = Limit(0.25, "share", "Charge by the chip and by rest volts differ by less on a sound gauge.", "gauges' data sheets")  # fmt: skip
DATE_YEARS = Limit(2.5, "years", "A pack lies in shops for a year or two.", "house")
FEW_CYCLES, OLD_YEARS = (
    Limit(5, "cycles", "Fewer are no use.", "house"),
    Limit(3, "years", "Of a pack this old.", "house"),
)
COLDEST_C, HOTTEST_C = Limit(-45, "°C", "Colder is an open sensor.", "thermistors"), Limit(125, "°C", "Hotter is a shorted one.", "thermistors")  # fmt: skip
MOST_CELL_V = Limit(5.0, "V", "No cell has more.", "chemistries")
MOST_GROUP_V = Limit(4.5, "V", "A group has no more, so a pack above so many times four has groups that the chip does not tell.", "chemistries")  # fmt: skip
STOPPED_SHARE = Limit(0.3, "share", "Ordered to stop discharging with more left.", "house")
READ_WITHIN_H = Limit(24.0, "h", "Groups at rest read within a day of the chip are compared with it.", "self-discharge is millivolts")  # fmt: skip
GIVES_SHARE = Limit(0.1, "share", "Terminals that show less of the string give nothing.", "boards leak microamps")
GAUGE_SHARE = Limit(0.1, "share", "A gauge that is further from the measured capacity should learn anew.", "gauges' data sheets: 1 to 5 %")  # fmt: skip
WATCH_A, WATCH_SHARE = Limit(0.15, "A", "Chip and instrument read at different moments.", "house"), Limit(0.1, "share", "Or this share of it.", "gauges' data sheets")  # fmt: skip
WATCH_V = Limit(0.15, "V", "Terminals and string are compared beyond this.", "house")
POWER_V = Limit(5.6, "V", "No data wire idles higher.", "System Management Bus Specification 1.1: 5.5 V at the most")
DATA_IDLE_V = Limit(2.1, "V", "From here a wire that nobody pulls counts as high.", "System Management Bus Specification 1.1, 3.1.3")  # fmt: skip
DATA_HIGH_V = Limit(
    2.8, "V", "Pulled by 10 kΩ to 3.3 V, a wire that nothing holds comes so far up.", "leakage under 50 µA"
)
HELD_LOW_V = Limit(0.25, "V", "And one that is held stays so low.", "System Management Bus Specification 1.1: 0.4 V")
