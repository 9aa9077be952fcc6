"""Opening a source: from the cache when its content was read before, else by reading it."""

from __future__ import annotations

import errno
import logging
import shutil
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.cache import fingerprint, new_folder, place_folder, store_folder
from yardcut.core.sources.form import read_head
from yardcut.core.table.table import Table, read_table, write_manifest

_log = logging.getLogger(__name__)


def cached_table(path: Path) -> Table | None:
    """Return the table of a file that was read before and has not changed, or ``None``."""
    mark = fingerprint(path)
    table = read_table(store_folder(path, mark))
    return table if table is not None and table.fingerprint == str(mark) else None


def open_table(path: Path, token: CancelToken | None = None, progress: Progress | None = None) -> Table:
    """Open a delimited or Parquet file as a table, reading it into the cache when it is not there yet.

    Raises ``SourceError`` when it cannot be read, changes meanwhile, or the disk is full, and ``StoppedError``.
    """
    token = token or CancelToken()
    progress = progress or Progress()
    head = read_head(path, 4)
    mark = fingerprint(path)
    folder = store_folder(path, mark)
    known = read_table(folder)
    if known is not None:
        return known
    from yardcut.core.sources.delimited import DelimitedReader, changed_while_read
    from yardcut.core.sources.parquet import MAGIC, read_parquet

    building = new_folder()
    try:
        if head == MAGIC:
            info = read_parquet(path, building, str(mark), token, progress)
        else:
            info = DelimitedReader(path, building, token, progress).read(str(mark))
        if fingerprint(path) != mark:
            raise changed_while_read(path)
        write_manifest(info, building)
        place_folder(building, folder)
    except OSError as error:
        shutil.rmtree(building, ignore_errors=True)
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise SourceError(
                f"the disk of the cache directory {folder.parent} is full",
                mend=Mend("make room there, or set XDG_CACHE_HOME to a directory that has some"),
            ) from error
        raise SourceError(f"{path} cannot be read: {error.strerror or error}") from error
    except BaseException:
        shutil.rmtree(building, ignore_errors=True)
        raise
    table = read_table(folder)
    if table is None:
        raise SourceError(f"the store of {path} in the cache is not whole", mend=Mend("open it again"))
    _log.info("read %s: %d rows, %d columns", path, table.rows, len(table.columns))
    return table
