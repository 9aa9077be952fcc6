"""A cut of what comes through a pipe, written while it comes: piece by piece, as if each were a file.

That is done where nothing further down can change what is written: lines look at each row by itself, and at columns
whose kind is settled, declared ones or texts that no other kind takes. All other cuts wait for the end of the pipe.
"""

from __future__ import annotations

import shutil
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import field, replace
from pathlib import Path
from typing import IO

from yardcut.core import litter
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import Mend, SourceError
from yardcut.core.in_turn import one_ahead
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.language.verbs.columns import BoundColumns
from yardcut.core.language.verbs.draw_parts import BoundDraw, Draw
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.make import BoundMake
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import BoundLine, day_of_now
from yardcut.core.run.explaining.report import HINT, LineReport, Report
from yardcut.core.scanning.columns_read import columns_read
from yardcut.core.scanning.plan_parts import looks_at_other_rows
from yardcut.core.session import Session
from yardcut.core.sources.delimited_blocks.cutting import Block
from yardcut.core.sources.delimited_blocks.held_blocks import as_a_file, held_in_memory
from yardcut.core.sources.formats.delimited import DelimitedFile
from yardcut.core.sources.formats.format_of_files import format_of_file
from yardcut.core.sources.growing_files import growing
from yardcut.core.sources.kinds.words_met import WordsMet
from yardcut.core.sources.piped import kept_bytes
from yardcut.core.sources.some_columns import NotReadError, Wanted
from yardcut.core.sources.spec import (
    CallLine,
    DeclaredKind,
    FormLine,
    KindLine,
    NoValueLine,
    Selector,
    SourceSpec,
    SubLine,
)
from yardcut.core.table.stored_column import ColumnInfo
from yardcut.core.table.stored_table import FileInfo, Table
from yardcut.core.unattended.columns_enough import columns_enough
from yardcut.core.unattended.running_cuts import run_cut
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.targets import RunOptions

_BLOCK_BYTES, _MOST_BYTES = 1 << 19, 1 << 24
"""A piece in the end; the first piece is one small block, so that its rows are there soon."""
_NEARLY = 0.75
"""Of a piece's size: a block is a little smaller or larger than it is meant to be."""


def cut_in_pieces(
    session: Session, options: RunOptions, token: CancelToken, progress: Progress, told: Callable[[LineReport], None],
    of_source: Callable[[Table], None], output: IO[str],
) -> Report | None:  # fmt: skip
    """Run the first cut of a list on what comes through a pipe, and write its rows as they come.

    Returns nothing, and has written nothing, where it has to wait for all of it. Raises ``YardcutError``.
    """
    paths, cut = session.spec.paths(), session.cut_list.cuts[0]
    if (
        len(paths) != 1
        or (pipe := growing(paths[0])) is None
        or not format_of_file(paths[0]).delimiter
        or options.out is not None
    ):
        return None
    if any(line.verb == "save" for line in cut.lines):
        return None
    wanted = columns_enough(session.cut_list, [cut], session.spec, None)
    file = DelimitedFile(paths[0], session.spec, block_bytes=_BLOCK_BYTES, grows=True)
    form = file.reading_form
    is_plain = form.encoding.startswith("utf-8") and not form.returns and not form.ragged and file.raw_header
    lines = _lines_of_pieces(session.spec, file)
    if wanted is None or lines is None or not is_plain:
        return None
    if session.today is None:
        session.today = day_of_now()
    pieces = _Pieces(session, cut, lines, wanted, file.label, b"\n".join([*file.raw_header, b""]), token, progress)
    for blocks in one_ahead(_growing_pieces(file.body_blocks())):
        in_a_file = as_a_file(pieces.header, blocks, form, joins=not pieces.tables)
        if not pieces.run(in_a_file, options, output):
            return None
        pipe.let_go()  # nothing is read twice from here on
        if pieces.left == 0:
            break
    if not pieces.tables:
        return None
    pieces.check_kinds()
    of_source(pieces.whole_table(Counter(each.reason for each in file.outside)))
    return pieces.whole_report(told)


def _growing_pieces(blocks: Iterator[Block]) -> Iterator[list[Block]]:
    """Yield blocks, later ones in larger pieces."""
    wanted, size, held = _BLOCK_BYTES, 0, list[Block]()
    for block in blocks:
        held.append(block)
        size += len(block.data)
        if size >= _NEARLY * wanted:
            yield held
            wanted, size, held = min(2 * wanted, _MOST_BYTES), 0, []
    if held:
        yield held


def _lines_of_pieces(spec: SourceSpec, file: DelimitedFile) -> tuple[SubLine, ...] | None:
    """Return the sub-lines by which a piece is read as all of it is; ``None`` where some are of another kind."""
    own = [line for line in spec.lines if line.applies(file.path)]
    if any(not isinstance(line, FormLine | KindLine | NoValueLine | CallLine) for line in own):
        return None
    form = file.reading_form
    said = FormLine(
        None, form.delimiter, form.decimal, form.thousands or None, form.quote, "utf-8", form.comment or None, 0,
        form.header, 0,
    )  # fmt: skip
    return (said, *(replace(line, file=None) for line in own if not isinstance(line, FormLine)))


@dataclass(slots=True)
class _Pieces:
    """A cut at work on one piece after the other; ``left`` is how many rows are still to be drawn (-1: all)."""

    session: Session
    cut: Cut
    lines: tuple[SubLine, ...]
    wanted: Wanted
    label: str
    header: bytes
    token: CancelToken
    progress: Progress
    left: int = -1
    draw: int = -1
    tables: list[Table] = field(default_factory=list)
    reports: list[Report] = field(default_factory=list)
    texts: dict[int, WordsMet] = field(default_factory=dict)

    def run(self, blocks: Sequence[Block], options: RunOptions, output: IO[str]) -> bool:
        """Cut a piece; tells of the first one whether that may be done before the others are there."""
        kept = kept_bytes((block.data for block in blocks), self.label)
        try:
            with held_in_memory(kept, blocks):
                return self._run(kept, options, output)
        finally:
            litter.drop(kept.parent)

    def _run(self, kept: Path, options: RunOptions, output: IO[str]) -> bool:
        try:
            session = self._session_of(kept)
            table = session.open(self.token, self.progress, wanted=self.wanted, however_small=True)
            if not self.tables and not self._may_go_on(session.bound(self.cut), table):
                return False
            if self.tables:
                self._meet(table)
            own = replace(options, with_hints=False, goes_on=bool(self.tables))
            report = run_cut(session, 0, own, self.token, self.progress, standard_output=output)
            output.flush()
        except NotReadError:
            if self.tables:
                raise
            return False
        if not self.tables:  # what the first piece showed holds for the others, and need not be looked for again
            kinds = ((Selector(column.name), _said(column.info)) for column in table.columns)
            self.lines = (*self.lines, KindLine(None, tuple(kinds)))
        self.tables.append(Table(table.info, table.folder))
        shutil.rmtree(table.folder, ignore_errors=True)
        self.reports.append(report)
        if self.draw >= 0:
            self.left -= report.lines[self.draw].rows_out
        return True

    def _session_of(self, path: Path) -> Session:
        cut = self.cut
        if self.draw >= 0:
            cut = cut.with_line(self.draw, Line(f"draw first {self.left}"))
        cut_list = replace(
            self.session.cut_list.with_cut(0, cut), files=(str(path),), source_lines=self.lines, preamble=""
        )
        session = Session(SourceSpec((str(path),)), cut_list)
        session.today = self.session.today
        return session

    def _may_go_on(self, lines: Sequence[BoundLine], table: Table) -> bool:
        """Tell whether no row further down changes what lines do with those of this piece; notes the draw there is."""
        declared = {
            place
            for line in self.lines
            if isinstance(line, KindLine)
            for selector, _ in line.items
            for place in selector.places([column.name for column in table.columns])
        }
        for place, line in enumerate(lines):
            body = line.bound.body if line.bound is not None else None
            if line.off:
                continue
            if isinstance(body, BoundDraw) and self.draw < 0 and _is_plain_first(body.draw):
                self.draw, self.left = place, int(body.draw.amount.written)
                continue
            if not isinstance(body, BoundFilter | BoundMake | BoundColumns) or looks_at_other_rows(body):
                return False
            if "source_row" in line.line.text.lower():
                return False
            looked_at = columns_read(body) if body.computes else set()
            if not all(table.columns[each].is_loaded for each in looked_at):
                return False  # a later piece would meet it when rows are written already
            if any(table.columns[each].kind is not Kind.TEXT and each not in declared for each in looked_at):
                return False
            self.texts |= {each: WordsMet() for each in looked_at if each not in declared}
        self._meet(table)
        return all(words.is_likely for words in self.texts.values())

    def _meet(self, table: Table) -> None:
        for number, words in self.texts.items():
            words.add(table.columns[number], table.rows)

    def check_kinds(self) -> None:
        """Raise ``SourceError`` where what was taken for text turns out to be something else as a whole."""
        for number, words in self.texts.items():
            if not words.is_text:
                name = self.tables[0].columns[number].name
                raise SourceError(
                    f"{name} is text in the first rows of {self.label}, and something else as a whole: what was written"
                    " took it for text",
                    mend=Mend(f"say what it is: kind {name_text(name)} text"),
                )

    def whole_report(self, told: Callable[[LineReport], None]) -> Report:
        """Say what lines did with all pieces together, and return the report."""
        report = self.reports[0]
        for number, line in enumerate(report.lines):
            same = [other.lines[number] for other in self.reports]
            line.rows_in, line.rows_out = sum(each.rows_in for each in same), sum(each.rows_out for each in same)
            line.taken_unknown = sum(each.taken_unknown for each in same)
            line.text = self.cut.lines[number].text
            line.notes[:] = [note for note in line.notes if not note.startswith(HINT)]
            told(line)
        report.rows = sum(other.rows for other in self.reports)
        report.rows_written = sum(other.rows_written or 0 for other in self.reports)
        report.notes.append(f"written while it came, in {_pieces(len(self.reports))}")
        if self.left == 0:
            report.notes.append(f"the rows were there after {report.rows:,} rows: no more were read")
        return report

    def whole_table(self, outside: Counter[str]) -> Table:
        """Return a table that says of all pieces what each says of itself; it has no rows to be looked at.

        ``outside`` counts what was dropped above and below them, by reason.
        """
        last, infos = self.tables[-1], [table.info for table in self.tables]
        dropped: Counter[str] = Counter()
        for info in infos:
            for reason, times in info.files[0].dropped:
                dropped[reason] += times
        dropped.update(outside)
        rows = sum(info.rows for info in infos)
        file: FileInfo = replace(infos[0].files[0], rows=rows, dropped=tuple(dropped.items()))
        columns = tuple(
            replace(same[0], set_aside=sum(each.set_aside for each in same))
            for same in zip(*(info.columns for info in infos), strict=True)
        )
        return Table(replace(infos[0], rows=rows, files=(file,), columns=columns), last.folder)


def _pieces(count: int) -> str:
    return "1 piece" if count == 1 else f"{count:,} pieces"


def _said(column: ColumnInfo) -> DeclaredKind:
    return DeclaredKind(column.kind, (column.pattern,) if column.pattern else ())


def _is_plain_first(draw: Draw) -> bool:
    """Tell whether a draw takes so many of the first rows, and says no more."""
    return draw == Draw("first", draw.amount) and draw.amount.written.isdecimal() and not draw.amount.percent
