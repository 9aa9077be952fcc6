"""Running cuts: every line in turn, what its save lines write, and the report."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import field, replace
from pathlib import Path
from typing import IO

from yardcut.core.cutlist.file import place_in
from yardcut.core.cutlist.model import Cut
from yardcut.core.cutlist.notes import question_of
from yardcut.core.errors import ListError, Mend, TargetError
from yardcut.core.expressions.frame import Frame, source_frame, source_scope
from yardcut.core.language.lines import wants_seed
from yardcut.core.language.save_options import HEADER, TABLE, WITH_LIST
from yardcut.core.language.seeds import chosen_seed
from yardcut.core.language.verbs.save import BoundSave
from yardcut.core.outgoing import OF_THIS_RUN, Protected, check_apart
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.bound_lines import day_of_now
from yardcut.core.run.explaining.likely_meant import likely_meant
from yardcut.core.run.explaining.pattern_matches import pattern_matches
from yardcut.core.run.explaining.report import HINT, LineReport, Report
from yardcut.core.run.explaining.source_report import file_entries, sentences
from yardcut.core.run.explaining.unanswered import unanswered
from yardcut.core.run.hinting.line_hints import line_hints
from yardcut.core.session import Session
from yardcut.core.sources.elsewhere.standing import called_paths
from yardcut.core.table.stored_column import UNREAD
from yardcut.core.table.stored_table import Table
from yardcut.core.unattended.list_beside import check_beside, is_the_list, path_beside, text_beside, write_beside
from yardcut.core.values.temporal import format_date
from yardcut.core.writers.plans import plan_of
from yardcut.core.writers.saving_slices import Written
from yardcut.core.writers.source_form import in_source_form
from yardcut.core.writers.targets import RunOptions, Target, check_targets, targets_of, write_target
from yardcut.core.writers.texts.own_texts import own_texts
from yardcut.core.writers.together import Sheet, save_together


def check_cut(session: Session, cut: Cut) -> int:
    """Return how many lines of a cut are bound only when it runs.

    Raises ``ListError`` with its place for the first wrong one of the others.
    """
    path = str(session.list_path) if session.list_path else None
    lines = session.bound(cut)
    for number, line in enumerate(lines, 1):
        if line.error is not None:
            assert session.executor is not None
            error = likely_meant(lines, number - 1, session.executor, CancelToken())
            start = (line.line.place, len(line.line.indent) + 1) if path else (number, 1)
            place = place_in(line.line.text, error.start, *start, path)
            raise error.placed(place).in_statement(line.line.text)
        body = line.bound.body if line.bound else None
        if isinstance(body, BoundSave):
            try:
                _ = Target.named(body.save).plan
            except TargetError as error:
                start = (line.line.place, len(line.line.indent) + 1) if path else (number, 1)
                place = place_in(line.line.text, 0, *start, path)
                raise ListError(error.message, place=place, mend=error.mend).in_statement(line.line.text) from None
    return sum(line.later is not None for line in lines)


def cuts_to_run(session: Session, name: str | None) -> list[int]:
    """Return which cuts a run runs: the one named, those with a save line, or the only one."""
    cuts = session.cut_list.cuts
    if name is not None:
        return [session.cut_list.cut_index(name)]
    saving = [
        index for index, cut in enumerate(cuts) if any(line.verb == "save" and not line.is_off for line in cut.lines)
    ]
    if saving:
        return saving
    if len(cuts) == 1:
        return [0]
    raise ListError(
        f"the list has {len(cuts)} cuts and none has a save line",
        mend=Mend("name one with --cut: " + ", ".join(f'"{cut.name}"' for cut in cuts)),
    )


def run_cut(
    session: Session, index: int, options: RunOptions, token: CancelToken, progress: Progress,
    said: Callable[[LineReport], None] = lambda line: None, standard_output: IO[str] | None = None,
) -> Report:  # fmt: skip
    """Run one cut, as :func:`run_cuts` does."""
    return run_cuts(session, [index], options, token, progress, said, standard_output)[0]


def run_cuts(
    session: Session, indices: Sequence[int], options: RunOptions, token: CancelToken, progress: Progress,
    said: Callable[[LineReport], None] = lambda line: None, standard_output: IO[str] | None = None,
) -> list[Report]:  # fmt: skip
    """Run cuts: write what their save lines name, or CSV to ``standard_output`` where one has none.

    Several that name one workbook or database each have a worksheet or a table in it. Targets are checked before
    anything runs: what is there already, what must never be written over, and that no two are one file. What earlier
    runs of ``options.written`` wrote is among it. Raises ``ListError``, ``TargetError`` or ``StoppedError``.
    """
    if session.today is None:
        session.today = day_of_now()
    protected = session.protected.more(options.written, OF_THIS_RUN)
    runs = [_Run(session, index, options, protected) for index in indices]
    targets = [target for run in runs for target in run.all_targets]
    check_targets(targets, protected)
    shared = _shared(targets)
    check_apart(_outputs(targets, session.list_path, options.reports))
    waiting: dict[str, list[tuple[_Run, Sheet, Target]]] = {}
    for run in runs:
        run.go(token, progress, said, standard_output, shared, waiting)
    for entries in waiting.values():
        sheets, target = [sheet for _, sheet, _ in entries], entries[0][2]
        written = save_together(
            sheets,
            target.outgoing(protected),
            target.plan,
            token=token,
            progress=progress,
            carries=entries[0][0].list_for(target.path),
        )
        for run, sheet, _ in entries:
            run.wrote(written, sheet.frame.rows.count, run.report.notes)
    return [run.report for run in runs]


def _outputs(
    targets: Sequence[Target], list_path: Path | None, reports: Sequence[Path]
) -> list[tuple[Path, str]]:  # fmt: skip
    """Return the files a run writes, each once, with what it is; the parts of a slice are known only when it is."""
    files = [target for target in targets if not target.address]
    slices = {os.path.realpath(target.path): target.path for target in files if target.parting is None}
    beside = [
        target.path for target in targets if target.options[WITH_LIST] and not is_the_list(target.path, list_path)
    ]
    lists = {os.path.realpath(path_beside(path)): path_beside(path) for path in beside}
    return [
        *((path, "the slice") for path in slices.values()), *((path, "the list of a slice") for path in lists.values()),
        *((path, "the report") for path in reports),
    ]  # fmt: skip


def _shared(targets: Sequence[Target]) -> frozenset[str]:
    """Return the paths that several slices are written to. Raises ``TargetError`` for formats that hold only one."""
    tables = Counter((target.address, target.options[TABLE]) for target in targets if target.address)
    twice = next((name for name, count in tables.items() if count > 1), None)
    if twice is not None:
        raise TargetError(
            f"several save lines write the table {twice[1]} on {twice[0]}", mend=Mend("give them other names")
        )
    times = Counter(os.path.abspath(target.path) for target in targets if target.parting is None and not target.address)
    shared = frozenset(path for path, count in times.items() if count > 1)
    for target in targets:
        if os.path.abspath(target.path) in shared and not target.plan.format.holds_several:
            raise TargetError(
                f"several save lines write {target.path}, and {target.plan.format.name} holds one table",
                mend=Mend("name other files, or write a workbook (.xlsx) or a database (.sqlite)"),
            )
    return shared


def _names_and_kinds(table: Table) -> list[str]:
    """Return each column's name with its kind, which of one that was left unread nobody knows."""
    known = [not table.leaves_unread or column.is_loaded for column in table.columns]
    return [f"{each.name} {each.kind if knows else UNREAD}" for each, knows in zip(table.columns, known, strict=True)]


@dataclass(slots=True)
class _Run:
    """One cut being run."""

    session: Session
    index: int
    options: RunOptions
    protected: Protected
    report: Report = field(init=False)
    targets: dict[int, Target] = field(init=False)
    out: Target | None = None

    def __post_init__(self) -> None:
        session, table = self.session, self.session.table
        assert table is not None
        assert session.today is not None
        cut = self._cut
        check_cut(session, cut)
        self.targets = targets_of(cut, self.options)
        if not self.targets and self.options.out is not None:
            self.out = self.options.target(None)
        for target in self.all_targets:
            if target.options[WITH_LIST]:
                check_beside(target.outgoing(self.protected), session.list_path)
        self.report = Report(
            ", ".join(called_paths(session.spec)), table.fingerprint, cut.name, table.rows,
            _names_and_kinds(table), files=file_entries(table),
            left_out=list(table.info.left_out), met=sentences(table), today=format_date(session.today),
            dials={dial.name: dial.said() for dial in session.cut_list.dials},
            question=question_of(cut),
        )  # fmt: skip

    @property
    def _cut(self) -> Cut:
        return self.options.left_of(self.session.cut_list.cuts[self.index])

    @property
    def all_targets(self) -> list[Target]:
        return [*self.targets.values(), *filter(None, [self.out])]

    def go(
        self, token: CancelToken, progress: Progress, said: Callable[[LineReport], None],
        standard_output: IO[str] | None, shared: frozenset[str],
        waiting: dict[str, list[tuple[_Run, Sheet, Target]]],
    ) -> None:  # fmt: skip
        session, report = self.session, self.report
        assert session.table is not None
        assert session.executor is not None
        cut = self._cut
        frame, above, seed = source_frame(session.table), source_scope(session.table), chosen_seed()
        if any(wants_seed(line.statement()) for line in cut.lines if not line.is_off):
            report.seed = seed
        for number, result in enumerate(session.results(token, progress, cut=cut, seed=seed)):
            line = report.add(result)
            report.patterns |= pattern_matches(result.line, above)
            above = result.line.scope
            line.notes += unanswered(result, session.executor.runner, token)
            if self.options.with_hints and not result.line.off:
                hints = line_hints(result, session.executor, token)
                whole = {f"{HINT}{hint.says}": f"{HINT}{hint.whole}" for hint in hints}
                noted = [whole.get(note, note) for note in line.notes]
                line.notes[:] = dict.fromkeys([*noted, *whole.values()])
            if number in self.targets:
                body = result.line.bound.body if result.line.bound is not None else None
                assert isinstance(body, BoundSave)
                target = self.targets[number].bound(body)
                key = os.path.abspath(target.path)
                if key in shared:
                    name = target.options[TABLE] or cut.name or "slice"
                    waiting.setdefault(key, []).append((self, Sheet(name, result.frame), target))
                else:
                    self._write(result.frame, target, line.notes, token, progress)
            said(line)
            frame = result.frame
        if self.out is not None:
            self._write(frame, self.out, report.notes, token, progress)
        elif not self.targets and standard_output is not None:
            self._print(frame, standard_output, token, progress)

    def _write(self, frame: Frame, target: Target, notes: list[str], token: CancelToken, progress: Progress) -> None:
        session = self.session
        protected = self.protected.more(self.options.reports, "where the report goes")
        written = write_target(
            frame, target, session.spec, protected, token, progress, lambda: self.list_for(target.path),
            None if session.executor is None else session.executor.runner,
        )  # fmt: skip
        self.wrote(written, written.rows, notes)
        if target.options[WITH_LIST] and is_the_list(target.path, session.list_path):
            notes.append("the list beside it is the one that was run")
        elif target.options[WITH_LIST]:
            beside = write_beside(target.outgoing(protected), self.list_for(target.path))
            notes.append(f"wrote the list beside it: {beside}")

    def list_for(self, path: Path) -> str:
        """Return the list that goes with a slice."""
        session = self.session
        assert session.table is not None
        assert session.today is not None
        return text_beside(
            session.cut_list, self.index, session.table, session.spec.base, path.parent,
            self.report.lines, self.report.seed, session.today, self.report.second_tables,
        )  # fmt: skip

    def wrote(self, written: Written, rows: int, notes: list[str]) -> None:
        """Put into the report what was written."""
        self.report.written, self.report.rows_written = written.name, rows
        if not written.where:
            self.report.files_written += [str(path) for path in written.files or (written.path,)]
        notes.append(written.sentence())

    def _print(self, frame: Frame, output: IO[str], token: CancelToken, progress: Progress) -> None:
        from yardcut.core.writers.formats.compressing import target_of
        from yardcut.core.writers.formats.delimited import write_stream

        plan, form = in_source_form(plan_of(Path("slice.csv")), frame.table.info.files)
        self.report.notes += [form] * bool(form)
        if self.options.goes_on:
            plan = replace(plan, options=plan.options.with_value(HEADER, False))
        with own_texts(frame, self.session.spec, plan, token, progress, at_once=True) as own:
            write_stream(frame, target_of(output), plan, token, progress, own.texts)
        self.report.rows_written = frame.rows.count
