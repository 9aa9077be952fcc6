"""A folder for the rows of a sort that are more than memory should hold."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path

from yardcut.core import litter
from yardcut.core.ranking.ordering.key_ranges_kept import RangeOnDisk, RangeRows
from yardcut.core.sources.store.cache import reading_failed
from yardcut.core.sources.store.own_folders import SORTING, own_folder, stores_folder


@contextmanager
def ranges_on_disk() -> Iterator[Callable[[], RangeRows]]:
    """Give what begins a new range on disk, as long as the block lasts. Raises as :func:`sorting_folder`."""
    with sorting_folder() as folder:
        yield partial(RangeOnDisk.new, folder)


@contextmanager
def sorting_folder() -> Iterator[Path]:
    """Give a folder of one's own in the cache directory, as long as the block lasts.

    Raises ``SourceError`` when the directory cannot be written, or is full.
    """
    parent = stores_folder()
    try:
        parent.mkdir(parents=True, exist_ok=True)
        folder = own_folder(parent, SORTING)
        try:
            yield folder
        finally:
            litter.drop(folder)
    except OSError as error:
        raise reading_failed(error, "the order", parent) from error
