"""The rank by chance of a row. It is part of the language: the same seed ranks the same rows alike for ever.

The rank of row ``r`` (from 0, data rows only) of file ``f`` (its place in the stack, from 0) under a seed ``s`` is
output number ``r`` of the generator SplitMix64 (Steele, Lea and Flood, "Fast splittable pseudorandom number
generators", OOPSLA 2014), started at ``mix(mix(s) ^ f)``. All arithmetic is modulo 2^64. Of a row drawn several times
copy number 0 has the rank of the row, and copy number ``k`` output number ``k`` of the generator started at that rank.
"""

from __future__ import annotations

from fractions import Fraction

import numpy as np

from yardcut.core.table.array_file import Array
from yardcut.core.table.copies import TableOfCopies
from yardcut.core.table.stored_table import Table

_WORD = (1 << 64) - 1
GAMMA = 0x9E3779B97F4A7C15
MIXING = ((30, 0xBF58476D1CE4E5B9), (27, 0x94D049BB133111EB))
"""A state is XORed with itself shifted right by the first number and multiplied by the second, one after the other."""
LAST_SHIFT = 31
_BLOCK_ROWS = 1 << 15
_STEPS = np.arange(_BLOCK_ROWS, dtype=np.uint64) * np.uint64(GAMMA)
SEED_LIMIT = 1 << 63


def mix(value: int) -> int:
    """Return SplitMix64's first output for the state ``value``."""
    value = (value + GAMMA) & _WORD
    for shift, factor in MIXING:
        value = ((value ^ (value >> shift)) * factor) & _WORD
    return value ^ (value >> LAST_SHIFT)


def first_state(seed: int, file_number: int) -> int:
    """Return the state that row 0 of a file is mixed from, once the step is added that each row adds."""
    return (mix(mix(seed) ^ file_number) + GAMMA) & _WORD


def row_rank(seed: int, file_number: int, row: int) -> int:
    """Return the rank of one row: the plain definition that :func:`row_ranks` must agree with.

    >>> row_rank(7, 0, 0) == int(row_ranks(7, 0, np.array([0]))[0])
    True
    """
    return mix((mix(mix(seed) ^ file_number) + row * GAMMA) & _WORD)


def row_ranks(seed: int, file_number: int, rows: Array) -> Array:
    """Return the ranks (uint64) of rows given by number within their file (any integer dtype)."""
    value = rows.astype(np.uint64)
    value *= np.uint64(GAMMA)
    value += np.uint64(first_state(seed, file_number))
    _mix_in_place(value, np.empty_like(value))
    return value


def row_ranks_between(seed: int, file_number: int, first_row: int, end_row: int) -> Array:
    """Return the ranks (uint64) of consecutive rows, in blocks that stay in the processor's cache."""
    start = first_state(seed, file_number)
    ranks = np.empty(end_row - first_row, dtype=np.uint64)
    scratch = np.empty(min(_BLOCK_ROWS, len(ranks)), dtype=np.uint64)
    for at in range(0, len(ranks), _BLOCK_ROWS):
        block = ranks[at : at + _BLOCK_ROWS]
        np.add(_STEPS[: len(block)], np.uint64((start + (first_row + at) * GAMMA) & _WORD), out=block)
        _mix_in_place(block, scratch[: len(block)])
    return ranks


def table_ranks(seed: int, table: Table, first_row: int, end_row: int) -> Array:
    """Return the ranks (uint64) of rows of a table, which may come from several files."""
    if isinstance(table, TableOfCopies):
        return _ranks_at(seed, table, np.arange(first_row, end_row))
    pieces = [row_ranks_between(seed, number, first, end) for number, first, end in table.segments(first_row, end_row)]
    return pieces[0] if len(pieces) == 1 else np.concatenate([np.empty(0, dtype=np.uint64), *pieces])


def _ranks_at(seed: int, table: Table, row_ids: Array) -> Array:
    """Return the ranks (uint64) of rows from all over a table."""
    if isinstance(table, TableOfCopies):
        ranks, copies = _ranks_at(seed, table.origin, table.copied[row_ids]), table.copy_numbers[row_ids]
        again = np.flatnonzero(copies)
        value = ranks[again] + (copies[again].astype(np.uint64) + np.uint64(1)) * np.uint64(GAMMA)
        _mix_in_place(value, np.empty_like(value))
        ranks[again] = value
        return ranks
    ranks, row_ids = np.empty(len(row_ids), dtype=np.uint64), row_ids.astype(np.int64)
    start = 0
    for file in table.info.files:
        within = np.flatnonzero((row_ids >= start) & (row_ids < start + file.rows))
        ranks[within] = row_ranks(seed, file.number, row_ids[within] - start)
        start += file.rows
    return ranks


def _mix_in_place(value: Array, scratch: Array) -> None:
    for shift, factor in MIXING:
        np.right_shift(value, np.uint64(shift), out=scratch)
        value ^= scratch
        value *= np.uint64(factor)
    np.right_shift(value, np.uint64(LAST_SHIFT), out=scratch)
    value ^= scratch


def chance_limit(chance: Fraction) -> int:
    """Return the rank below which a row is drawn with the given chance: ``floor(chance * 2^64)``."""
    return int(chance * (1 << 64))
