"""Acts on the drawer of cells: each passes its gate and is kept in one transaction; the cells of a job move with the job's facts."""

import sqlite3
from collections.abc import Callable, Iterable, Mapping, Sequence
from datetime import datetime

from saldatura.battery.errors import Impossible
from saldatura.battery.limits.policy import Policy
from saldatura.battery.logs.columns import LogRole
from saldatura.formats import cell_tests, type_table
from saldatura.formats.cell_tests import BadRow, Found, Role
from saldatura.formats.table import Table, read_table
from saldatura.job.assessment.groups import groups_now
from saldatura.job.assessment.sets import assess_set
from saldatura.job.facts import HarvestedFact, JobFacts, NewLeftOut
from saldatura.job.facts.base import change_of
from saldatura.job.facts.fitted import FittedGroup
from saldatura.ledger.fact import Fact, TakenBackFact
from saldatura.records import cells as records
from saldatura.records.database import Database
from saldatura.shop.cells import gates
from saldatura.shop.cells.drawer import CellNow, Drawer
from saldatura.shop.cells.grading import Grades
from saldatura.shop.cells.stand_in import stand_in_test
from saldatura.shop.cells.types import (
    CellMoved,
    CellTest,
    CellTested,
    CellTook,
    CellType,
    ColumnsKept,
    Move,
    NewLot,
    Standing,
    TypeEntered,
    WrongTest,
    WrongTestFact,
)

# For a log of a cell whose type nobody knows.
UNKNOWN_AH = 2.0


class CellBench:
    """The drawer of one data file. Whoever is called by `tell` learns that something in it changed."""

    def __init__(
        self, db: Database, now: Callable[[], datetime], policy: Callable[[], Policy], tell: Callable[[], None]
    ) -> None:
        self.db = db
        self._now = now
        self._policy = policy
        self._told = tell
        self._graded: Grades | None = None

    def _tell(self) -> None:
        # Read on now, and not by every act until somebody looks: inside a transaction nothing is kept of what is read.
        self.drawer()
        self._told()

    # --- what is seen

    def drawer(self) -> Drawer:
        """Every cell as it stands."""
        return self.db.cells.drawer(self.db.read())

    def grades(self, drawer: Drawer | None = None) -> Grades:
        """Every cell's grade by the policy that holds; graded anew only when a cell or the policy changed."""
        shelf, policy = drawer or self.drawer(), self._policy()
        held = self._graded
        if held is None or held.drawer.last_id != shelf.last_id or held.policy != policy:
            held = self._graded = Grades(shelf, policy, held)
        return held

    def cell(self, name: str) -> tuple[CellNow, list[Fact]]:
        """A cell with everything told of it. Raises Impossible."""
        cell = gates.found(self.drawer(), [name])[0]
        return cell, records.history(self.db.read(), cell.id)

    # --- acts

    def enter_types(self, types: Sequence[CellType]) -> None:
        """Enter types; the last said under a name holds."""
        with self.db.write() as db:
            for cell_type in types:
                records.add(db, TypeEntered(**dict(cell_type), at=self._now()))
        self._tell()

    def enter(self, lot: NewLot) -> list[str]:
        """Cells that came in; their names. Raises Impossible for a type or a donor that is not there, or a name that is."""
        with self.db.write() as db:
            names = self._enter(db, lot)
        self._tell()
        return names

    def test(self, name: str, test: CellTest) -> None:
        """Record a test of a cell. Raises Impossible."""
        with self.db.write() as db:
            cell = gates.found(self.db.cells.drawer(db), [name])[0]
            records.add(db, CellTested(**dict(test), at=self._now()), cell.id)
        self._tell()

    def stand_in(self, name: str) -> None:
        """Put a cell through the stand-in tester; its test is marked as simulated. Raises Impossible."""
        drawer = self.drawer()
        cell = gates.found(drawer, [name])[0]
        self.test(name, stand_in_test(_type_there(drawer, cell.took.type), cell.name, cell.took.origin != "new"))

    def take_back(self, name: str, back: WrongTest) -> None:
        """Take a test back that was wrong. Raises Impossible."""
        with self.db.write() as db:
            cell = gates.found(self.db.cells.drawer(db), [name])[0]
            if all(t.id != back.test for t in cell.tests):
                raise Impossible("test", "no_such_test", f"cell {cell.name} has no test {back.test} that stands")
            records.add(db, WrongTestFact(**dict(back), at=self._now()), cell.id)
        self._tell()

    def move(self, names: Sequence[str], new: Move) -> None:
        """Cells to another place. Built in they are by what is recorded of the job. Raises Impossible, Refused."""
        if new.to == "built":
            raise Impossible(
                "to", "built_in_elsewhere", "record the new cells of a group in the job: that builds them in"
            )
        with self.db.write() as db:
            self._move(db, names, new)
        self._tell()

    def set_aside(self, job: JobFacts, groups: Mapping[int, Sequence[str]], by: str) -> None:
        """Cells put by for a job, by group; those put by before that are not among them go back. Raises Impossible, Refused."""
        pack = job.intake.pack
        with self.db.write() as db:
            drawer = self.db.cells.drawer(db)
            wanted = [name for cells in groups.values() for name in cells]
            cells = gates.found(drawer, wanted)
            beyond = next((g for g in groups if not 1 <= g <= pack.series), None)
            if beyond is not None:
                raise Impossible("groups", "no_such_group", f"group {beyond} does not exist: {pack.series} in series")
            back = [c for c in drawer.cells.values() if c.standing == "held" and c.job == job.id and c not in cells]
            records.move(db, back, CellMoved(to="drawer", by=by, at=self._now()))
            for group, names in groups.items():
                mine = gates.found(drawer, list(names))
                gates.of_pack(pack, drawer, mine)
                gates.real_only(mine, job.simulated)
                self._move(db, names, Move(to="held", job=job.id, group=group, by=by))
        self._tell()

    # --- files

    def look(self, text: str) -> tuple[Table, dict[Role, int], bool]:
        """A file's table, which column is what, and whether that was remembered. Raises Impossible."""
        table = _table(text)
        kept = self.drawer().columns.get(table.layout.signature)
        if kept is not None:
            return table, {role: at for role, at in kept.columns.items() if role in cell_tests.ROLES}, True
        return table, cell_tests.guessed(table), False

    def remember(self, signature: str, columns: Mapping[LogRole, int]) -> None:
        """Keep which column of a log with that header is what, where it is not known so already."""
        held = self.drawer().columns.get(signature)
        if held is None or dict(held.columns) != dict(columns):
            with self.db.write() as db:
                records.add(db, ColumnsKept(header=signature, columns={**columns}, at=self._now()))

    def bring_in(
        self, text: str, columns: Mapping[Role, int], names: Mapping[str, str], by: str, new: NewLot | None
    ) -> Found:
        """The tests of a file, kept in as far as they are good; `names` says which cell a channel is, `new` enters cells that are
        not there as its like. The columns are remembered for the next file with this header. Raises Impossible."""
        table = read_table(text, cell_tests.is_log(columns))
        drawer = self.drawer()

        def ends(channel: str) -> tuple[float, float | None]:
            cell = drawer.cell_named(names.get(channel, channel))
            cell_type = drawer.types.get(cell.took.type if cell else new.type if new else "")
            return (cell_type.rated_ah, None) if cell_type is not None else (UNKNOWN_AH, None)

        found = cell_tests.results_of(table, columns, ends, by)
        kept: list[tuple[int, str, CellTest]] = []
        with self.db.write() as db:
            drawer, at = self.db.cells.drawer(db), self._now()
            entered: dict[str, int] = {}
            came = None
            if new is not None:
                _type_there(drawer, new.type)
                came = CellTook(**{k: v for k, v in dict(new).items() if k not in ("name", "count", "first")}, at=at)
            for row, channel, test in found.tests:
                name = names.get(channel, channel).strip()
                cell = drawer.cell_named(name)
                number = cell.id if cell is not None else entered.get(name.casefold())
                if number is None and came is not None and 0 < len(name) <= 40:
                    number = entered[name.casefold()] = records.enter(db, name, came)
                if number is None:
                    found.bad.append(
                        BadRow(
                            row,
                            f"there is no cell {name[:40] or 'named'}; enter it first, or let the file enter its cells",
                        )
                    )
                    continue
                # Its values were looked at as the file was read.
                records.add(db, CellTested.model_construct(**dict(test), at=at), number)
                kept.append((row, name, test))
            signature = table.layout.signature
            mapping = dict(columns)
            if signature not in drawer.columns or dict(drawer.columns[signature].columns) != mapping:
                records.add(db, ColumnsKept(header=signature, columns={**mapping}, at=at))
        found.tests = kept
        found.bad.sort(key=lambda bad: bad.row)
        self._tell()
        return found

    def bring_in_types(self, text: str) -> tuple[int, list[BadRow]]:
        """The types of a file, kept in as far as they are good. Raises Impossible for what is no table."""
        found, bad = type_table.read_types(read_table(text))
        if found:
            self.enter_types(found)
        return len(found), bad

    # --- with a job's facts, inside its transaction

    def follow(self, db: sqlite3.Connection, job: JobFacts, new: Iterable[Fact], policy: Policy) -> None:
        """Move the cells that new facts tell of a job as it was before them. Raises Impossible, Refused: then neither is kept."""
        for fact in new:
            change = change_of(fact)
            fitted, left = change.fitted, change.left_out
            for put in fitted:
                self._put_in(db, job, put, str(getattr(fact, "by", None) or "the bench"), policy)
            if left is not None:
                self._renumber(db, job, left.group, -1, left)
            elif isinstance(fact, HarvestedFact):
                self._harvest(db, job, fact, policy)
            elif isinstance(fact, TakenBackFact):
                self._undo(db, job, fact)

    def _put_in(self, db: sqlite3.Connection, job: JobFacts, put: FittedGroup, by: str, policy: Policy) -> None:
        """Cells into their group; those of the drawer that stood there before are out of it."""
        names = [cell.cell for cell in put.cells if cell.cell]
        drawer = self.db.cells.drawer(db)
        out = [
            c for c in _of_job(drawer, job.id) if c.standing == "built" and c.group == put.group and c.name not in names
        ]
        records.move(
            db, out, CellMoved(to="drawer", by=by, reason=f"taken out of job {job.id:04d} again", at=self._now())
        )
        if names:
            cells = gates.found(drawer, names)
            gates.into_group(job.intake.pack, drawer, cells, policy, job.simulated)
            self._move(db, names, Move(to="built", job=job.id, group=put.group, by=by), policy)

    def _renumber(self, db: sqlite3.Connection, job: JobFacts, group: int, by: int, left: NewLeftOut | None) -> None:
        """Cells of a job whose groups are numbered anew above one that was left out, or put back; those of that group go where it went."""
        at, drawer = self._now(), self.db.cells.drawer(db)
        for cell in _of_job(drawer, job.id):
            if left is not None and cell.group == group:
                to: Standing = "scrap" if left.where == "to waste" and cell.standing == "built" else "drawer"
                said = f"group {group} of job {job.id:04d} was left out: {left.because}"[:400]
                records.move(db, [cell], CellMoved(to=to, job=job.id, group=group, by=left.by, reason=said, at=at))
            elif cell.group is not None and (cell.group > group or (left is None and cell.group == group)):
                records.move(db, [cell], CellMoved(to=cell.standing, job=job.id, group=cell.group + by, at=at))

    def _undo(self, db: sqlite3.Connection, job: JobFacts, back: TakenBackFact) -> None:
        undone = next((f for f in job.whole if f.id == back.fact), None)
        if undone is None:
            return
        change = change_of(undone)
        fitted, left = change.fitted, change.left_out
        drawer = self.db.cells.drawer(db)
        for put in fitted:
            cells = [c for cell in put.cells if (c := drawer.cell_named(cell.cell)) is not None and c.job == job.id and c.standing == "built"]  # fmt: skip
            moved = CellMoved(to="held", job=job.id, group=put.group, reason=back.reason, at=self._now())
            records.move(db, cells, moved)
        if left is not None:
            self._renumber(db, job, left.group, 1, None)
            seat = job.with_facts([back]).structure.seats[left.group - 1]
            names = [cell.cell for cell in seat.fitted or () if cell.cell]
            # Another shop's cell of that name is another cell.
            drawer = self.db.cells.drawer(db)
            again = [
                c
                for name in names
                if (c := drawer.cell_named(name)) is not None and (c.job, c.group) == (job.id, left.group)
            ]
            records.move(
                db, again, CellMoved(to="built", job=job.id, group=left.group, reason=back.reason, at=self._now())
            )

    def _harvest(self, db: sqlite3.Connection, job: JobFacts, fact: HarvestedFact, policy: Policy) -> None:
        """A group's cells into the drawer, each with its share of what was measured of the group."""
        drawer, pack = self.db.cells.drawer(db), job.intake.pack
        cell_type = _type_there(drawer, fact.type)
        gates.alike_type(pack, cell_type)
        now = {g.group: g for g in groups_now(job, assess_set(job, "probe", policy), policy)}
        names = iter(fact.cells)
        for group in fact.groups:
            known = now[group]
            for _ in range(pack.parallel):
                took = CellTook(
                    type=cell_type.name, origin="harvested", donor=job.intake.pack_name, donor_job=job.id, donor_group=group,
                    box=fact.box, row=fact.row, at=fact.at,
                )  # fmt: skip
                number = records.enter(db, next(names), took)
                test = CellTested(
                    simulated=job.simulated,
                    capacity_ah=known.capacity_ah.value / pack.parallel if known.capacity_ah else None,
                    dc_ohm=known.resistance_ohm.value * pack.parallel if known.resistance_ohm else None,
                    rest_v=known.volts,
                    by=f"as part of group {group}, shared evenly" if pack.parallel > 1 else f"as group {group}",
                    at=fact.at,
                )
                records.add(db, test, number)

    # --- inside

    def _enter(self, db: sqlite3.Connection, lot: NewLot) -> list[str]:
        _type_there(self.db.cells.drawer(db), lot.type)
        took = CellTook(**{k: v for k, v in dict(lot).items() if k not in ("name", "count", "first")}, at=self._now())
        names = lot.names()
        if len(names[-1]) > 40:
            raise Impossible("name", "name_too_long", "is too long with its number; at most 40 characters")
        for name in names:
            records.enter(db, name, took)
        return names

    def _move(self, db: sqlite3.Connection, names: Sequence[str], new: Move, policy: Policy | None = None) -> None:
        drawer = self.db.cells.drawer(db)
        cells = gates.found(drawer, names)
        grades = Grades(drawer, policy or self._policy(), self._graded)
        for cell in cells:
            gates.move(cell, grades, new)
        records.move(db, cells, CellMoved(**dict(new), at=self._now()))


def _of_job(drawer: Drawer, job: int) -> list[CellNow]:
    """Cells that are set aside for a job or built into it."""
    return [c for c in drawer.cells.values() if c.job == job and c.standing in ("held", "built")]


def _type_there(drawer: Drawer, name: str) -> TypeEntered:
    cell_type = drawer.types.get(name)
    if cell_type is None:
        says = f"there is no type {name[:60]} in the catalogue; enter it first, with its rated capacity"
        raise Impossible("type", "no_such_type", says)
    return cell_type


def _table(text: str) -> Table:
    """A file as a log where it is one, else with a row a cell."""
    log = read_table(text, of_values=True)
    return log if cell_tests.is_log(cell_tests.guessed(log)) else read_table(text)
