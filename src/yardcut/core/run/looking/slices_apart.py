"""Two slices beside each other: rows that only one has, and cells that are others in rows both have, told by key."""

from __future__ import annotations

import hashlib
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import field

import numpy as np

from yardcut.core.errors import ListError, Mend
from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.matching.key_index import KeyIndex, index_keys
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import CodedVector, NumericVector, PlainVector, Vector, taken_from
from yardcut.core.table.window import Scatter
from yardcut.core.values.formatting import quote_name
from yardcut.core.values.kinds import Kind, comparable

_BLOCK_ROWS = 1 << 16
_DIGEST_BYTES = 16
_SHOWN_KEYS = 3


@dataclass(frozen=True, slots=True)
class Change:
    """One difference: a row that only one side has (``column`` is ""), or a cell that is another there.

    ``key`` has the values that tell the row, or its place from 1 where no column does.
    """

    what: str
    key: tuple[str, ...]
    column: str = ""
    here: str | None = None
    there: str | None = None


ONLY_HERE, ONLY_THERE, CHANGED = "only here", "only there", "changed"


@dataclass(slots=True)
class Apart:
    """What two slices have in common and what not.

    ``keys`` are the columns that tell rows; rows without such a value, or all without any such column, are compared as
    whole rows. ``cells`` counts cells that are
    others, by column, and ``changed`` the rows they stand in.
    """

    keys: tuple[str, ...]
    both: int = 0
    only_here: int = 0
    only_there: int = 0
    changed: int = 0
    cells: Counter[str] = field(default_factory=Counter)
    columns_here: tuple[str, ...] = ()
    columns_there: tuple[str, ...] = ()
    is_in_order: bool = True
    """Whether the rows that both have stand in one order."""

    @property
    def is_same(self) -> bool:
        """True where rows and columns are the same, whatever their order."""
        return not (self.only_here or self.only_there or self.changed or self.columns_here or self.columns_there)


class Slices:
    """Two slices, by their frames; :meth:`changes` goes over them once, and :attr:`apart` is whole then."""

    def __init__(self, here: Frame, there: Frame, keys: Sequence[str], token: CancelToken, progress: Progress) -> None:
        self._here, self._there, self._token, self._progress = here, there, token, progress
        theirs = {column.name: column for column in there.columns}
        self._shared = [(column, theirs[column.name]) for column in here.columns if column.name in theirs]
        if not self._shared:
            raise ListError("the two have no column of one name")
        for side, frame in enumerate((here, there)):
            frame.table.load(
                sorted(set().union(*(columns_of(pair[side].value) for pair in self._shared))), token, progress
            )
        self._windows = [Scatter(frame.table, frame.rows.ids(0, frame.rows.count)) for frame in (here, there)]
        self._keys = self._named(keys) if keys else self._guessed()
        ours = {column.name for column, _ in self._shared}
        self.apart = Apart(
            tuple(one.name for one, _ in self._keys),
            columns_here=tuple(each.name for each in here.columns if each.name not in ours),
            columns_there=tuple(each.name for each in there.columns if each.name not in ours),
        )

    def changes(self) -> Iterator[Change]:
        """Yield every difference: rows in the order of their side, cells row by row. Raises ``StoppedError``.

        Raises ``ListError`` for a key that stands several times on a side: it tells no row.
        """
        if self._keys:
            yield from self._by_key()
        else:
            places = [np.arange(len(window)) for window in self._windows]
            yield from self._by_row(places[0], places[1])

    # keys

    def _named(self, names: Sequence[str]) -> list[tuple[ShownColumn, ShownColumn]]:
        found = []
        for name in names:
            pair = next((pair for pair in self._shared if pair[0].name == name), None)
            if pair is None:
                raise ListError(
                    f"{quote_name(name)} is no column of both",
                    mend=Mend("both have " + ", ".join(one.name for one, _ in self._shared[:12])),
                )
            if not comparable(pair[0].kind, pair[1].kind):
                raise ListError(f"{quote_name(name)} is {pair[0].kind} in one and {pair[1].kind} in the other")
            found.append(pair)
        return found

    def _guessed(self) -> list[tuple[ShownColumn, ShownColumn]]:
        """Return the first column that tells the rows of both sides apart and meets in half of them, else the first."""
        first: list[tuple[ShownColumn, ShownColumn]] = []
        for pair in self._shared:
            self._token.check()
            if not comparable(pair[0].kind, pair[1].kind):
                continue
            one, other = self._vectors([pair])
            met = _meeting(one, other, pair)
            if met is None:
                continue
            if 2 * met >= min(len(one[0]), len(other[0])):
                return [pair]
            first = first or [pair]
        return first

    def _vectors(self, pairs: Sequence[tuple[ShownColumn, ShownColumn]]) -> tuple[list[Vector], list[Vector]]:
        here, there = self._windows
        return [evaluate(one.value, here) for one, _ in pairs], [evaluate(other.value, there) for _, other in pairs]

    @staticmethod
    def _index(vectors: Sequence[Vector], pairs: Sequence[tuple[ShownColumn, ShownColumn]]) -> KeyIndex:
        return index_keys(vectors, [one.kind for one, _ in pairs])

    def _by_key(self) -> Iterator[Change]:
        """Compare rows by their keys; those without one are compared as whole rows."""
        apart, (ours, theirs) = self.apart, self._vectors(self._keys)
        index = self._index(theirs, self._keys)
        numbers = index.find(ours)
        self._refuse_doubles(index, numbers, ours, theirs)
        bare = [_without_key(vectors) for vectors in (ours, theirs)]
        here, alone = np.flatnonzero(numbers >= 0), np.flatnonzero((numbers < 0) & ~bare[0])
        there = index.first_rows[numbers[here]]
        gone = ~bare[1]
        gone[there] = False
        yield from self._alone(ONLY_HERE, ours, alone)
        yield from self._alone(ONLY_THERE, theirs, np.flatnonzero(gone))
        apart.only_here, apart.only_there, apart.both = len(alone), int(gone.sum()), len(here)
        apart.is_in_order = bool((np.diff(there) > 0).all())
        if bare[0].any() or bare[1].any():
            yield from self._by_row(np.flatnonzero(bare[0]), np.flatnonzero(bare[1]))
        yield from self._cells(here, there, ours)

    def _refuse_doubles(
        self, index: KeyIndex, numbers: Array, ours: Sequence[Vector], theirs: Sequence[Vector]
    ) -> None:
        """Raise ``ListError`` for keys that stand several times on a side: they tell no row."""
        met = np.flatnonzero(np.bincount(numbers[numbers >= 0], minlength=len(index)) > 1)
        if len(met):
            rows = np.array([int(np.argmax(numbers == each)) for each in met[:_SHOWN_KEYS]])
            raise _doubled(self.apart.keys, _texts(ours, rows), len(met))
        several = np.flatnonzero(index.counts > 1)
        if len(several):
            raise _doubled(self.apart.keys, _texts(theirs, index.first_rows[several[:_SHOWN_KEYS]]), len(several))

    def _alone(self, what: str, vectors: Sequence[Vector], rows: Array) -> Iterator[Change]:
        for start in range(0, len(rows), _BLOCK_ROWS):
            for key in _texts(vectors, rows[start : start + _BLOCK_ROWS]):
                yield Change(what, key)

    def _cells(self, here: Array, there: Array, keys: Sequence[Vector]) -> Iterator[Change]:
        """Compare the cells of rows that both have."""
        told = {one.name for one, _ in self._keys}
        pairs = [pair for pair in self._shared if pair[0].name not in told]
        self._progress.begin("comparing rows", len(here))
        for start in range(0, len(here), _BLOCK_ROWS):
            self._token.check()
            one, other = here[start : start + _BLOCK_ROWS], there[start : start + _BLOCK_ROWS]
            windows = [Scatter(w.table, w.row_ids[rows]) for w, rows in zip(self._windows, (one, other), strict=True)]
            found: list[tuple[int, str, str | None, str | None]] = []
            for ours, theirs in pairs:
                cells = [evaluate(each.value, w) for each, w in zip((ours, theirs), windows, strict=True)]
                apart = _places_apart(cells[0], cells[1])
                if len(apart):
                    texts = [taken_from(each, apart).texts() for each in cells]
                    both = zip(apart.tolist(), *texts, strict=True)
                    found += [(place, ours.name, mine, its) for place, mine, its in both]
            found.sort(key=lambda each: each[0])
            places = sorted({place for place, *_ in found})
            named = dict(zip(places, _texts(keys, one[places]), strict=True)) if places else {}
            self.apart.changed += len(places)
            self.apart.cells.update(name for _, name, _, _ in found)
            for place, name, mine, its in found:
                yield Change(CHANGED, named[place], name, mine, its)
            self._progress.advance(len(one))

    # whole rows

    def _by_row(self, here: Array, there: Array) -> Iterator[Change]:
        """Compare whole rows, those of some places of each side, as often as each stands."""
        apart = self.apart
        ours, theirs = list(self._digests(0, here)), list(self._digests(1, there))
        left = Counter(theirs)
        left.subtract(Counter(ours))
        for what, rows, places, sign in ((ONLY_HERE, ours, here, -1), (ONLY_THERE, theirs, there, 1)):
            found = _left_over(rows, Counter({each: sign * count for each, count in left.items() if sign * count > 0}))
            if sign < 0:
                apart.only_here += len(found)
                apart.both += len(rows) - len(found)
            else:
                apart.only_there += len(found)
            for place in found:
                yield Change(what, (f"row {int(places[place]) + 1:,}", *[""] * (len(self._keys) - 1)))
        apart.is_in_order &= bool(+left or -left) or ours == theirs

    def _digests(self, side: int, places: Array) -> Iterator[bytes]:
        window = self._windows[side]
        columns = [pair[side] for pair in self._shared]
        for start in range(0, len(places), _BLOCK_ROWS):
            self._token.check()
            part = Scatter(window.table, window.row_ids[places[start : start + _BLOCK_ROWS]])
            for row in zip(*(evaluate(column.value, part).texts() for column in columns), strict=True):
                yield hashlib.blake2b(repr(row).encode("utf-8", "surrogatepass"), digest_size=_DIGEST_BYTES).digest()


def _left_over(rows: Sequence[bytes], left: Counter[bytes]) -> list[int]:
    """Return the places of rows that are left over: of equal ones the last, since the first have a partner."""
    found = []
    for place in range(len(rows) - 1, -1, -1):
        if left[rows[place]] > 0:
            left[rows[place]] -= 1
            found.append(place)
    return found[::-1]


def _without_key(vectors: Sequence[Vector]) -> Array:
    """Tell of each row whether a part of its key is missing."""
    found = np.zeros(len(vectors[0]), np.bool_)
    for vector in vectors:
        missing = vector.missing_mask()
        if missing is not None:
            found |= missing
    return found


def _meeting(one: Sequence[Vector], other: Sequence[Vector], pair: tuple[ShownColumn, ShownColumn]) -> int | None:
    """Return how many rows meet by a column; ``None`` where it does not tell the rows of a side apart."""
    index = index_keys(other, [pair[0].kind])
    numbers = index.find(one)
    met = numbers[numbers >= 0]
    own = index_keys(one, [pair[0].kind])
    is_told = all(
        each.counts.max(initial=0) <= 1 and 2 * len(each) >= rows
        for each, rows in ((index, len(other[0])), (own, len(one[0])))
    )
    return len(met) if is_told and len(one[0]) and len(other[0]) else None


def _places_apart(one: Vector, other: Vector) -> Array:
    """Return the places where two vectors do not show the same; numbers of one kind are compared as they are."""
    alike = isinstance(one, NumericVector) and isinstance(other, NumericVector) and one.kind is other.kind
    if alike and one.kind is not Kind.INSTANT and one.values.dtype.kind == other.values.dtype.kind:  # type: ignore[union-attr]
        assert isinstance(one, NumericVector)
        assert isinstance(other, NumericVector)
        gone = [
            np.zeros(len(each), np.bool_) if (mask := each.missing_mask()) is None else mask for each in (one, other)
        ]
        return np.flatnonzero((gone[0] != gone[1]) | (~gone[0] & ~gone[1] & (one.values != other.values)))
    if (
        isinstance(one, PlainVector) and isinstance(other, PlainVector) and one.missing is other.missing is None
        and np.array_equal(np.diff(one.offsets), np.diff(other.offsets)) and one.window() == other.window()
    ):  # fmt: skip
        return np.empty(0, np.int64)
    if isinstance(one, CodedVector) and isinstance(other, CodedVector) and one.dictionary is other.dictionary:
        return np.flatnonzero(one.codes != other.codes)
    mine, its = one.texts(), other.texts()
    if mine == its:
        return np.empty(0, np.int64)
    return np.array([place for place, pair in enumerate(zip(mine, its, strict=True)) if pair[0] != pair[1]], np.int64)


def _texts(vectors: Sequence[Vector], rows: Array) -> list[tuple[str, ...]]:
    columns = [[text or "" for text in taken_from(vector, rows).texts()] for vector in vectors]
    return list(zip(*columns, strict=True))


def _doubled(names: Sequence[str], shown: Sequence[tuple[str, ...]], count: int) -> ListError:
    said = ", ".join(" ".join(key) for key in shown)
    more = f" and {count - len(shown):,} more" if count > len(shown) else ""
    return ListError(
        f"{', '.join(names)} does not tell the rows apart: {said}{more} stand several times on one side",
        mend=Mend("name more columns: --key ticket --key bay"),
    )
