"""What the drawer's used cells mend: which packs that wait, and from which donor."""

from collections.abc import Mapping, Sequence

from saldatura.battery.limits.joining import DONOR_SHARE
from saldatura.battery.plan.case import PlanCase
from saldatura.battery.quantities import Value
from saldatura.job.assessment.planning import fitting
from saldatura.job.assessment.words import mends as words
from saldatura.job.facts import JobFacts
from saldatura.shop.cells.drawer import CellNow, Drawer
from saldatura.shop.cells.grading import Graded


class Mended(Value):
    """A pack that waits, and which of its groups the cells would fill."""

    job: int
    pack_name: str
    says: str


class DonorMends(Value):
    """Used cells from one donor, and the packs that they mend, one after another until they are used up."""

    donor: str
    jobs: list[Mended]


class Mends(Value):
    """What the drawer's used cells mend, the donor that mends most first; `unread`: jobs of which it cannot be told; `pending`: how many
    packs are not judged yet, for which it is asked again.
    """

    donors: list[DonorMends]
    unread: list[str] = []
    pending: int = 0


def may_mend(facts: JobFacts, case: PlanCase, size: str, drawer: Drawer, grades: Mapping[int, Graded]) -> bool:
    """Whether the drawer has used cells for a single group of a job's pack at all: of its kind, from a donor, and enough of them."""
    fit = [
        c
        for c in fitting(case, size, drawer, grades, facts.id, facts.simulated)
        if c.took.origin != "new" and c.standing == "drawer" and c.took.donor
    ]
    return len(fit) >= case.pack.parallel


def mends_of(waiting: Sequence[tuple[JobFacts, PlanCase, str]], drawer: Drawer, grades: Mapping[int, Graded]) -> Mends:
    """Which packs each donor mends. The smallest want is met first, so that a donor mends as many packs as it can."""
    donors: dict[str, list[CellNow]] = {}
    for cell in drawer.cells.values():
        if cell.took.origin != "new" and cell.standing == "drawer" and cell.took.donor:
            donors.setdefault(cell.took.donor, []).append(cell)
    found = []
    for donor, cells in donors.items():
        left = list(cells)
        jobs = []
        for facts, case, size in sorted(waiting, key=lambda w: len(w[1].to_go) * w[1].pack.parallel):
            wanted = len(case.to_go) * case.pack.parallel
            here = {cell.id for cell in left}
            sound = [g.capacity_ah for g in case.groups if g.number not in case.to_go]
            least = DONOR_SHARE * min(sound, default=case.least_ah) / case.pack.parallel
            fit = [
                c
                for c in fitting(case, size, drawer, grades, facts.id, facts.simulated)
                if c.id in here and (c.last("capacity_ah") or 0.0) >= least
            ]
            if not wanted or len(fit) < wanted:
                continue
            # The least of those that do, so that the better ones are left for more.
            fit.sort(key=lambda c: c.last("capacity_ah") or 0.0)
            taken = {c.id for c in fit[:wanted]}
            left = [c for c in left if c.id not in taken]
            said = words.cell_for(wanted, case.to_go)
            jobs.append(Mended(job=facts.id, pack_name=facts.intake.pack_name, says=said))
        if jobs:
            found.append(DonorMends(donor=donor, jobs=jobs))
    return Mends(donors=sorted(found, key=lambda d: (-len(d.jobs), d.donor)))
