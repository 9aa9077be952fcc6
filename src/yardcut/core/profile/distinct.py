"""The distinct values of a column among some rows, each with how many rows it stands in."""

from __future__ import annotations

import numpy as np

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.zones import zone_of
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.language.meaning.bound_parts import columns_of
from yardcut.core.profile.gathering import Gathered, GatherRound
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Runner
from yardcut.core.table.array_file import Array
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.window import Scatter
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind

MOST_VALUES = 10_000
"""Of a column with more different values only the commonest are listed."""
_MOST_STEPS = 1 << 22
_LOOKED_AT, _NEAR_BITS = 1 << 20, 20


@dataclass(frozen=True, slots=True)
class DistinctValues:
    """Values as the grid shows them with their rows, ascending by value where all are listed, else the commonest.

    ``distinct`` counts all different values, ``missing`` the rows without one, ``rows`` all.
    """

    values: tuple[tuple[str, int], ...]
    distinct: int
    missing: int
    rows: int

    @property
    def is_whole(self) -> bool:
        """True when every value is listed."""
        return len(self.values) == self.distinct


def distinct_values(
    value: BoundValue, rows: RowSet, runner: Runner, token: CancelToken, progress: Progress | None = None,
    most: int = MOST_VALUES,
) -> DistinctValues:  # fmt: skip
    """Count the different values of a column. O(n log n); many different texts are told apart by 64-bit hashes."""
    table = runner.table
    table.load(columns_of(value), token, progress)
    gathered = runner.run(GatherRound(value, rows.bits), token, progress)
    token.check()
    if gathered.dictionary is not None and gathered.counts is not None:
        pairs = [
            (text, count)
            for text, count in zip(gathered.dictionary.texts, gathered.counts.tolist(), strict=True)
            if count
        ]
        present = sum(count for _, count in pairs)
        if len(pairs) > most:
            pairs = sorted(pairs, key=lambda pair: -pair[1])[:most]
            return DistinctValues(tuple(pairs), _used(gathered.counts), rows.count - present, rows.count)
        return DistinctValues(tuple(sorted(pairs)), len(pairs), rows.count - present, rows.count)
    assert gathered.values is not None
    if value.kind is Kind.TEXT:
        return _hashed(gathered, value, rows, runner, most)
    values = gathered.values + 0.0 if gathered.values.dtype.kind == "f" else gathered.values  # -0.0 is 0.0
    different, counts = _counted(values)
    chosen = _commonest(counts, most)
    write = formatter(value.kind, zone_of(value, table))
    shown = [write(each) for each in _as_values(different[chosen], value.kind)]
    pairs = list(zip(shown, counts[chosen].tolist(), strict=True))
    return DistinctValues(tuple(pairs), len(different), rows.count - len(values), rows.count)


def _counted(values: Array) -> tuple[Array, Array]:
    """Return the different values, ascending, and how often each stands; integers close together without sorting."""
    if len(values) and values.dtype.kind in "iub":
        least, largest = int(values.min()), int(values.max())
        if largest - least < _MOST_STEPS:
            times = np.bincount(values.astype(np.int64) - least)
            used = np.flatnonzero(times)
            return used + least, times[used]
    return np.unique(values, return_counts=True)


def _used(counts: Array) -> int:
    return int(np.count_nonzero(counts))


def _as_values(values: Array, kind: Kind) -> list[object]:
    return [bool(each) for each in values.tolist()] if kind is Kind.BOOLEAN else values.tolist()


def _commonest(counts: Array, most: int) -> Array:
    """Return the places of the largest counts, the largest first; all places in order when they are few enough."""
    if len(counts) <= most:
        return np.arange(len(counts))
    least = np.partition(counts, len(counts) - most)[len(counts) - most]
    above = np.flatnonzero(counts > least)
    places = np.concatenate((above, np.flatnonzero(counts == least)[: most - len(above)]))
    return places[np.argsort(-counts[places], kind="stable")]


def _hashed(gathered: Gathered, value: BoundValue, rows: RowSet, runner: Runner, most: int) -> DistinctValues:
    hashes, row_ids = gathered.values, gathered.row_ids
    assert hashes is not None
    assert row_ids is not None
    different, counts = _runs(np.sort(hashes))
    chosen = different[:most] if counts is None else different[_commonest(counts, most)]
    wanted = np.sort(chosen)
    somewhere = row_ids[_places_of(wanted, hashes)]
    found = evaluate(value, Scatter(runner.table, somewhere[np.searchsorted(wanted, chosen)])).texts()
    often = [1] * len(chosen) if counts is None else counts[np.searchsorted(different, chosen)].tolist()
    pairs = [(text or "", count) for text, count in zip(found, often, strict=True)]
    if len(pairs) == len(different):
        pairs.sort()
    return DistinctValues(tuple(pairs), len(different), rows.count - len(hashes), rows.count)


def _runs(values: Array) -> tuple[Array, Array | None]:
    """Return the different ones of ascending values, and how often each stands there; ``None`` where all do once."""
    begins = np.empty(len(values), np.bool_)
    begins[:1] = True
    np.not_equal(values[1:], values[:-1], out=begins[1:])
    if begins.all():
        return values, None
    starts = np.flatnonzero(begins)
    return values[starts], np.diff(starts, append=len(values))


def _places_of(wanted: Array, hashes: Array) -> Array:
    """Return a place of each of some hashes (ascending, all of them there) among others.

    Most of the others are told from them by their highest bits; nobody looks on when all are found.
    """
    places, left = np.full(len(wanted), -1, np.int64), wanted
    for start in range(0, len(hashes), _LOOKED_AT):
        if not len(left):
            break
        some = hashes[start : start + _LOOKED_AT]
        is_near = np.zeros(1 << _NEAR_BITS, np.bool_)
        is_near[left >> np.uint64(64 - _NEAR_BITS)] = True
        near = np.flatnonzero(is_near[some >> np.uint64(64 - _NEAR_BITS)])
        at = np.searchsorted(wanted, some[near])
        at[at == len(wanted)] = 0
        hits = np.flatnonzero(wanted[at] == some[near])
        places[at[hits]] = near[hits] + start
        left = wanted[places < 0]
    return places
