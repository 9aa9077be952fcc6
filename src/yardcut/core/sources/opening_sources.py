"""Opening a source: from the cache when its content was read before, else by reading it."""

from __future__ import annotations

import atexit
import contextlib
import logging
import shutil
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core import litter
from yardcut.core.errors import Mend, SourceError
from yardcut.core.formats import function
from yardcut.core.progress import CancelToken, EnoughRows, Progress
from yardcut.core.sources.applying import check_lines
from yardcut.core.sources.elsewhere.standing import fetch_files, is_on_a_server, told_as_called
from yardcut.core.sources.form.delimited_form import read_head
from yardcut.core.sources.growing_files import growing, settle
from yardcut.core.sources.piped import came_through_a_pipe
from yardcut.core.sources.some_columns import NeverRead, Wanted
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.cache import (
    glanced_lately,
    new_folder,
    place_folder,
    reading_alone,
    reading_failed,
    source_mark,
    store_folder,
    trim_cache,
)
from yardcut.core.sources.store.own_folders import sweep
from yardcut.core.sources.store.rows_so_far import RowsSoFar
from yardcut.core.table.stored_table import Table, read_table, write_manifest

if TYPE_CHECKING:
    from yardcut.core.sources.formats.arrow_batches import BatchFile
    from yardcut.core.sources.formats.source_file import SourceFile

LARGE_BYTES = 1 << 26

_log = logging.getLogger(__name__)


def open_table(
    source: SourceSpec | Path, token: CancelToken | None = None, progress: Progress | None = None, *,
    keep_part: bool = False, first_rows: int | None = None, wanted: Wanted | None = None,
    however_small: bool = False, so_far: RowsSoFar | None = None,
) -> Table:  # fmt: skip
    """Open a source as one table, reading it into the cache when it is not there yet.

    With ``keep_part`` a reading that is stopped gives what was read by then, not found again in the cache. Where only
    the ``first_rows`` are wanted, reading stops when they are there, the first time on a day; where ``wanted`` names
    some columns of a large source, or of one ``however_small``, these alone are read then, and whoever looks at another
    meets ``NotReadError``.
    ``so_far`` is given the rows that are there while reading goes on. Raises ``SourceError`` when it cannot be read,
    changes meanwhile, or the disk is full, and ``StoppedError``. Of files that a pattern met the table's notes name
    those that cannot be read.
    """
    spec = source if isinstance(source, SourceSpec) else SourceSpec.of(source)
    with told_as_called(spec):
        return _opened(
            spec, token or CancelToken(), progress or Progress(), keep_part=keep_part, first_rows=first_rows,
            wanted=wanted, however_small=however_small, so_far=so_far,
        )  # fmt: skip


def open_columns(spec: SourceSpec, names: frozenset[str], token: CancelToken, progress: Progress) -> Table:
    """Read some columns of files, by name, for all rows, while somebody else may be reading all of them.

    The table has all columns; whoever looks at another meets ``NotReadError``. Raises ``SourceError``,
    ``StoppedError``.
    """
    with told_as_called(spec):
        paths = spec.paths()
        mark, folder = _place_for(spec, paths)
        table = _read_into(
            spec, paths, mark, folder, token, progress, keep_part=False, wanted=lambda _: names, so_far=None
        )
        assert table is not None
        return table


def _opened(
    spec: SourceSpec, token: CancelToken, progress: Progress, *, keep_part: bool, first_rows: int | None,
    wanted: Wanted | None, however_small: bool, so_far: RowsSoFar | None,
) -> Table:  # fmt: skip
    paths = _checked_paths(spec, token, progress)
    if so_far is not None and (come := _read_coming(spec, paths, token, progress, so_far, keep_part=keep_part)):
        return come
    _ask_servers(spec, paths, token, progress)
    wanted = wanted if however_small else _let_come(paths, first_rows, wanted)
    mark, folder = _place_for(spec, paths)
    says_its_rows = _says_its_rows(paths)
    if (is_on_a_server(spec) or not says_its_rows) and (known := _known(folder)) is not None:
        return known
    if says_its_rows:
        return _open_on_demand(spec, paths, mark, folder, token)
    if (first_rows is not None or wanted is not None) and not _comes_once(paths) and glanced_lately(folder):
        first_rows = wanted = None
    if first_rows is not None:
        token, keep_part = EnoughRows(token, progress, first_rows), True
    with reading_alone(folder, token, progress) as somebody_read_it:
        if somebody_read_it and (known := read_table(folder)) is not None:
            return known
        read = _read_into(spec, paths, mark, folder, token, progress, keep_part=keep_part, wanted=wanted, so_far=so_far)
        return read or _stored(spec, folder)


def _stored(spec: SourceSpec, folder: Path) -> Table:
    """Return the table that was put into the cache a moment ago. Raises ``SourceError``."""
    table = read_table(folder)
    if table is None:
        raise SourceError(f"the store of {spec.label} in the cache is not whole", mend=Mend("open it again"))
    _log.info("read %s: %d rows, %d columns", spec.label, table.rows, len(table.columns))
    trim_cache(keep=folder)
    return table


def _let_come(paths: list[Path], first_rows: int | None, wanted: Wanted | None) -> Wanted | None:
    """Wait for files that a pipe still fills, unless a part of them is enough; return which columns these are then."""
    if first_rows is not None or _is_worth_it(paths, wanted):
        return wanted
    settle(paths)
    return None


def _place_for(spec: SourceSpec, paths: list[Path]) -> tuple[str, Path]:
    """Return what tells the content of a source from another, and the folder of its store."""
    mark = source_mark(spec, paths)
    folder = store_folder(paths, mark)
    if any(map(came_through_a_pipe, paths)):
        _gone_at_the_end(folder)
    return mark, folder


def _gone_at_the_end(folder: Path) -> None:
    """Let no other process find what was read: what it is of is of no use to any."""
    atexit.register(shutil.rmtree, folder, ignore_errors=True)


def _known(folder: Path) -> Table | None:
    """Return the table that the cache has."""
    known = read_table(folder)
    if known is not None:
        folder.touch()
        sweep()
    return known


def _ask_servers(spec: SourceSpec, paths: list[Path], token: CancelToken, progress: Progress) -> None:
    """Fetch tables of servers. Raises ``SourceError``, ``StoppedError``."""
    if is_on_a_server(spec):
        from yardcut.core.sources.formats.format_of_files import format_of_file

        for path in paths:
            named = format_of_file(path).fetch
            if named:
                function(named)(path, spec, token, progress)


def _checked_paths(spec: SourceSpec, token: CancelToken, progress: Progress) -> list[Path]:
    """Return the files of a source, those it names looked at, and its sub-lines; what stands elsewhere is fetched.

    Raises ``SourceError``, ``StoppedError``.
    """
    fetch_files(spec, token, progress)
    paths = spec.paths()
    for path in paths if len(paths) == 1 else spec.named(paths):
        read_head(path, 4)
    check_lines(spec, paths)
    return paths


def _read_coming(
    spec: SourceSpec, paths: list[Path], token: CancelToken, progress: Progress, so_far: RowsSoFar, *, keep_part: bool
) -> Table | None:
    """Read the table that is wanted of a server while its rows come; nothing where it is fetched before it is read.

    Raises ``SourceError``, ``StoppedError``.
    """
    if len(paths) > 1 or not is_on_a_server(spec):
        return None
    from yardcut.core.sources.elsewhere.coming_tables import ComesOtherwiseError
    from yardcut.core.sources.formats.format_of_files import format_of_file

    mark, folder = _place_for(spec, paths)
    come = format_of_file(paths[0]).come
    if not come:
        return None
    with contextlib.suppress(ComesOtherwiseError), function(come)(paths[0], spec, token, progress) as table:
        if table is None:
            return None
        _gone_at_the_end(folder)
        part = _read_into(
            spec, paths, mark, folder, token, progress, [table], keep_part=keep_part, wanted=None, so_far=so_far
        )
        return part or _stored(spec, folder)
    return None


def _read_into(
    spec: SourceSpec, paths: list[Path], mark: str, folder: Path, token: CancelToken, progress: Progress,
    coming: Sequence[BatchFile] = (), *, keep_part: bool, wanted: Wanted | None, so_far: RowsSoFar | None,
) -> Table | None:  # fmt: skip
    """Read the files into a folder of the cache; or return the part read, where it is no more than a part.

    In the place of files may stand what is ``coming`` of a server.
    """
    from yardcut.core.sources.formats.format_of_files import open_files
    from yardcut.core.sources.store.reading_files import StoreReader, changed_while_read

    building = new_folder()
    try:
        files: Sequence[SourceFile] = coming
        left_out: list[str] = []
        if not coming:
            files, left_out = open_files(paths, spec, token)
        problems = [f'no file of the source is called "{name}"' for name in spec.unmatched(paths)]
        problems += [note for each in coming for note in each.notes]
        reader = StoreReader(files, spec, building, token, progress)
        only = None if wanted is None else wanted(reader.names)
        info = reader.read(mark, problems, left_out, keep_part=keep_part, only=only, so_far=so_far)
        if not reader.is_part and source_mark(spec, paths) != mark:
            raise changed_while_read(spec.label)
        if reader.is_part or only is not None:
            write_manifest(info, building)
            part = read_table(building)
            assert part is not None
            atexit.register(litter.drop, building)
            return part if only is None else Table(part.info, building, NeverRead())
        write_manifest(info, building)
        place_folder(building, folder)
    except OSError as error:
        litter.drop(building)
        raise reading_failed(error, spec.label, folder.parent) from error
    except BaseException:
        litter.drop(building)
        raise
    return None


def _is_worth_it(paths: list[Path], wanted: Wanted | None) -> bool:
    """Tell whether a source is so large that reading some of its columns is worth reading it again another time."""
    if wanted is None:
        return False
    filled = [growing(path) for path in paths]
    with contextlib.suppress(OSError):
        sizes = [
            path.stat().st_size if pipe is None else pipe.wait_for(LARGE_BYTES)
            for path, pipe in zip(paths, filled, strict=True)
        ]
        return sum(sizes) >= LARGE_BYTES
    return False


def _comes_once(paths: list[Path]) -> bool:
    """Tell whether a file came through a pipe, or still comes: nobody asks for its content again."""
    return any(growing(path) is not None or came_through_a_pipe(path) for path in paths)


def _says_its_rows(paths: list[Path]) -> bool:
    """Return whether every file that can be read tells its rows and kinds before its values."""
    from yardcut.core.sources.formats.format_of_files import format_of_file

    formats = []
    for path in paths:
        try:
            formats.append(format_of_file(path))
        except SourceError:
            continue
    return bool(formats) and all(form.says_its_rows for form in formats)


def _open_on_demand(spec: SourceSpec, paths: list[Path], mark: str, folder: Path, token: CancelToken) -> Table:
    from yardcut.core.sources.formats.arrow_batches import BatchFile
    from yardcut.core.sources.formats.format_of_files import open_files
    from yardcut.core.sources.on_demand import ColumnsOnDemand

    files, left_out = open_files(paths, spec, token)
    if is_on_a_server(spec):  # it is of one time of the server
        _gone_at_the_end(folder)
    problems = [f'no file of the source is called "{name}"' for name in spec.unmatched(paths)]
    of_batches = [file for file in files if isinstance(file, BatchFile)]
    problems += dict.fromkeys(note for file in of_batches for note in file.notes)
    table = ColumnsOnDemand(of_batches, problems, left_out, spec, paths, mark, folder).table()
    # what does not fit a declared kind is known, and said, before anything is cut
    table.load(spec.kinds([column.name for column in table.columns]), token)
    return table
