"""Saving a slice: checked beforehand, written beside the target, moved into place, read back and counted."""

from __future__ import annotations

import errno
import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from yardcut.core.errors import Mend, TargetError, TargetExistsError, TargetIsSourceError
from yardcut.core.expressions.frame import Frame
from yardcut.core.placing import named_with_link, placed
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.writers.formats import BY_ENDING, FORMATS
from yardcut.core.writers.formats import named as all_formats


@dataclass(frozen=True, slots=True)
class Written:
    """What was written: where, how many rows, and the size of the file they were read back from.

    What goes into a pipe is gone, and has no size.
    """

    path: Path
    rows: int
    size_bytes: int | None

    def sentence(self) -> str:
        """Say it."""
        rows = "1 row" if self.rows == 1 else f"{self.rows:,} rows"
        if self.size_bytes is None:
            return f"wrote {self.path}: {rows} into the pipe"
        return f"wrote {named_with_link(self.path)}: {rows} read back, {self.size_bytes:,} bytes"


def format_of(path: Path, named: str | None) -> str:
    """Return the format of a target, by name or by the path's ending. Raises ``TargetError``."""
    found = named or BY_ENDING.get(path.suffix.lower()) or path.suffix.lower().lstrip(".")
    if found in FORMATS:
        return found
    what = f"{path.name} does not say in which format to write" if not named else f"there is no format {named}"
    raise TargetError(what, mend=Mend(f"end the path in .csv or .parquet, or add as and one of {all_formats()}"))


def check_target(path: Path, sources: Sequence[Path], *, replace: bool) -> None:
    """Raise ``TargetError`` when a slice must not or cannot be written to a path."""
    if path.is_dir():
        raise TargetError(f"{path} is a directory", mend=Mend("name a file in it"))
    folder = path.resolve().parent if path.is_symlink() else path.parent
    if not folder.is_dir():
        raise TargetError(f"there is no directory {folder}", mend=Mend("make it, or name another place"))
    if path.is_fifo():
        return
    if path.exists():
        if not path.is_file():
            raise TargetError(f"{path} is a device or a socket, and no file", mend=Mend("name a file"))
        if any(source.exists() and path.samefile(source) for source in sources):
            raise TargetIsSourceError(
                f"{path} is the source, and a source is never written to", mend=Mend("name another file")
            )
        if not replace:
            raise _exists(path)
    if not os.access(folder, os.W_OK):
        raise TargetError(f"{folder} may not be written to by you", mend=Mend("name another place"))


def save_slice(
    piece: Frame,
    path: Path,
    form: str,
    *,
    sources: Sequence[Path],
    replace: bool,
    token: CancelToken,
    progress: Progress,
) -> Written:
    """Write a slice and read it back. Raises ``TargetError`` or ``StoppedError``; nothing half-written is left.

    A link is followed. A named pipe is written into, and what went there cannot be read back.
    """
    check_target(path, sources, replace=replace)
    try:
        if path.is_fifo():
            return _into_pipe(piece, path, form, token, progress)
        with placed(path, replace=replace) as beside:
            rows = _write(piece, beside, form, token, progress)
            if rows != piece.rows.count:
                raise TargetError(f"{path}: {piece.rows.count:,} rows were written and {rows:,} read back")
    except FileExistsError:
        raise _exists(path) from None
    except OSError as error:
        raise _cannot(path, error) from error
    return Written(path, rows, path.stat().st_size)


def _into_pipe(piece: Frame, path: Path, form: str, token: CancelToken, progress: Progress) -> Written:
    delimiter = FORMATS[form].delimiter
    if not delimiter:
        raise TargetError(
            f"{path} is a pipe, and {form} is written from more than one end", mend=Mend("write csv or tsv")
        )
    from yardcut.core.writers.delimited import write_stream
    from yardcut.core.writers.fifo import open_fifo

    with open_fifo(path, token) as pipe:
        write_stream(piece, pipe, delimiter, token, progress)
    return Written(path, piece.rows.count, None)


def _write(piece: Frame, beside: Path, form: str, token: CancelToken, progress: Progress) -> int:
    """Write a slice and return how many rows are read back."""
    FORMATS[form].write(piece, beside, token, progress)
    return FORMATS[form].count(beside)


def _exists(path: Path) -> TargetExistsError:
    return TargetExistsError(f"{path} exists", mend=Mend("name another file, or allow it to be replaced"))


def _cannot(path: Path, error: OSError) -> TargetError:
    if isinstance(error, BrokenPipeError):
        return TargetError(f"{path}: whoever read from the pipe went away")
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return TargetError(f"the disk of {path.parent} is full; nothing was written", mend=Mend("make room there"))
    return TargetError(f"{path} cannot be written: {error.strerror or error}", mend=Mend("name another place"))
