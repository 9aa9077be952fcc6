"""Saving a slice: checked beforehand, written beside the target, moved into place, read back and counted."""

from __future__ import annotations

import errno
import os
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from yardcut.core.errors import Mend, NotYetError, TargetError, TargetExistsError, TargetIsSourceError
from yardcut.core.expressions.frame import Frame
from yardcut.core.placing import named_with_link, placed
from yardcut.core.progress import CancelToken, Progress

FORMATS = {".csv": "csv", ".tsv": "tsv", ".tab": "tsv", ".parquet": "parquet"}
_LATER = ("arrow", "jsonl", "json", "xlsx", "sqlite")


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
    """Return the format of a target, by name or by the path's ending. Raises ``ListError`` or ``NotYetError``."""
    found = named or FORMATS.get(path.suffix.lower()) or path.suffix.lower().lstrip(".")
    if found in FORMATS.values():
        return found
    if found in _LATER:
        raise NotYetError(f"this version does not write {found} yet", mend=Mend("write csv, tsv or parquet"))
    what = f"{path.name} does not say in which format to write" if not named else f"there is no format {named}"
    raise TargetError(what, mend=Mend("end the path in .csv, .tsv or .parquet, or add: as csv"))


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
    if form == "parquet":
        raise TargetError(f"{path} is a pipe, and Parquet is written from both ends", mend=Mend("write csv or tsv"))
    from yardcut.core.writers.delimited import write_stream
    from yardcut.core.writers.fifo import open_fifo

    with open_fifo(path, token) as pipe:
        write_stream(piece, pipe, "\t" if form == "tsv" else ",", token, progress)
    return Written(path, piece.rows.count, None)


def _write(piece: Frame, beside: Path, form: str, token: CancelToken, progress: Progress) -> int:
    """Write a slice and return how many rows are read back."""
    if form == "parquet":
        from yardcut.core.writers import parquet

        parquet.write_parquet(piece, beside, token, progress)
        return parquet.count_rows(beside)
    from yardcut.core.writers import delimited

    delimiter = "\t" if form == "tsv" else ","
    delimited.write_delimited(piece, beside, delimiter, token, progress)
    return delimited.count_rows(beside, delimiter)


def _exists(path: Path) -> TargetExistsError:
    return TargetExistsError(f"{path} exists", mend=Mend("name another file, or allow it to be replaced"))


def _cannot(path: Path, error: OSError) -> TargetError:
    if isinstance(error, BrokenPipeError):
        return TargetError(f"{path}: whoever read from the pipe went away")
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return TargetError(f"the disk of {path.parent} is full; nothing was written", mend=Mend("make room there"))
    return TargetError(f"{path} cannot be written: {error.strerror or error}", mend=Mend("name another place"))
