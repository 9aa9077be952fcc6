"""Wanted rows that stand here and there: they are read with the lines around them, those of many blocks at once."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.delimited_blocks.block_index import BlockPlace
from yardcut.core.sources.delimited_blocks.line_feeds import GROUP_LINES
from yardcut.core.table.array_file import Array

_LARGEST_SHARE = 0.5
"""Of a block's rows: where more of them would be read around those that are wanted, all of it is read."""


@dataclass(frozen=True, slots=True)
class Scattered:
    """Groups of lines in a file: the bytes each begins with, its size in bytes, and its lines (int64 all).

    ``wanted`` (booleans) tells which of all these lines are; ``blocks`` are those that the groups are of, each with the
    rows that are wanted of it.
    """

    starts: Array
    sizes: Array
    lines: Array
    wanted: Array
    blocks: tuple[tuple[BlockPlace, Array], ...]

    @property
    def size_bytes(self) -> int:
        """How many bytes the groups have."""
        return int(self.sizes.sum())


def scattered_in(places: Sequence[BlockPlace], mask: Array) -> Scattered | None:
    """Return the groups around the wanted rows of neighbouring blocks, at least one.

    ``None`` where these are no way to read one of the blocks sooner.
    """
    rows = np.array([place.rows for place in places], np.int64)
    counts = np.array([0 if place.groups is None else len(place.groups) + 1 for place in places], np.int64)
    if len(mask) != int(rows.sum()) or bool((counts != -(-rows // GROUP_LINES)).any()):
        return None
    first_rows, first_groups = np.cumsum(rows) - rows, np.cumsum(counts) - counts
    ids = np.flatnonzero(mask)
    block = np.searchsorted(first_rows, ids, side="right") - 1
    group = (ids - first_rows[block]) // GROUP_LINES + first_groups[block]
    group = group[np.flatnonzero(np.diff(group, prepend=-1))]
    block = np.searchsorted(first_groups, group, side="right") - 1
    taken = np.bincount(block, minlength=len(places))
    if bool((taken * GROUP_LINES > _LARGEST_SHARE * rows).any()):
        return None
    bounds = np.concatenate([part for place in places for part in _bounds(place)])
    starts, ends = bounds[group + block], bounds[group + block + 1]  # a block has one bound more than groups
    before = (group - first_groups[block]) * GROUP_LINES
    lines = np.minimum(GROUP_LINES, rows[block] - before)
    within = np.arange(GROUP_LINES)
    wanted = mask[((first_rows[block] + before)[:, None] + within)[within < lines[:, None]]]
    blocks = tuple(
        (places[number], mask[first_rows[number] : first_rows[number] + rows[number]])
        for number in np.flatnonzero(taken).tolist()
    )
    return Scattered(starts, ends - starts, lines, wanted, blocks)


def _bounds(place: BlockPlace) -> tuple[Array, Array, Array]:
    assert place.groups is not None
    return np.array([place.start]), place.groups + np.int64(place.start), np.array([place.start + place.size_bytes])


def together(parts: Sequence[Scattered]) -> Scattered:
    """Return several, in their order, as one."""
    if len(parts) == 1:
        return parts[0]
    starts, sizes, lines, wanted = (
        np.concatenate([getattr(part, name) for part in parts]) for name in ("starts", "sizes", "lines", "wanted")
    )
    return Scattered(starts, sizes, lines, wanted, tuple(block for part in parts for block in part.blocks))
