"""The lines at the head of a cut carried out by the server its source stands on: only what they leave comes here.

Lines that take no row of what came, and put it in the same order, run here once more: server and program must agree.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import field, replace
from typing import TYPE_CHECKING, Any

from yardcut.core.cutlist.model import Cut
from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine, day_of_now
from yardcut.core.run.explaining.report import HINT, LineReport, Report
from yardcut.core.session import Session
from yardcut.core.sources.elsewhere.copying_out import ServerColumn, columns_of
from yardcut.core.sources.elsewhere.postgresql_server import driver, reading_server
from yardcut.core.sources.elsewhere.postgresql_tables import Wanted, check_key, wanted_of
from yardcut.core.sources.elsewhere.standing import carries_out_cuts, let_be_read_anew
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import KeyLine, QueryLine, SourceSpec, SubLine, TableLine
from yardcut.core.sql.counts_there import OWN_NAME, SentLine, asked_for, exact_names, with_exact_numbers
from yardcut.core.sql.dialects import DIALECTS, quoted_name
from yardcut.core.sql.lines_there import LinesThere, are_numbers_needed, lines_there
from yardcut.core.sql.order_texts import SortedBy, ordered_by
from yardcut.core.sql.rows_there import NUMBER, RowsThere
from yardcut.core.table.stored_table import Table
from yardcut.core.unattended.columns_needed import columns_needed

if TYPE_CHECKING:
    from psycopg import Connection

_RAN_THERE = "ran on the server"


@dataclass(frozen=True, slots=True)
class There:
    """The table of what came, what each line did there by its place, and why no more of them ran there ("": all did).

    ``lines`` holds the lines up to the last that was sent, those too that took no row; ``off`` are the places of those
    that must not run here once more.
    """

    table: Table
    sent: tuple[int, ...] = ()
    lines: dict[int, SentLine] = field(default_factory=dict)
    off: frozenset[int] = frozenset()
    why_no_more: str = ""
    is_tally: bool = False
    all_columns: tuple[str, ...] = ()
    """All columns of the table there, each with its kind, where not all of them came."""

    def sentence(self) -> str:
        """Say which lines were sent, and what came."""
        said = f"; {self.why_no_more}" if self.why_no_more else ""
        columns = f"{len(self.table.columns):,} of {len(self.all_columns):,} columns" if self.all_columns else ""
        if not self.sent:
            return f"no line ran on the server{f', which sent {columns}' if columns else ''}{said}"
        there = self.lines[self.sent[0]].rows_in
        if self.is_tally:
            rows = "row" if self.table.rows == 1 else "rows"
            return (
                f"{_listed(self.sent)} ran on the server, which sent {self.table.rows:,} {rows} made of {there:,}{said}"
            )
        of_rows = f"{self.table.rows:,} of {there:,} rows"
        return f"{_listed(self.sent)} ran on the server, which sent {of_rows}{f', {columns}' if columns else ''}{said}"

    def corrected(self, told: Callable[[LineReport], None], cut: Cut) -> Callable[[LineReport], None]:
        """Return what tells of lines as they ran, those up to the last that was sent with what they did there.

        Raises ``SourceError`` where one of them takes a row here: server and program do not agree.
        """

        def tell(line: LineReport) -> None:
            place = line.number - 1
            there = self.lines.get(place)
            if there is not None:
                if place not in self.off and line.rows_in != line.rows_out:
                    raise SourceError(
                        f"line {line.number} takes {line.rows_in - line.rows_out:,} rows that the server let through",
                        mend=Mend("run it without --there"),
                    )
                if place in self.sent:
                    line.tell_groups(there.groups)
                line.off, line.text = line.off and place not in self.off, cut.lines[place].text
                line.rows_in, line.rows_out, line.taken_unknown = there.rows_in, there.rows_out, there.unknown
                # what was noted here is of the rows that came, and so are hints
                noted = [] if place in self.sent else [note for note in line.notes if not note.startswith(HINT)]
                line.notes[:] = [*noted, *there.notes, *([_RAN_THERE] if place in {*self.sent, *self.off} else [])]
            told(line)

        return tell


def _listed(places: Sequence[int]) -> str:
    """Name lines by their numbers.

    >>> _listed([0]), _listed([0, 1, 2]), _listed([0, 2])
    ('line 1', 'lines 1 to 3', 'lines 1 and 3')
    """
    numbers = [place + 1 for place in places]
    if len(numbers) == 1:
        return f"line {numbers[0]}"
    if numbers[-1] - numbers[0] == len(numbers) - 1:
        return f"lines {numbers[0]} to {numbers[-1]}"
    return f"lines {', '.join(map(str, numbers[:-1]))} and {numbers[-1]}"


def open_there(session: Session, cut: Cut, token: CancelToken, progress: Progress) -> There:
    """Open a server's table with no more of its rows than the lines at the head of a cut leave, or what they come to.

    Raises ``SourceError`` where the source stands on no server, ``StoppedError``.
    """
    spec = session.spec
    if not carries_out_cuts(spec):
        raise SourceError(f"{spec.label} stands on no server", mend=Mend("run it without --there"))
    if session.today is None:
        session.today = day_of_now()
    let_be_read_anew(spec)  # rows that this process fetched before are not those that are counted now
    if any(not isinstance(line, TableLine | QueryLine | KeyLine) for line in spec.lines):
        return There(open_table(spec, token, progress), why_no_more="lines below the source say how it is read here")
    try:
        with reading_server(spec.files[0], token) as connection:
            plan = _planned(session, cut, connection, token)
            if isinstance(plan, str):
                return There(open_table(spec, token, progress), why_no_more=plan)
            did, rows = _counted(connection, plan.done)
        table = open_table(replace(spec, lines=plan.asked), token, progress)
    except SourceError as error:
        if not isinstance(error.__cause__, _not_worked_out()):
            raise
        said = f"the server could not work it out: {str(error.__cause__).strip().splitlines()[0]}"
        return There(open_table(spec, token, progress), why_no_more=said)
    if table.rows != rows:  # the counts are of a moment before
        raise SourceError(f"{spec.label} changed while it was asked", mend=Mend("run it again"))
    done, lines = plan.done, _all_lines(plan.lines, plan.done, did)
    return There(table, done.sent, lines, done.off, done.why, done.rows.is_tally, plan.all_columns)


@dataclass(frozen=True, slots=True)
class _Plan:
    """What the server is to do of some lines, what is asked for then, and its columns where not all of them come."""

    lines: Sequence[BoundLine]
    done: LinesThere
    asked: tuple[SubLine, ...]
    all_columns: tuple[str, ...]


def _planned(session: Session, cut: Cut, connection: Connection[Any], token: CancelToken) -> _Plan | str:
    """Return what a server is to do of a cut, or why nothing. Raises ``SourceError`` and ``psycopg.Error``."""
    spec = session.spec
    address, path = spec.files[0], spec.paths()[0]
    found = wanted_of(address, path, spec, connection)
    columns = columns_of(connection, found[0].statement) if len(found) == 1 else []
    names = [column.name for column in columns]
    if len(set(names)) < len(names) or not names or any(name.startswith(OWN_NAME) for name in names):
        return "its tables are stacked here"
    wanted = found[0]
    session.use(outline := open_table(_outline(spec, wanted), token))
    lines = session.bound(cut)
    needed = columns_needed(lines, names, wanted.key)
    source = _source(wanted, columns, needed, is_numbered=are_numbers_needed(lines))
    done = lines_there(lines, source, lambda asked: connection.execute(asked.encode()).fetchall())
    if not done.sent and needed == names:
        return done.why
    check_key(connection, wanted, address)
    is_all = needed == names and not done.rows.is_tally
    every = () if is_all else tuple(f"{column.name} {column.kind}" for column in outline.columns)
    return _Plan(lines, done, _asked(done.rows, None if done.rows.is_tally else needed, wanted), every)


def _source(wanted: Wanted, columns: Sequence[ServerColumn], needed: Sequence[str], *, is_numbered: bool) -> RowsThere:
    """Return all rows of a table there, with the columns that are needed and what lines on a server go by."""
    exact = exact_names(columns)
    pairs = zip((column.name for column in columns), exact.values(), strict=True)
    taken = dict.fromkeys(each for name, own in pairs if name in needed for each in (name, own))
    code_points = DIALECTS["postgresql"].code_points
    texts = {column.name for column in columns if column.is_text}
    key = tuple(SortedBy(quoted_name(name) + (code_points if name in texts else "")) for name in wanted.key)
    is_numbered = is_numbered and bool(key)
    number = [f"ROW_NUMBER() OVER (ORDER BY {ordered_by(key)}) - 1 AS {quoted_name(NUMBER)}"] if is_numbered else []
    integers = {column.name for column in columns if column.is_integer}
    place = wanted.key[0] if len(key) == 1 and wanted.key[0] in integers else NUMBER if is_numbered else ""
    listed = ", ".join([*map(quoted_name, taken), *number])
    statement = f"SELECT {listed} FROM (\n{with_exact_numbers(wanted.unordered, columns)}\n) AS there"
    return RowsThere(statement, exact, key, key, place, is_numbered)


def _not_worked_out() -> tuple[type[Exception], ...]:
    """Return the errors of a server that is well and could not work something out, as here a value would be missing."""
    psycopg = driver()
    return psycopg.DataError, psycopg.ProgrammingError, psycopg.NotSupportedError


def _counted(connection: Connection[Any], done: LinesThere) -> tuple[dict[int, SentLine], int]:
    """Return what each line that was sent did, and how many rows are left. Raises ``psycopg.Error``."""
    rows, did = done.rows, dict[int, SentLine]()
    for counted in rows.counted:
        counts = asked_for(connection, rows.with_tables(counted.statement))
        did |= dict(zip(counted.places, counted.told(counts), strict=True))
    if not done.sent:
        return did, asked_for(connection, f"SELECT count(*) FROM (\n{rows.statement}\n) AS there")[0]
    return did, did[done.sent[-1]].rows_out


def _all_lines(lines: Sequence[BoundLine], done: LinesThere, did: dict[int, SentLine]) -> dict[int, SentLine]:
    """Return what each line did up to the last that was sent; one that took nothing passed on what reached it."""
    all_lines: dict[int, SentLine] = {}
    reached = did[done.sent[0]].rows_in if done.sent else 0
    for place in range(done.end):
        all_lines[place] = did.get(place, SentLine(reached, reached, 0))
        reached = all_lines[place].rows_out
    return all_lines


def _asked(rows: RowsThere, names: Sequence[str] | None, wanted: Wanted) -> tuple[SubLine, ...]:
    """Return the sub-lines that read what is left there, in the order it has to come in; ``None``: all columns."""
    listed = ", ".join(map(quoted_name, names if names is not None else rows.columns.values()))
    query = rows.with_tables(f"SELECT {listed} FROM (\n{rows.statement}\n) AS there")
    if rows.arranged:
        return (QueryLine(None, f"{query} ORDER BY {ordered_by(rows.arranged)}"),)
    # rows of a table whose key tells them apart are told apart by it
    return (
        (QueryLine(None, query), KeyLine(None, wanted.key, is_sure=True)) if wanted.key else (QueryLine(None, query),)
    )


def _outline(spec: SourceSpec, wanted: Wanted) -> SourceSpec:
    """Return the source without a row: its columns and their kinds."""
    return replace(spec, lines=(QueryLine(None, f"SELECT * FROM (\n{wanted.statement}\n) AS there LIMIT 0"),))


def correct_totals(report: Report, there: There) -> None:
    """Put into a report how many rows the source has where it stands, and which lines ran there."""
    if there.sent:
        report.rows = there.lines[there.sent[0]].rows_in
    if there.all_columns:
        report.columns = list(there.all_columns)
    report.notes.append(there.sentence())
