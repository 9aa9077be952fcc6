"""Saving a slice: checked beforehand, written beside the target, moved into place, read back and counted."""

from __future__ import annotations

import errno
import os
from collections.abc import Iterator, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass, replace
from pathlib import Path

from yardcut.core.errors import Mend, TargetError, TargetExistsError, TargetIsSourceError
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.bound import BoundValue
from yardcut.core.placing import named_with_link, placed
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.writers.delimited import OwnTexts, write_stream
from yardcut.core.writers.parting import filled, parts_by_rows, parts_by_value
from yardcut.core.writers.plans import Plan


@dataclass(frozen=True, slots=True)
class Written:
    """What was written: where, how many rows, and the size of the file they were read back from.

    What goes into a pipe is gone, and has no size. ``files`` are those a slice was parted into; ``also`` is said
    besides.
    """

    path: Path
    rows: int
    size_bytes: int | None
    files: tuple[Path, ...] = ()
    also: tuple[str, ...] = ()

    def sentence(self) -> str:
        """Say it."""
        rows = "1 row" if self.rows == 1 else f"{self.rows:,} rows"
        if self.size_bytes is None:
            return f"wrote {self.path}: {rows} into the pipe"
        size = f"{self.size_bytes:,} bytes"
        if self.files:
            files = "1 file" if len(self.files) == 1 else f"{len(self.files):,} files, {self.files[0].name} first"
            said = f"wrote {files} to {self.path.parent}: {rows} read back, {size}"
        else:
            said = f"wrote {named_with_link(self.path)}: {rows} read back, {size}"
        return "; ".join([said, *self.also])


@dataclass(frozen=True, slots=True)
class Parting:
    """How a slice is parted: by the values of ``per``, which is called ``name``, or by ``per_rows`` rows."""

    name: str = "n"
    per: BoundValue | None = None
    per_rows: int | None = None


def check_target(path: Path, sources: Sequence[Path], *, replace: bool) -> None:
    """Raise ``TargetError`` when a slice must not or cannot be written to a path."""
    with writing_to(path):
        _check_target(path, sources, may_replace=replace)


def _check_target(path: Path, sources: Sequence[Path], *, may_replace: bool) -> None:
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
        if not may_replace:
            raise _exists_already(path)
    if not os.access(folder, os.W_OK):
        raise TargetError(f"{folder} may not be written to by you", mend=Mend("name another place"))


def save_slice(
    piece: Frame,
    path: Path,
    plan: Plan,
    *,
    sources: Sequence[Path],
    replace: bool,
    token: CancelToken,
    progress: Progress,
    own: OwnTexts | None = None,
) -> Written:
    """Write a slice and read it back. Raises ``TargetError`` or ``StoppedError``; nothing half-written is left.

    A link is followed. A named pipe is written into, and what went there cannot be read back.
    """
    check_target(path, sources, replace=replace)
    with writing_to(path):
        if path.is_fifo():
            return _into_pipe(piece, path, plan, token, progress, own)
        with placed(path, replace=replace) as beside:
            _write_checked(piece, beside, path, plan, token, progress, own)
    return Written(path, piece.rows.count, path.stat().st_size)


def save_parted(
    piece: Frame,
    path: Path,
    plan: Plan,
    parting: Parting,
    *,
    sources: Sequence[Path],
    replace: bool,
    token: CancelToken,
    progress: Progress,
    own: OwnTexts | None = None,
) -> Written:
    """Write a slice as several files, all put in their places when all are written. Raises as :func:`save_slice`."""
    if parting.per_rows is not None:
        parts = parts_by_rows(piece, parting.per_rows)
    else:
        assert parting.per is not None
        parts = parts_by_value(piece, parting.per, token, progress)
    place = "n" if "{n}" in str(path) else parting.name
    paths = [filled(path, place, part.name) for part in parts]
    if len(set(paths)) < len(paths):
        raise TargetError(f"{path} gives several parts one name", mend=Mend(f"write {{{parting.name}}} into the path"))
    for each in paths:
        check_target(each, sources, replace=replace)
    with ExitStack() as stack:
        for part, each in zip(parts, paths, strict=True):
            stack.enter_context(writing_to(each))
            beside = stack.enter_context(placed(each, replace=replace))
            _write_checked(piece.with_rows(part.take()), beside, each, plan, token, progress, own)
    size = sum(each.stat().st_size for each in paths)
    return Written(paths[0] if paths else path, sum(part.rows for part in parts), size, tuple(paths))


def with_more_said(written: Written, *also: str) -> Written:
    """Return what was written with more to say of it."""
    return replace(written, also=(*written.also, *also))


def _into_pipe(
    piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress, own: OwnTexts | None
) -> Written:
    if not plan.format.delimiter:
        raise TargetError(
            f"{path} is a pipe, and {plan.format.name} is written from more than one end",
            mend=Mend("write csv or tsv"),
        )
    from yardcut.core.writers.fifo import open_fifo

    with open_fifo(path, token) as pipe:
        write_stream(piece, pipe, plan, token, progress, own)
    return Written(path, piece.rows.count, None)


def _write_checked(
    piece: Frame, beside: Path, path: Path, plan: Plan, token: CancelToken, progress: Progress, own: OwnTexts | None
) -> None:
    """Write a slice and count the rows that are read back. Raises ``TargetError`` where they are others."""
    form = plan.format
    more = (own,) if form.delimiter else ()
    form.function(form.write_name)(piece, beside, plan, token, progress, *more)
    rows = form.function(form.count_name)(beside, plan)
    if rows != piece.rows.count:
        raise TargetError(f"{path}: {piece.rows.count:,} rows were written and {rows:,} read back")


@contextmanager
def writing_to(path: Path) -> Iterator[None]:
    """Turn what the system says of a file that is being written into ``TargetError``."""
    try:
        yield
    except FileExistsError:
        raise _exists_already(path) from None
    except OSError as error:
        raise _cannot_write(path, error) from error


def _exists_already(path: Path) -> TargetExistsError:
    """Return the error for a file that is there and is not to be replaced."""
    return TargetExistsError(f"{path} exists", mend=Mend("name another file, or allow it to be replaced"))


def _cannot_write(path: Path, error: OSError) -> TargetError:
    """Return what is said of a file that the system does not let be written."""
    if isinstance(error, BrokenPipeError):
        return TargetError(f"{path}: whoever read from the pipe went away")
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return TargetError(f"the disk of {path.parent} is full; nothing was written", mend=Mend("make room there"))
    if error.errno == errno.ENAMETOOLONG:
        return TargetError(f"the name {path.name[:40]}… is too long for the disk", mend=Mend("name it shorter"))
    return TargetError(f"{path} cannot be written: {error.strerror or error}", mend=Mend("name another place"))
