"""Putting more rows in order than memory should hold the keys of."""

from __future__ import annotations

import os
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor

import numpy as np

from yardcut.core import litter
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.fields import Field, KeyPlan
from yardcut.core.ranking.sorting import fields_of
from yardcut.core.ranking.spilling import Block, sort_on_disk
from yardcut.core.scanning.parts import BLOCK_ROWS
from yardcut.core.sources.cache import SORTING, own_folder, reading_failed, stores_folder
from yardcut.core.table import bits as bit
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.table import Table


def sort_large(
    rows: RowSet, plans: tuple[KeyPlan, ...], table: Table, room_rows: int, token: CancelToken,
    progress: Progress | None = None, seed: int | None = None,
) -> RowSet:  # fmt: skip
    """Return the rows in the order of their keys, ``room_rows`` at once in memory, the rest in the cache directory.

    Raises ``SourceError`` when that cannot be written or is full, and ``StoppedError``.
    """
    if progress is not None:
        progress.begin("encoding", table.rows)
    parent = stores_folder()
    try:
        parent.mkdir(parents=True, exist_ok=True)
        folder = own_folder(parent, SORTING)
        try:
            blocks = _blocks(rows, plans, table, room_rows, token, progress, seed)
            ids = sort_on_disk(blocks, rows.count, room_rows, folder, token, progress)
        finally:
            litter.drop(folder)
    except OSError as error:
        raise reading_failed(error, "the order", parent) from error
    return RowSet(rows.table_rows, rows.bits, ids)


def _blocks(
    rows: RowSet, plans: tuple[KeyPlan, ...], table: Table, room_rows: int, token: CancelToken,
    progress: Progress | None, seed: int | None,
) -> Iterator[Block]:  # fmt: skip
    """Yield keys and numbers of the rows, in the source's order, of whole blocks of the source at once."""
    share = rows.count / max(1, table.rows)
    step = max(1, int(room_rows / max(share, 1e-9)) // BLOCK_ROWS) * BLOCK_ROWS

    def encode(first: int) -> Block:
        token.check()
        end = min(first + BLOCK_ROWS, table.rows)
        fields = fields_of(plans, table, first, end, seed)
        if rows.places is not None:
            fields.append((rows.places[first:end].astype(np.uint64), 32))
        chosen = bit.positions(rows.bits, first, end)
        if chosen is None:
            return fields, np.arange(first, end, dtype=np.uint32)
        return [(values[chosen], bits) for values, bits in fields], (chosen + first).astype(np.uint32)

    with ThreadPoolExecutor(os.cpu_count() or 1, thread_name_prefix="encode") as pool:
        for start in range(0, table.rows, step):
            found = list(pool.map(encode, range(start, min(start + step, table.rows), BLOCK_ROWS)))
            yield _joined([fields for fields, _ in found]), np.concatenate([ids for _, ids in found])
            if progress is not None:
                progress.advance(min(step, table.rows - start))


def _joined(blocks: list[list[Field]]) -> list[Field]:
    return [(np.concatenate([values for values, _ in same]), same[0][1]) for same in zip(*blocks, strict=True)]
