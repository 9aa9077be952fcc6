"""What the app and the command line both hold: a source, a cutting list with its history, and its results."""

from __future__ import annotations

import random
from collections.abc import Hashable, Iterator, Mapping, Sequence
from dataclasses import replace
from pathlib import Path

from yardcut.core.cutlist.file import load_list, save_list
from yardcut.core.cutlist.history import History
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.errors import ListError, Place
from yardcut.core.language.lines import statement_text, wants_seed, with_seed
from yardcut.core.language.syntax.dial_lines import with_texts
from yardcut.core.language.syntax.look_lines import parse_look
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.source_lines import WORDS as SUB_LINE_WORDS
from yardcut.core.language.syntax.statements import split_statements
from yardcut.core.outgoing import Outgoing, Protected
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.bound_lines import BoundLine, bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.kinds_used import with_kinds_used
from yardcut.core.run.executing.results import LineResult
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.applying import WrongSubLineError
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec, SubLine
from yardcut.core.table.table import Table

LIST_SUFFIX = ".cut"
_LARGEST_CHOSEN_SEED = 9999


def resolve_source(cut_list: CutList, base: Path) -> SourceSpec:
    """Return what a list reads; its paths are relative to the list's own directory."""
    return SourceSpec(cut_list.files, cut_list.source_lines, base)


def chosen_seed() -> int:
    """Return a seed for a draw that names none: short, so that it can be read out and typed."""
    return random.SystemRandom().randint(1, _LARGEST_CHOSEN_SEED)


def with_chosen_seed(text: str, seed: int | None = None) -> str:
    """Return a line with a seed written in where it draws by chance and names none; one chosen now if none is given."""
    statement = parse_statement(text)
    if not wants_seed(statement):
        return text
    return statement_text(with_seed(statement, chosen_seed() if seed is None else seed))


def _content(path: Path) -> bytes | None:
    """Return what a file holds; nothing where it cannot be read."""
    try:
        return path.read_bytes()
    except OSError:
        return None


class Session:
    """One source, its list and history. Edits are values pushed on the history; results are worked out on demand."""

    def __init__(
        self, source: SourceSpec | Path, cut_list: CutList | None = None, list_path: Path | None = None
    ) -> None:
        spec = source if isinstance(source, SourceSpec) else SourceSpec.of(source)
        self._base = spec.base
        self._instead: SourceSpec | None = None
        self.list_path = list_path
        start = cut_list or CutList(spec.files, spec.lines)
        self._history: History[tuple[CutList, int]] = History((start, 0))
        self._saved = start
        self._list_file: bytes | None = None
        self.table: Table | None = None
        self.executor: Executor | None = None
        self.today: int | None = None
        """What CURRENT_DATE stands for, as days since 1970-01-01; ``None``: the day of now."""

    @classmethod
    def from_list(cls, path: Path) -> Session:
        """Open a ``.cut`` file. Raises ``SourceError`` or ``ListError``."""
        cut_list = load_list(path)
        session = cls(resolve_source(cut_list, path.parent), cut_list, path)
        session._list_file = _content(path)
        return session

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
        self._history.amend((cut_list, self.cut_index))

    def become(self, cut_list: CutList, cut_index: int, series: Hashable = None) -> None:
        """Go on with another list, as one edit; where its source is another, the table must be opened again.

        Edits of one ``series``, with nothing else between them, are one.
        """
        self._history.push((cut_list, cut_index), series)

    def open(self, token: CancelToken | None = None, progress: Progress | None = None) -> Table:
        """Open the source as a table. Raises ``SourceError``, ``ListError`` for its sub-lines, or ``StoppedError``."""
        try:
            table = open_table(self.spec, token, progress)
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

    def use(self, table: Table) -> None:
        """Work on a table that is open already."""
        self.table = table
        self.executor = Executor(LocalRunner(table))

    # the list

    @property
    def cut_list(self) -> CutList:
        """The list of now."""
        return self._history.now[0]

    @property
    def cut_index(self) -> int:
        """Which of its cuts is worked on."""
        return self._history.now[1]

    @property
    def cut(self) -> Cut:
        """The cut worked on."""
        return self.cut_list.cuts[self.cut_index]

    @property
    def is_saved(self) -> bool:
        """True when the list stands in its file as it is here."""
        return self.cut_list == self._saved

    def _edit(self, cut: Cut, series: Hashable = None) -> None:
        index = self.cut_index
        self._history.push((self.cut_list.with_cut(index, cut), index), series)

    def switch_cut(self, index: int) -> None:
        """Work on another cut of the list."""
        self._history.push((self.cut_list, index % len(self.cut_list.cuts)))

    def enter(self, text: str, selected: int, seed: int | None = None, *, instead_of_looks: str = "") -> int:
        """Put a new line behind the selected one (-1: the source) and return its index. Raises ``ListError``.

        A draw by chance that names no seed gets the one given, or one chosen now. Look lines of the verb
        ``instead_of_looks`` go in the same edit.
        """
        text = with_chosen_seed(text.strip(), seed)
        index = self.cut.place_for(selected, Line(text).verb)
        looks = tuple(look for look in self.cut.looks if look.look_verb != instead_of_looks)
        self._edit(replace(self.cut, looks=looks).inserted(index, Line(text)))
        return index

    def look(self, text: str) -> None:
        """Put a look line on the cut. Raises ``ListError``."""
        parse_look(text)
        self._edit(self.cut.with_look(Line(text.strip())))

    def look_no_more(self, *, as_lines: bool) -> None:
        """Take the look lines away, or make them lines of the cut."""
        self._edit(self.cut.with_looks_as_lines() if as_lines else replace(self.cut, looks=()))

    def rewrite(self, index: int, text: str, seed: int | None = None, series: Hashable = None) -> None:
        """Give a line another text, keeping what stands above it, as an edit of a series. Raises ``ListError``."""
        text = with_chosen_seed(text.strip(), seed)
        self._edit(self.cut.with_line(index, replace(self.cut.lines[index], text=text)), series)

    def switch_line(self, index: int) -> None:
        """Switch a line off, or on again."""
        self._edit(self.cut.with_line(index, self.cut.lines[index].switched()))

    def delete_line(self, index: int) -> None:
        """Take a line out."""
        self._edit(self.cut.deleted(index))

    def move_line(self, index: int, by: int) -> int:
        """Move a line up (-1) or down (1) and return where it is now."""
        to = max(0, min(len(self.cut.lines) - 1, index + by))
        if to != index:
            self._edit(self.cut.moved(index, to))
        return to

    def undo(self) -> bool:
        """Take the last edit back."""
        return self._history.undo()

    def redo(self) -> bool:
        """Do the edit again that was taken back."""
        return self._history.redo()

    @property
    def is_list_another(self) -> bool:
        """True when the list's file holds something else by now than was read or saved here: somebody edits it too."""
        return self.list_path is not None and _content(self.list_path) not in (None, self._list_file)

    @property
    def protected(self) -> Protected:
        """The files that nothing is written over: those that are read, the list's sources, and the list itself."""
        specs = (self.spec, SourceSpec(self.cut_list.files, self.cut_list.source_lines, self._base))
        return Protected.of([path for spec in specs for path in spec.paths_there()], self.list_path)

    def save_list(self, path: Path, *, replace: bool = True) -> bool:
        """Write the list to a file, with the kinds its lines rely on; it may always be written over itself.

        Returns whether the source's path had to be rewritten. Raises ``TargetError``.
        """
        known = self.cut_list if self.table is None else with_kinds_used(self.cut_list, self.table)
        protected = self.protected if self.list_path is None else self.protected.without(self.list_path)
        written, moved = save_list(known, Outgoing(path, protected, replace), self._base)
        self.list_path, self._list_file = path, _content(path)
        self._base = path.parent
        self._history.amend((written, self.cut_index))
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
            cut, token, progress, default_seed=seed, today=self.today, earlier=above, dials=self.cut_list.dials
        )

    def bound(self, cut: Cut, default_seed: int = 0) -> list[BoundLine]:
        """Return the lines of a cut, bound to the table."""
        assert self.table is not None
        return bind_cut(
            cut, self.table, default_seed=default_seed, today=self.today, earlier=self.cuts_above(cut),
            dials=self.cut_list.dials,
        )  # fmt: skip
