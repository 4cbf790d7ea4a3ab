"""What `network` says."""

from saldatura.battery.limits.joining import LASTS_K, LOSS_SHARE, PEAK_K
from saldatura.battery.limits.policy import DEFAULT_POLICY
from saldatura.battery.limits.running import HOTTEST_C
from saldatura.battery.quantities import volts_words
from saldatura.battery.wording import agree, degrees, figure, percent, significant, volts_small

MUCH_CURRENT_IN_SUCH = (
    "so much current in such strips is no number; check current, sections and cells for a slip of the decimal"
)
RESISTANCES_TOO_FAR_APART = (
    "resistances too far apart to be solved together; check lengths, sections and cells for a slip of the decimal"
)


def reads_it_stands_wrong(cell: str, volts: float) -> str:
    return f" {cell} reads {volts_words(volts)}: it stands the wrong way round, or is reversed."


def do_not_join(cell: str, other_cell: str, apart: float, amps: float, turned: str) -> str:
    return f"Do not join: {cell} and {other_cell} would lie side by side {volts_small(apart)} apart ({volts_small(DEFAULT_POLICY.together_v)} allowed), and some {significant(amps, 2)} A would flow between them.{turned}"


def current_wrong_way_turned(name: list[str], names: list[str]) -> str:
    return f"{', '.join(name)} {agree(len(names), 'takes', 'take')} the current the wrong way: turned round in the string. Turn {agree(len(names), 'it', 'them')} before anything is joined."


def take_offs_are_exchanged(open_v: float) -> str:
    return f"The take-offs are exchanged: plus would read {volts_words(open_v)} against minus. Exchange the leads."


def cells_would(hottest: float) -> str:
    return f"The cells would be at {degrees(hottest)}, {degrees(HOTTEST_C)} allowed."


def strips_would_lose(loss: float) -> str:
    return f"Strips would lose {percent(loss, 1)} of the power, {percent(LOSS_SHARE)} allowed."


def there_is_no_node(name: float) -> str:
    return f"there is no node {name}; name one that a segment ends at"


def no_strip_reaches_join(loose: list[str]) -> str:
    return f"no strip reaches {', '.join(loose)}; join every pole"


def strips_alone_lead(shorted: str) -> str:
    return f"strips alone lead from {shorted}+ to {shorted}-: the cell is shorted; take the piece out that joins them"


def network_is_in_pieces(pieces: int, part: list[str]) -> str:
    return f"the network is in {pieces} pieces: {', '.join(part)} are not joined to the take-off"


def would_be_warmer_than(segment: str, over: float, too: str) -> str:
    return f"{segment} would be {figure(float(over), 1)} K warmer than its cells, {figure(LASTS_K, 0)} K allowed{too}"


def peak_would_be_warmer(segment: str, peak: float, too: str) -> str:
    return f" At the peak {segment} would be {figure(float(peak), 1)} K warmer, {figure(PEAK_K, 0)} K allowed{too}"
