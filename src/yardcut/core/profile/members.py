"""Which rows of a part count: members of the set that have a value."""

from __future__ import annotations

import numpy as np

from yardcut.core.scanning.row_parts import Part
from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.vectors import Vector


def members_with_values(vector: Vector, members: Array | None, part: Part) -> Array:
    """Return True for each row of a part (its values a ``vector``) that is a member and has a value.

    ``members`` are one bit a row of the table; ``None``: all of them.
    """
    kept = np.ones(part.rows, dtype=np.bool_)
    if members is not None:
        kept = bit.unpack(members, part.first_row, part.end_row).copy()
    missing = vector.missing_mask()
    if missing is not None:
        kept &= ~missing
    return kept
