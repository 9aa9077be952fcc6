"""Parting a slice: a file for each combination of values, or for each so many rows; and what the files are called."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from pathlib import Path

import numpy as np

from yardcut.core.errors import Mend, TargetError
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.window import Scatter
from yardcut.core.writers.formats.compressing import ENDINGS

MOST_FILES = 10_000
_BLOCK_ROWS = 1 << 16
_MOST_NAME_BYTES = 100
_UNFIT = re.compile(r"[/\\\x00-\x1f\x7f:*?\"<>|{}]+")
"""What cannot stand in a file's name everywhere, and the braces of places still to be filled."""


@dataclass(frozen=True, slots=True)
class PartOfSlice:
    """One of the parts a slice is written in: the names of its file's parts, how many rows, and which."""

    names: tuple[str, ...]
    rows: int
    ids: Callable[[], Array]
    """Returns the row ids in the slice's order (uint32)."""


def parts_by_rows(piece: Frame, per_rows: int) -> list[PartOfSlice]:
    """Return parts of so many rows each, numbered from 1; one of no row where there is none. Raises ``TargetError``."""
    rows = piece.rows
    starts = range(0, max(1, rows.count), per_rows)
    check_number(len(starts))
    width = len(str(len(starts)))

    return [
        PartOfSlice((f"{number:0{width}}",), min(per_rows, rows.count - start), ids)
        for number, start in enumerate(starts, 1)
        for ids in [partial(rows.ids, start, start + per_rows)]
    ]


def parts_by_values(
    piece: Frame, values: Sequence[BoundValue], token: CancelToken, progress: Progress
) -> list[PartOfSlice]:
    """Return a part for each combination of values, in the order they come in; no value is one of them.

    O(rows) memory: a number a row. Raises ``TargetError`` for more values than files can be made of.
    """
    rows = piece.rows
    piece.table.load({number for value in values for number in columns_of(value)}, token, progress)
    known: dict[tuple[str | None, ...], int] = {}
    numbers = np.empty(rows.count, dtype=np.int32)
    for start in range(0, rows.count, _BLOCK_ROWS):
        token.check()
        window = Scatter(piece.table, rows.ids(start, start + _BLOCK_ROWS))
        texts = list(zip(*(evaluate(value, window).texts() for value in values), strict=True))
        numbers[start : start + len(texts)] = [known.setdefault(each, len(known)) for each in texts]
        check_number(len(known))
    order = np.argsort(numbers, kind="stable")
    ends = np.cumsum(np.bincount(numbers, minlength=len(known))).tolist()
    all_ids = rows.ids(0, rows.count)
    names = zip(*(_names_of(column) for column in zip(*known, strict=True)), strict=True) if known else ()
    return [
        PartOfSlice(tuple(name), end - start, partial(_taken, all_ids, order[start:end]))
        for name, start, end in zip(names, [0, *ends], ends, strict=False)
    ]


def _names_of(texts: Sequence[str | None]) -> list[str]:
    """Return the name of each of some values, the same for the same value."""
    different = list(dict.fromkeys(texts))
    names = dict(zip(different, distinct_names(different), strict=True))
    return [names[text] for text in texts]


def _taken(ids: Array, places: Array) -> Array:
    return ids[places]


def check_number(files: int) -> None:
    """Raise ``TargetError`` for more files than anybody wants."""
    if files > MOST_FILES:
        raise TargetError(
            f"that would be more than {MOST_FILES:,} files", mend=Mend("part the slice by something of fewer values")
        )


def file_name_of(text: str | None) -> str:
    """Return a value as a part of a file's name: what cannot stand there is replaced."""
    if text is None:
        return "no-value"
    safe = _UNFIT.sub("-", text.strip()).strip(".- ") or "empty"
    return safe.encode()[:_MOST_NAME_BYTES].decode("utf-8", "ignore")


def distinct_names(values: Sequence[str | None]) -> list[str]:
    """Return a name for each value; values that look the same as file names, by capitals too, are numbered."""
    taken: set[str] = set()
    names = []
    for value in values:
        name, number = file_name_of(value), 2
        found = name
        while found.casefold() in taken:
            found, number = f"{name}-{number}", number + 1
        taken.add(found.casefold())
        names.append(found)
    return names


def filled(path: Path, places: Sequence[str], names: Sequence[str]) -> Path:
    """Return a path with names in the places of ``{place}``; those that have none stand before the ending.

    >>> str(filled(Path("{species}.csv"), ("species", "grade"), ("oak", "A")))
    'oak-A.csv'
    """
    marks = {f"{{{place}}}": name for place, name in zip(places, names, strict=True)}
    text = str(path)
    found = re.sub("|".join(map(re.escape, marks)), lambda mark: marks[mark[0]], text)
    rest = [name for mark, name in marks.items() if mark not in text]
    path = Path(found)
    if not rest:
        return path
    endings = "".join(_endings(path))
    stem = path.name.removesuffix(endings) if endings else path.name
    return path.with_name(f"{'-'.join([stem, *rest])}{endings}")


def _endings(path: Path) -> Iterator[str]:
    compressed = path.suffix.lower() in ENDINGS
    if compressed:
        yield path.with_suffix("").suffix
    yield path.suffix
