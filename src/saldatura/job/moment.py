"""What an act finds when it is recorded."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Any

from saldatura.battery.judge.types import CauseName
from saldatura.battery.level.types import Channel
from saldatura.battery.plan.types import Repair
from saldatura.job.facts import JobFacts
from saldatura.shop.cells.drawer import Drawer
from saldatura.shop.coupons import CouponFact, Recipe
from saldatura.shop.moment import ShopMoment
from saldatura.shop.patterns.facts import Revised
from saldatura.shop.reference import ReferencePart


@dataclass(frozen=True, kw_only=True)
class Moment(ShopMoment):
    """What an act on a job finds beside. `repeat_v`: how far the shop's repeated readings lie apart, V. `confirmed`: how often the
    shop confirmed each cause on other jobs than one. `offered`: what a job's plan says of an option. `last_coupon`: the last coupon
    of a recipe. `channels`: what the shop charges with. `drawer`: every cell as it stands. `references`: the shop's reference
    parts. `jumped`: when this machine's clock last jumped. `distrusted`: which tries of a job rest on a part found at fault since.
    `of_model`: on how many packs of a job's pattern each cause was seen. `pattern`: a pattern of the shop as it stands, by its number. `papers`: what the papers of a job that is signed so are made from.
    """

    repeat_v: Callable[[], float | None] = lambda: None
    confirmed: Callable[[int], Mapping[CauseName, int]] = lambda _job: {}
    offered: Callable[[int, str], Repair | None] = lambda _job, _option: None
    last_coupon: Callable[[Recipe], CouponFact | None] = lambda _recipe: None
    channels: Sequence[Channel] = ()
    drawer: Callable[[], Drawer] = Drawer
    references: Callable[[], Sequence[ReferencePart]] = tuple
    jumped: Callable[[], datetime | None] = lambda: None
    distrusted: Callable[[JobFacts], Mapping[int, str]] = lambda _facts: {}
    of_model: Callable[[JobFacts], Mapping[CauseName, float]] = lambda _facts: {}
    pattern: Callable[[int], Revised | None] = lambda _number: None
    papers: Callable[[JobFacts], Mapping[str, Any]] = lambda _facts: {}
