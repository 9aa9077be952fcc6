"""Indexes of many keys, kept in the cache by what they were made of: the next run finds them made."""

from __future__ import annotations

import contextlib
import hashlib
import json
import logging
import zlib
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from yardcut.core import litter
from yardcut.core.errors import SourceError
from yardcut.core.expressions.testing.text_tests import fold_trimmed
from yardcut.core.matching.key_index import KeyIndex, index_keys
from yardcut.core.matching.number_keys import NumberKeys, common_kind
from yardcut.core.private import private_opener
from yardcut.core.sources.store.cache import new_folder, place_folder, trim_cache
from yardcut.core.sources.store.own_folders import stores_folder
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_table import FORMAT
from yardcut.core.table.text_keys import TextKeys
from yardcut.core.table.vectors import NumericVector, Vector
from yardcut.core.values.kinds import Kind

KEPT_FROM = 1 << 17
"""An index of fewer keys is made again as quickly as it is found."""
_FORM = 1
"""Goes up with every change of what the arrays mean; where stores are read anew, an index is made anew too."""
_NAME = "keys-"
_WITHOUT = "without"
_SUMS = "sums.json"
"""The checksum of each array: one that rotted would find less than there is."""

_log = logging.getLogger(__name__)


def kept_index(made_of: str, vectors: Sequence[Vector], kinds: Sequence[Kind], *, ignoring_case: bool) -> KeyIndex:
    """Return the index of a second table's keys, as :func:`index_keys` does: from the cache where it is there.

    ``made_of`` tells the rows and the values of their keys from all others. One of many keys is put into the cache,
    and mapped from there; where that cannot be written it stays in memory.
    """
    if len(vectors[0]) < KEPT_FROM:
        return index_keys(vectors, kinds, ignoring_case=ignoring_case)
    said = f"{_FORM} {FORMAT} {made_of} {[str(kind) for kind in kinds]} {ignoring_case}"
    digest = hashlib.blake2b(said.encode("utf-8", "surrogatepass"), digest_size=12).hexdigest()
    folder = stores_folder() / f"{_NAME}{digest}"
    with contextlib.suppress(OSError, ValueError, KeyError):
        return _read(folder, vectors, kinds, ignoring_case=ignoring_case)
    index = index_keys(vectors, kinds, ignoring_case=ignoring_case)
    if len(index) < KEPT_FROM:
        return index
    try:
        _write(index, folder)
        return _read(folder, vectors, kinds, ignoring_case=ignoring_case)
    except (OSError, SourceError, ValueError, KeyError) as error:
        _log.info("an index of %d keys is not kept: %s", len(index), type(error).__name__)
        return index


def _write(index: KeyIndex, folder: Path) -> None:
    """Write an index into a folder of the cache. Raises ``OSError``, ``SourceError``."""
    arrays = {"rows": index.rows, "begins": index.begins, _WITHOUT: np.array([index.without])}
    arrays |= {f"fold{number}": fold for number, fold in enumerate(index.folds)}
    for number, column in enumerate(index.columns):
        arrays |= {f"column{number}-{name}": array for name, array in column.arrays.items()}
    building = new_folder()
    try:
        for name, array in arrays.items():
            with open(building / f"{name}.npy", "wb", opener=private_opener) as file:
                np.lib.format.write_array(file, array, allow_pickle=False)
        with open(building / _SUMS, "w", opener=private_opener) as file:
            json.dump({name: _sum(array) for name, array in arrays.items()}, file)
        place_folder(building, folder)
    except BaseException:
        litter.drop(building)
        raise
    trim_cache(keep=folder)


def _read(folder: Path, vectors: Sequence[Vector], kinds: Sequence[Kind], *, ignoring_case: bool) -> KeyIndex:
    """Map an index. Raises ``OSError`` where there is none, ``ValueError`` or ``KeyError`` where it is not whole."""
    sums = json.loads((folder / _SUMS).read_text())
    arrays = {name: np.load(folder / f"{name}.npy", mmap_mode="r", allow_pickle=False) for name in sums}
    if any(_sum(array) != sums[name] for name, array in arrays.items()):
        raise ValueError("an array is another than was written")
    columns: list[TextKeys | NumberKeys] = []
    for number, (vector, kind) in enumerate(zip(vectors, kinds, strict=True)):
        own = _of_column(arrays, number)
        if isinstance(vector, NumericVector):
            columns.append(NumberKeys(common_kind(kind, vector.kind), own))
        else:
            fold = fold_trimmed if ignoring_case else None
            columns.append(TextKeys(own, fold))
    folds = tuple(arrays[f"fold{number}"] for number in range(len(vectors) - 1))
    index = KeyIndex(tuple(columns), folds, arrays["rows"], arrays["begins"], int(arrays[_WITHOUT][0]))
    if len(index.rows) + index.without != len(vectors[0]) or int(index.begins[-1]) != len(index.rows):
        raise ValueError("the index is of other rows")
    folder.touch()
    return index


def _sum(array: Array) -> int:
    return zlib.crc32(np.ascontiguousarray(array).view(np.uint8).data)


def _of_column(arrays: dict[str, Array], number: int) -> dict[str, Array]:
    start = f"column{number}-"
    return {name.removeprefix(start): array for name, array in arrays.items() if name.startswith(start)}
