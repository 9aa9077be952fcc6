"""Opening a source: from the cache when its content was read before, else by reading it."""

from __future__ import annotations

import atexit
import errno
import logging
import shutil
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.cache import fingerprint, new_folder, place_folder, store_folder, trim_cache
from yardcut.core.sources.form import read_head
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.table import Table, read_table, write_manifest

_log = logging.getLogger(__name__)


def source_mark(spec: SourceSpec, paths: list[Path]) -> str:
    """Return what tells one content of a source from another. Raises ``SourceError`` for a lone file that is gone."""
    marks = [spec.mark()] if spec.lines else []
    for path in paths:
        try:
            marks.append(str(fingerprint(path)))
        except SourceError:
            if len(paths) == 1:
                raise
            marks.append("unread")
    return " ".join(marks)


def open_table(
    source: SourceSpec | Path, token: CancelToken | None = None, progress: Progress | None = None, *,
    keep_part: bool = False,
) -> Table:  # fmt: skip
    """Open a source as one table, reading it into the cache when it is not there yet.

    With ``keep_part`` a reading that is stopped gives what was read by then; that is not found again in the cache.
    Raises ``SourceError`` when it cannot be read, changes meanwhile, or the disk is full, and ``StoppedError``. Of
    several files those that can be read are; the table's notes name the others.
    """
    spec = source if isinstance(source, SourceSpec) else SourceSpec.of(source)
    token = token or CancelToken()
    progress = progress or Progress()
    paths = spec.paths()
    if len(paths) == 1:
        read_head(paths[0], 4)
    mark = source_mark(spec, paths)
    folder = store_folder(paths, mark)
    known = read_table(folder)
    if known is not None:
        folder.touch()
        return known
    from yardcut.core.sources.formats.choosing import open_files
    from yardcut.core.sources.reading import StoreReader, changed_while_read

    building = new_folder()
    try:
        files, problems = open_files(paths, spec)
        problems += [f'no file of the source is called "{name}"' for name in spec.unmatched(paths)]
        reader = StoreReader(files, spec, building, token, progress)
        info = reader.read(mark, problems, keep_part=keep_part)
        if reader.is_part:
            write_manifest(info, building)
            part = read_table(building)
            assert part is not None
            atexit.register(shutil.rmtree, building, ignore_errors=True)
            return part
        if source_mark(spec, paths) != mark:
            raise changed_while_read(spec.label)
        write_manifest(info, building)
        place_folder(building, folder)
    except OSError as error:
        shutil.rmtree(building, ignore_errors=True)
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            raise SourceError(
                f"the disk of the cache directory {folder.parent} is full",
                mend=Mend("make room there, or set XDG_CACHE_HOME to a directory that has some"),
            ) from error
        raise SourceError(f"{spec.label} cannot be read: {error.strerror or error}") from error
    except BaseException:
        shutil.rmtree(building, ignore_errors=True)
        raise
    table = read_table(folder)
    if table is None:
        raise SourceError(f"the store of {spec.label} in the cache is not whole", mend=Mend("open it again"))
    _log.info("read %s: %d rows, %d columns", spec.label, table.rows, len(table.columns))
    trim_cache(keep=folder)
    return table
