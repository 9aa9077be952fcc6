"""What is to be read: files, patterns of files, and what the source's sub-lines say about reading them."""

from __future__ import annotations

import fnmatch
import glob
import os
from collections.abc import Sequence
from dataclasses import fields, replace
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.paths import path_of
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.addresses import WILDCARDS, file_of, is_address, met_by, name_of, without_secret
from yardcut.core.values.kinds import Kind

STANDARD_INPUT = "-"


@dataclass(frozen=True, slots=True)
class Selector:
    """Columns by name (``*`` and ``?`` stand for characters when ``is_pattern``), number, or a range of either."""

    first: str | int
    last: str | int | None = None
    is_pattern: bool = False

    def places(self, names: Sequence[str]) -> list[int]:
        """Return the places (from 0) of the columns meant; none when there are none."""
        if self.is_pattern:
            pattern = str(self.first).replace("[", "[[]")
            return [place for place, name in enumerate(names) if fnmatch.fnmatchcase(name, pattern)]
        start = _place(self.first, names)
        if self.last is None:
            return [] if start is None else [start]
        end = _place(self.last, names)
        if start is None or end is None:
            return []
        return list(range(min(start, end), max(start, end) + 1))


def _place(wanted: str | int, names: Sequence[str]) -> int | None:
    if isinstance(wanted, str):
        return names.index(wanted) if wanted in names else None
    place = wanted - 1 if wanted > 0 else len(names) + wanted
    return place if 0 <= place < len(names) else None


@dataclass(frozen=True, slots=True)
class SubLine:
    """One sub-line; ``file`` limits it to one file of a stack, by base name."""

    file: str | None = None

    def applies(self, path: Path) -> bool:
        """Tell whether the line is about a file."""
        return self.file is None or self.file == path.name


@dataclass(frozen=True, slots=True)
class FormLine(SubLine):
    """Parts of the form of delimited text; ``None`` leaves a part to the guess. ``header`` counts header rows,
    ``footer`` the rows at the end that are none of the table.
    """

    delimiter: str | None = None
    decimal: str | None = None
    thousands: str | None = None
    quote: str | None = None
    encoding: str | None = None
    comment: str | None = None
    skip: int | None = None
    header: int | None = None
    footer: int | None = None


@dataclass(frozen=True, slots=True)
class NoValueLine(SubLine):
    """The texts that mean a missing value, everywhere or in some columns."""

    texts: tuple[str, ...] = ()
    columns: Selector | None = None


@dataclass(frozen=True, slots=True)
class DeclaredKind:
    """A kind a user declared: ``patterns`` holds a date pattern, "serial", "unix", "unix ms", or a boolean's pair."""

    kind: Kind
    patterns: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class KindLine(SubLine):
    """Kinds of columns."""

    items: tuple[tuple[Selector, DeclaredKind], ...] = ()


@dataclass(frozen=True, slots=True)
class CallLine(SubLine):
    """Another name for a column of one file or all."""

    column: Selector = Selector("")
    name: str = ""


@dataclass(frozen=True, slots=True)
class OnlyLine(SubLine):
    """Read these columns and no others."""

    columns: tuple[Selector, ...] = ()


@dataclass(frozen=True, slots=True)
class TableLine(SubLine):
    """Worksheets of a workbook or tables of a database, by name; none named means all."""

    names: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class CellsLine(SubLine):
    """Where a worksheet's data stand: a start cell, or a range."""

    cells: str = ""


@dataclass(frozen=True, slots=True)
class QueryLine(SubLine):
    """A query on a database."""

    query: str = ""


@dataclass(frozen=True, slots=True)
class KeyLine(SubLine):
    """The columns that tell the rows of a server's table apart, and give their order.

    Where it ``is_sure`` that they do, nobody looks.
    """

    columns: tuple[str, ...] = ()
    is_sure: bool = False


@dataclass(frozen=True, slots=True)
class FileColumnLine(SubLine):
    """A text column with each row's file name."""

    name: str = "file"


@dataclass(frozen=True, slots=True)
class SourceSpec:
    """Files and patterns, relative to ``base``, or addresses without passwords; and the sub-lines in their sequence."""

    files: tuple[str, ...]
    lines: tuple[SubLine, ...] = ()
    base: Path = Path()

    def __post_init__(self) -> None:
        object.__setattr__(self, "files", tuple(map(without_secret, self.files)))

    @classmethod
    def of(cls, *paths: Path | str) -> SourceSpec:
        """Return the plain spec of some files."""
        return cls(tuple(str(path) for path in paths))

    @property
    def label(self) -> str:
        """What the header calls the source."""
        if len(self.files) > 1:
            return f"{self._first_name} and {len(self.files) - 1} more"
        return "standard input" if self.files[0] == STANDARD_INPUT else self._first_name

    @property
    def _first_name(self) -> str:
        return name_of(self.files[0]) if is_address(self.files[0]) else Path(self.files[0]).name

    @property
    def stem(self) -> str:
        """A word for file names made from the source's."""
        name = self._first_name
        return "".join(char for char in name.split(".")[0] if char not in "*?[]") or "slice"

    def with_line(self, line: SubLine) -> SourceSpec:
        """Return the spec with one more sub-line, which wins over those before."""
        return replace(self, lines=(*self.lines, line))

    def mark(self) -> str:
        """Return a digest of what the sub-lines say."""
        if not self.lines:
            return ""
        import hashlib  # here, because it loads a large library

        return hashlib.blake2b(repr(self.lines).encode(), digest_size=8).hexdigest()

    def paths(self) -> list[Path]:
        """Return the files, patterns resolved and sorted by name, each once at its first place.

        Raises ``SourceError`` when a pattern matches nothing.
        """
        found: dict[str, Path] = {}
        for written in self.files:
            if is_address(written):
                found |= {each: file_of(each) for each in met_by(written) if each not in found}
                continue
            path = path_of(written, SourceError)
            if written != STANDARD_INPUT and not path.is_absolute():
                path = self.base / path
            if not WILDCARDS & set(written) or path.exists():
                found.setdefault(os.path.abspath(path), path)
                continue
            matches = sorted(glob.glob(str(path)))
            if not matches:
                raise SourceError(f"no file matches {path}", mend=Mend("check the pattern and its directory"))
            for match in matches:
                found.setdefault(os.path.abspath(match), Path(match))
        return list(found.values())

    def named(self, paths: Sequence[Path]) -> list[Path]:
        """Return those of the files that are named outright, and not met by a pattern."""
        outright = {
            os.path.abspath(file_of(written) if is_address(written) else self.base / written)
            for written in self.files
            if not WILDCARDS & set(written) or (is_address(written) and met_by(written) == (written,))
        }
        return [path for path in paths if os.path.abspath(path) in outright]

    def paths_there(self) -> list[Path]:
        """Return the files as :meth:`paths` does; none where a pattern matches nothing."""
        try:
            return self.paths()
        except SourceError:
            return []

    def form_of(self, path: Path) -> FormLine:
        """Return what the sub-lines say of one file's form, later lines over earlier."""
        merged: dict[str, object] = {}
        for line in self.lines:
            if isinstance(line, FormLine) and line.applies(path):
                merged |= {
                    part.name: getattr(line, part.name)
                    for part in fields(FormLine)
                    if part.name != "file" and getattr(line, part.name) is not None
                }
        return FormLine(None, **merged)  # type: ignore[arg-type]

    def no_values(self, path: Path) -> tuple[str, ...] | None:
        """Return the texts that mean a missing value in one file, or ``None`` for the standard ones."""
        found: tuple[str, ...] | None = None
        for line in self.lines:
            if isinstance(line, NoValueLine) and line.columns is None and line.applies(path):
                found = line.texts
        return found

    def no_values_in(self, path: Path, names: Sequence[str]) -> dict[int, tuple[str, ...]]:
        """Return, for columns that have texts of their own for a missing value, those texts by place."""
        found: dict[int, tuple[str, ...]] = {}
        for line in self.lines:
            if isinstance(line, NoValueLine) and line.columns is not None and line.applies(path):
                found |= dict.fromkeys(line.columns.places(names), line.texts)
        return found

    def kinds(self, names: Sequence[str]) -> dict[int, DeclaredKind]:
        """Return the declared kinds by place."""
        found: dict[int, DeclaredKind] = {}
        for line in self.lines:
            if isinstance(line, KindLine):
                for selector, declared in line.items:
                    found |= dict.fromkeys(selector.places(names), declared)
        return found

    def called(self, path: Path, names: Sequence[str]) -> list[str]:
        """Return the names of one file's columns after its ``call`` lines."""
        renamed = list(names)
        for line in self.lines:
            if isinstance(line, CallLine) and line.applies(path):
                for place in line.column.places(names):
                    renamed[place] = line.name
        return renamed

    def wanted(self, path: Path | None, names: Sequence[str]) -> set[int] | None:
        """Return the places of the columns to be read, or ``None`` for all: of the stack, or of one file of it."""
        found: set[int] | None = None
        for line in self.lines:
            if isinstance(line, OnlyLine) and line.file == (None if path is None else path.name):
                found = {place for selector in line.columns for place in selector.places(names)}
        return found

    def tables(self, path: Path) -> tuple[str, ...] | None:
        """Return the worksheets or tables wanted of one file: ``()`` for all, ``None`` when nothing is said."""
        found: tuple[str, ...] | None = None
        for line in self.lines:
            if isinstance(line, TableLine) and line.applies(path):
                found = line.names
        return found

    def cells(self, path: Path) -> str | None:
        """Return where a worksheet's data stand, if said."""
        return next(
            (line.cells for line in reversed(self.lines) if isinstance(line, CellsLine) and line.applies(path)), None
        )

    def query(self, path: Path) -> str | None:
        """Return the query on a database, if said."""
        return next(
            (line.query for line in reversed(self.lines) if isinstance(line, QueryLine) and line.applies(path)), None
        )

    @property
    def file_column(self) -> str | None:
        """The name of the column that holds each row's file, if wanted."""
        return next((line.name for line in reversed(self.lines) if isinstance(line, FileColumnLine)), None)

    def unmatched_columns(self, names: Sequence[str]) -> list[str]:
        """Say which sub-lines are about columns that a source with these columns does not have."""
        said: list[str] = []
        for line in self.lines:
            match line:
                case KindLine(items=items):
                    about = [selector for selector, _ in items]
                case OnlyLine(columns=columns):
                    about = list(columns)
                case NoValueLine(columns=Selector() as column):
                    about = [column]
                case CallLine(column=column, name=name):
                    about = [] if name in names else [column]
                case _:
                    about = []
            word = type(line).__name__.removesuffix("Line")
            word = {"NoValue": "no value"}.get(word, word.lower())
            said += [
                f"the {word} line is about {selector.first}, which no column is called"
                for selector in about
                if not selector.places(names)
            ]
        return said

    def unmatched(self, paths: Sequence[Path]) -> list[str]:
        """Return the names after ``in`` that no file of the stack has."""
        known = {path.name for path in paths}
        return [line.file for line in self.lines if line.file is not None and line.file not in known]


def from_anywhere(spec: SourceSpec) -> SourceSpec:
    """Return a spec as a process reads it that was started in another folder."""
    return replace(spec, base=Path(os.path.abspath(spec.base)))
