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


def scattered_in(place: BlockPlace, mask: Array) -> Scattered | None:
    """Return the groups around the wanted rows of a block; ``None`` where they are no way to read it sooner."""
    if place.groups is None or len(mask) != place.rows:
        return None
    groups = np.flatnonzero(np.bincount(np.flatnonzero(mask) // GROUP_LINES))
    if len(groups) * GROUP_LINES > _LARGEST_SHARE * place.rows:
        return None
    bounds = np.concatenate(([0], place.groups.astype(np.int64), [place.size_bytes])) + place.start
    lines = np.minimum(GROUP_LINES, place.rows - groups * GROUP_LINES)
    rows = (groups[:, None] * GROUP_LINES + np.arange(GROUP_LINES)).ravel()
    wanted = mask[rows[: int(lines.sum())]]  # only the last group can be shorter
    return Scattered(bounds[groups], bounds[groups + 1] - bounds[groups], lines, wanted, ((place, mask),))


def together(parts: Sequence[Scattered]) -> Scattered:
    """Return the groups of several blocks, in their order, as one."""
    if len(parts) == 1:
        return parts[0]
    starts, sizes, lines, wanted = (
        np.concatenate([getattr(part, name) for part in parts]) for name in ("starts", "sizes", "lines", "wanted")
    )
    return Scattered(starts, sizes, lines, wanted, tuple(block for part in parts for block in part.blocks))
