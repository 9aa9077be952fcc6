"""The conditions at the head of a cut, sent to the server its source stands on: only the rows they leave come here.

What is sent spares the way and no more: lines run here as ever, on what has come, and none may take a row then.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from yardcut.core.cutlist.model import Cut
from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.bound_lines import day_of_now
from yardcut.core.run.explaining.report import HINT, LineReport, Report
from yardcut.core.session import Session
from yardcut.core.sources.elsewhere.copying_out import columns_of
from yardcut.core.sources.elsewhere.postgresql_server import reading_server
from yardcut.core.sources.elsewhere.postgresql_tables import Wanted, wanted_of
from yardcut.core.sources.elsewhere.standing import is_on_a_server, let_be_read_anew
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import KeyLine, QueryLine, SourceSpec, SubLine, TableLine
from yardcut.core.sql.counts_there import (
    OWN_NAME,
    Condition,
    SentLine,
    conditions_of,
    counted_there,
    with_exact_numbers,
)
from yardcut.core.sql.dialects import quoted_name
from yardcut.core.table.table import Table
from yardcut.core.unattended.columns_needed import columns_needed


@dataclass(frozen=True, slots=True)
class There:
    """The table of what came, what each line that was sent did, and why no more of them were ("": all of them)."""

    table: Table
    sent: tuple[SentLine, ...]
    why_no_more: str = ""
    all_columns: tuple[str, ...] = ()
    """All columns of the table there, each with its kind, where only those that the lines look at came."""

    def sentence(self) -> str:
        """Say which lines were sent, and what came."""
        said = f"; {self.why_no_more}" if self.why_no_more else ""
        columns = f"{len(self.table.columns):,} of {len(self.all_columns):,} columns" if self.all_columns else ""
        if not self.sent:
            return f"no line ran on the server{f', which sent {columns}' if columns else ''}{said}"
        lines = "line 1" if len(self.sent) == 1 else f"lines 1 to {len(self.sent)}"
        of_rows = f"{self.table.rows:,} of {self.sent[0].rows_in:,} rows"
        return f"{lines} ran on the server, which sent {of_rows}{f', {columns}' if columns else ''}{said}"

    def corrected(self, told: Callable[[LineReport], None]) -> Callable[[LineReport], None]:
        """Return what tells of lines as they ran, those that were sent with what they did there.

        Raises ``SourceError`` where one of them takes a row here: server and program do not agree.
        """

        def tell(line: LineReport) -> None:
            if line.number <= len(self.sent) and not line.off:
                if line.rows_in != line.rows_out:
                    raise SourceError(
                        f"line {line.number} takes {line.rows_in - line.rows_out:,} rows that the server let through",
                        mend=Mend("run it without --there"),
                    )
                there = self.sent[line.number - 1]
                line.rows_in, line.rows_out, line.taken_unknown = there.rows_in, there.rows_out, there.unknown
                # a hint would speak of the rows that came, of which the line takes none any more
                line.notes[:] = [*(note for note in line.notes if not note.startswith(HINT)), "ran on the server"]
            told(line)

        return tell


def open_there(session: Session, cut: Cut, token: CancelToken, progress: Progress) -> There:
    """Open a server's table with no more of its rows than the conditions at the head of a cut leave.

    Raises ``SourceError`` where the source stands on no server, ``StoppedError``.
    """
    spec = session.spec
    if not is_on_a_server(spec) or len(spec.files) != 1:
        raise SourceError(f"{spec.label} stands on no server", mend=Mend("run it without --there"))
    if session.today is None:
        session.today = day_of_now()
    let_be_read_anew(spec)  # rows that this process fetched before are not those that are counted now
    address, path = spec.files[0], spec.paths()[0]
    if any(not isinstance(line, TableLine | QueryLine | KeyLine) for line in spec.lines):
        return There(open_table(spec, token, progress), (), "lines below the source say how it is read here")
    with reading_server(address, token) as connection:
        found = wanted_of(address, path, spec, connection)
        columns = columns_of(connection, found[0].statement) if len(found) == 1 else []
        names = [column.name for column in columns]
        if len(set(names)) < len(names) or not names or any(name.startswith(OWN_NAME) for name in names):
            return There(open_table(spec, token, progress), (), "its tables are stacked here")
        wanted = found[0]
        session.use(outline := open_table(_outline(spec, wanted), token))
        lines = session.bound(cut)
        conditions, why = conditions_of(lines, columns)
        needed = columns_needed(lines, names, wanted.key)
        if not conditions and needed == names:
            return There(open_table(spec, token, progress), (), why)
        rows, sent = counted_there(connection, with_exact_numbers(wanted.unordered, columns), conditions)
    inner = with_exact_numbers(wanted.statement, columns)
    table = open_table(replace(spec, lines=_asked(inner, needed, conditions, wanted)), token, progress)
    if table.rows != (sent[-1].rows_out if sent else rows):  # the counts are of a moment before
        raise SourceError(f"{spec.label} changed while it was asked", mend=Mend("run it again"))
    every = tuple(f"{column.name} {column.kind}" for column in outline.columns) if needed != names else ()
    return There(table, tuple(sent), why, every)


def _asked(inner: str, names: Sequence[str], conditions: Sequence[Condition], wanted: Wanted) -> tuple[SubLine, ...]:
    """Return the sub-lines that read the rows which some conditions leave, in the order of the key."""
    listed = ", ".join(map(quoted_name, names))
    where = " AND ".join(f"{said} IS {'NOT ' if drops else ''}TRUE" for said, drops in conditions) or "TRUE"
    query = QueryLine(None, f"SELECT {listed} FROM (\n{inner}\n) AS there WHERE {where}")
    return (query, KeyLine(None, wanted.key)) if wanted.key else (query,)


def _outline(spec: SourceSpec, wanted: Wanted) -> SourceSpec:
    """Return the source without a row: its columns and their kinds."""
    return replace(spec, lines=(QueryLine(None, f"SELECT * FROM (\n{wanted.statement}\n) AS there LIMIT 0"),))


def correct_totals(report: Report, there: There) -> None:
    """Put into a report how many rows the source has where it stands, and which lines ran there."""
    if there.sent:
        report.rows = there.sent[0].rows_in
    if there.all_columns:
        report.columns = list(there.all_columns)
    report.notes.append(there.sentence())
