"""What the app and the command line both hold: a source, a cutting list with its history, and its results."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from yardcut.core.cutlist.file import load_list, parse_list, save_list
from yardcut.core.cutlist.list_edits import ListEditing
from yardcut.core.cutlist.model import Cut, CutList
from yardcut.core.cutlist.second_paths import second_files
from yardcut.core.errors import ListError, Place
from yardcut.core.language.syntax.dial_lines import with_texts
from yardcut.core.language.syntax.source_lines import WORDS as SUB_LINE_WORDS
from yardcut.core.language.syntax.statements import split_statements
from yardcut.core.outgoing import A_SECOND_TABLE, Outgoing, Protected
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.bound_lines import BoundLine, bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.further_sources import further_of
from yardcut.core.run.executing.kinds_used import with_kinds_used
from yardcut.core.run.executing.results import LineResult
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.rounds import Runner
from yardcut.core.sources.applying import WrongSubLineError
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.some_columns import Wanted
from yardcut.core.sources.spec import SourceSpec, SubLine
from yardcut.core.table.stored_table import Table
from yardcut.core.writers.carried_lists import carried_list

LIST_SUFFIX = ".cut"
Runners = Callable[[SourceSpec, Table], Runner]
"""Gives what makes rounds over a table that was read of a source."""


def resolve_source(cut_list: CutList, base: Path) -> SourceSpec:
    """Return what a list reads; its paths are relative to the list's own directory."""
    return SourceSpec(cut_list.files, cut_list.source_lines, base)


def _content(path: Path) -> bytes | None:
    """Return what a file holds; nothing where it cannot be read."""
    try:
        return path.read_bytes()
    except OSError:
        return None


class Session:
    """One source, its list and history. ``edits`` is where the list changes; results are worked out on demand."""

    def __init__(
        self, source: SourceSpec | Path, cut_list: CutList | None = None, list_path: Path | None = None
    ) -> None:
        spec = source if isinstance(source, SourceSpec) else SourceSpec.of(source)
        self._base = spec.base
        self._instead: SourceSpec | None = None
        self.list_path = list_path
        start = replace(cut_list or CutList(spec.files, spec.lines), base=spec.base)
        self.edits = ListEditing(start)
        self._saved = start
        self._list_file: bytes | None = None
        self.table: Table | None = None
        self.executor: Executor | None = None
        self.runners: Runners | None = None
        """What makes rounds over all of a source; ``None``: threads of this process."""
        self.today: int | None = None
        """What CURRENT_DATE stands for, as days since 1970-01-01; ``None``: the day of now."""

    @classmethod
    def from_list(cls, path: Path) -> Session:
        """Open a ``.cut`` file. Raises ``SourceError`` or ``ListError``."""
        cut_list = load_list(path)
        session = cls(resolve_source(cut_list, path.parent), cut_list, path)
        session._list_file = _content(path)
        return session

    @classmethod
    def from_slice(cls, path: Path) -> Session:
        """Open the list that a slice remembers; its save lines are left out, and its paths are from the slice's folder.

        Raises ``SourceError`` where it remembers none, and ``ListError``.
        """
        cut_list = replace(parse_list(carried_list(path), str(path)), base=path.parent)
        cuts = tuple(
            replace(cut, lines=tuple(line for line in cut.lines if line.verb != "save")) for cut in cut_list.cuts
        )
        return cls(resolve_source(cut_list, path.parent), replace(cut_list, cuts=cuts), path)

    # the source

    @property
    def spec(self) -> SourceSpec:
        """What is read: the list's source with its sub-lines, unless something is read in its place."""
        return self._instead or SourceSpec(self.cut_list.files, self.cut_list.source_lines, self._base)

    def read_instead(self, spec: SourceSpec) -> None:
        """Read other files in place of the list's; its sub-lines stay."""
        self._instead = SourceSpec(spec.files, self.cut_list.source_lines, spec.base)

    def set_dials(self, settings: Mapping[str, Sequence[str]]) -> None:
        """Let dials hold what texts say, each read as the kind of its dial; no edit of the list.

        Raises ``ListError``.
        """
        cut_list = self.cut_list
        for name, texts in settings.items():
            cut_list = cut_list.with_dial(with_texts(cut_list.dial(name), tuple(texts)))
        self.edits.amend(cut_list)

    def open(
        self, token: CancelToken | None = None, progress: Progress | None = None, *, first_rows: int | None = None,
        wanted: Wanted | None = None, however_small: bool = False,
    ) -> Table:  # fmt: skip
        """Open the source as a table, or no more of it than its ``first_rows``, or the columns that are ``wanted``.

        Of a small source all columns are read anyway, unless that is ``however_small``.

        Raises ``SourceError``, ``ListError`` for its sub-lines, or ``StoppedError``.
        """
        try:
            table = open_table(
                self.spec, token, progress, first_rows=first_rows, wanted=wanted, however_small=however_small
            )
        except WrongSubLineError as error:
            raise ListError(error.message, place=self._place_of(error.line), mend=error.mend) from None
        self.use(table)
        return table

    def _place_of(self, line: SubLine) -> Place | None:
        """Return where a sub-line stands in the list's file, where it has one."""
        if self.list_path is None or line not in self.cut_list.source_lines:
            return None
        number = self.cut_list.source_lines.index(line)
        statements = [raw for raw in split_statements(self.cut_list.preamble)[0] if raw.first_word in SUB_LINE_WORDS]
        if number >= len(statements):
            return None
        return Place(statements[number].line, statements[number].column, str(self.list_path))

    def executor_of(self, table: Table, spec: SourceSpec | None = None) -> Executor:
        """Return what runs cuts over the table of a source: this one, or another.

        Over rows that are read so far this process does.
        """
        if self.runners is None or table.share_read < 1:
            return Executor(LocalRunner(table))
        return Executor(self.runners(spec or self.spec, table))

    def use(self, table: Table) -> None:
        """Work on a table that is open already."""
        self.use_all(table, self.executor_of(table))

    def use_all(self, table: Table, executor: Executor) -> None:
        """Work on a table of which an executor knows something already."""
        self.table, self.executor = table, executor

    # the list

    @property
    def cut_list(self) -> CutList:
        """The list of now."""
        return self.edits.cut_list

    @property
    def cut_index(self) -> int:
        """Which of its cuts is worked on."""
        return self.edits.cut_index

    @property
    def cut(self) -> Cut:
        """The cut worked on."""
        return self.edits.cut

    @property
    def is_saved(self) -> bool:
        """True when the list stands in its file as it is here."""
        return self.cut_list == self._saved

    @property
    def is_list_another(self) -> bool:
        """True when the list's file holds something else by now than was read or saved here: somebody edits it too."""
        return self.list_path is not None and _content(self.list_path) not in (None, self._list_file)

    @property
    def protected(self) -> Protected:
        """The files that nothing is written over: those that are read, the list's sources, and the list itself."""
        specs = (self.spec, SourceSpec(self.cut_list.files, self.cut_list.source_lines, self._base))
        found = Protected.of([path for spec in specs for path in spec.paths_there()], self.list_path)
        return found.more(second_files(self.cut_list), A_SECOND_TABLE)

    def save_list(self, path: Path, *, replace: bool = True) -> bool:
        """Write the list to a file, with the kinds its lines rely on; it may always be written over itself.

        Returns whether the source's path had to be rewritten. Raises ``TargetError``.
        """
        known = self.cut_list if self.table is None else with_kinds_used(self.cut_list, self.table)
        protected = self.protected if self.list_path is None else self.protected.without(self.list_path)
        written, moved = save_list(known, Outgoing(path, protected, replace), self._base)
        self.list_path, self._list_file = path, _content(path)
        self._base = path.parent
        self.edits.amend(written)
        self._saved = written
        return moved

    def cuts_above(self, cut: Cut) -> tuple[Cut, ...]:
        """Return the cuts that stand above one in the list."""
        cuts = self.cut_list.cuts
        return cuts[: cuts.index(cut)] if cut in cuts else ()

    # results

    def results(
        self, token: CancelToken, progress: Progress | None = None, *, cut: Cut | None = None, seed: int | None = None
    ) -> Iterator[LineResult]:
        """Yield the results of a cut's lines (by default the one worked on)."""
        assert self.executor is not None
        cut = cut or self.cut
        above = self.cuts_above(cut)
        return self.executor.run(
            cut,
            token,
            progress,
            default_seed=seed,
            today=self.today,
            earlier=above,
            dials=self.cut_list.dials,
            further=further_of(self.cut_list),
        )

    def bound(self, cut: Cut, default_seed: int = 0) -> list[BoundLine]:
        """Return the lines of a cut, bound to the table."""
        assert self.table is not None
        return bind_cut(
            cut, self.table, default_seed=default_seed, today=self.today, earlier=self.cuts_above(cut),
            dials=self.cut_list.dials, further=further_of(self.cut_list),
        )  # fmt: skip
