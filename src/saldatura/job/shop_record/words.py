"""What this package says: sentences with what goes into them, each named by its first words."""

from collections.abc import Mapping

from saldatura.battery.wording import agree, counted, figure

STEPS: Mapping[str, str] = {
    "screen": "Taking in", "read": "Probing", "judge": "Judging", "plan": "Planning and asking", "repair": "Repair", "read_new": "Reading new cells",
    "charge": "Putting on charge", "end_charge": "Ending charges", "look": "Looking at charges", "prove": "Proving at rest", "load": "Load runs",
    "test": "Capacity tests", "watch": "Watching self-discharge", "hand_over": "Handing over", "close": "Closing",
}  # fmt: skip
HANDS = "Another pair of hands"
NOTHING_LATE = "Nothing was late: one more of anything would only have stood by."
NONE_SIGNED = "No job was signed in that time."


def margin(labour_told: bool, priced: int) -> str:
    if not priced:
        return "No price was agreed on any of these jobs, so nothing is said of a margin."
    if not labour_told:
        return "Enter what an hour of work costs under Prices in Plan; then the margin is told."
    return f"Price less parts and labour, over {counted(priced, 'job')} with a price agreed."


def promises(made: int, kept: int, mean_late_h: float | None) -> str:
    if not made:
        return "No promise was made on a job that is signed."
    if kept == made:
        return f"{'The promise was' if made == 1 else f'All {made} promises were'} kept."
    late = made - kept
    return f"{kept} of {counted(made, 'promise')} {agree(kept, 'was', 'were')} kept; the {agree(late, 'other was', f'other {late} were')} {figure(mean_late_h, 0)} h late on average."


def one_more(name: str) -> str:
    return f"One more like {name}"


def saved(what: str, late_h: float, sooner_h: float) -> str:
    if late_h < 0.5:
        return f"{what} would have saved no hour of lateness."
    return f"{what} would have saved {figure(late_h, 0)} h of lateness, and {figure(sooner_h, 0)} h of waiting over all jobs."


def pays_back(weeks: float) -> str:
    return f"Pays back in {counted(round(weeks) if weeks >= 10 else round(weeks, 1), 'week')}."
