"""Saving a slice: checked beforehand, written beside the target, moved into place, read back and counted."""

from __future__ import annotations

import contextlib
import os
import re
from collections.abc import Sequence
from contextlib import ExitStack
from dataclasses import replace
from pathlib import Path

from yardcut.core.errors import Mend, TargetError, TargetExistsError
from yardcut.core.expressions.frame import Frame
from yardcut.core.formats import function
from yardcut.core.language.meaning.bound import BoundValue
from yardcut.core.outgoing import Outgoing, writing_to
from yardcut.core.placing import named_with_link
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.table.rowset import ordered
from yardcut.core.writers.formats.delimited import OwnTexts, write_stream
from yardcut.core.writers.parting import PartOfSlice, filled, parts_by_rows, parts_by_values
from yardcut.core.writers.plans import Plan


@dataclass(frozen=True, slots=True)
class Written:
    """What was written: where, how many rows, and the size of the file they were read back from.

    What goes into a pipe is gone, and has no size. ``files`` are those a slice was parted into; ``also`` is said
    besides; ``where`` names what is no file here.
    """

    path: Path
    rows: int
    size_bytes: int | None
    files: tuple[Path, ...] = ()
    also: tuple[str, ...] = ()
    where: str = ""

    @property
    def name(self) -> str:
        """What it is called."""
        return self.where or str(self.path)

    def sentence(self) -> str:
        """Say it."""
        rows = "1 row" if self.rows == 1 else f"{self.rows:,} rows"
        if self.where:
            counted = (
                "counted there" if not self.size_bytes else f"read back before {self.size_bytes:,} bytes were sent"
            )
            return "; ".join([f"wrote {self.where}: {rows} {counted}", *self.also])
        if self.size_bytes is None:
            return f"wrote {self.path}: {rows} into the pipe"
        size = f"{self.size_bytes:,} bytes"
        if self.files:
            files = "1 file" if len(self.files) == 1 else f"{len(self.files):,} files, {self.files[0].name} first"
            said = f"wrote {files} to {self.path.parent}: {rows} read back, {size}"
        else:
            said = f"wrote {named_with_link(self.path)}: {rows} read back, {size}"
        return "; ".join([said, *self.also])


NUMBER_PLACE = "n"
"""What a path calls a part's number, or the only value its rows share."""


@dataclass(frozen=True, slots=True)
class Parting:
    """How a slice is parted: by the values of ``per``, which are called ``names``, or by ``per_rows`` rows."""

    names: tuple[str, ...] = (NUMBER_PLACE,)
    per: tuple[BoundValue, ...] = ()
    per_rows: int | None = None


def save_slice(
    piece: Frame, out: Outgoing, plan: Plan, *,
    token: CancelToken, progress: Progress, own: OwnTexts | None = None,
) -> Written:  # fmt: skip
    """Write a slice and read it back. Raises ``TargetError`` or ``StoppedError``; nothing half-written is left.

    A link is followed. A named pipe is written into, and what went there cannot be read back.
    """
    out.check()
    path = out.path
    if path.is_fifo():
        with writing_to(path):
            return _into_pipe(piece, path, plan, token, progress, own)
    with out.opened() as beside:
        write_checked(piece, beside, path, plan, token, progress, own)
    return Written(path, piece.rows.count, path.stat().st_size)


def save_parted(
    piece: Frame, out: Outgoing, plan: Plan, parting: Parting, *,
    token: CancelToken, progress: Progress, own: OwnTexts | None = None,
) -> Written:  # fmt: skip
    """Write a slice as several files, all put in their places when all are written. Raises as :func:`save_slice`."""
    parts = parts_and_paths(piece, out, parting, token, progress)
    with ExitStack() as stack:
        for part, each in parts:
            beside = stack.enter_context(out.at(each).opened())
            rows = ordered(part.ids(), piece.rows.table_rows)
            write_checked(piece.with_rows(rows), beside, each, plan, token, progress, own)
    return written_parts(out.path, parts)


def parts_and_paths(
    piece: Frame, out: Outgoing, parting: Parting, token: CancelToken, progress: Progress
) -> list[tuple[PartOfSlice, Path]]:
    """Return the parts of a slice with their files, which are checked. Raises as :func:`save_slice`."""
    if parting.per_rows is not None:
        parts = parts_by_rows(piece, parting.per_rows)
    else:
        parts = parts_by_values(piece, parting.per, token, progress)
    path = out.path
    places = (NUMBER_PLACE,) if len(parting.names) == 1 and f"{{{NUMBER_PLACE}}}" in str(path) else parting.names
    paths = [filled(path, places, part.names) for part in parts]
    if len(set(paths)) < len(paths):
        wanted = "/".join(f"{{{name}}}" for name in parting.names)
        raise TargetError(f"{path} gives several parts one name", mend=Mend(f"write {wanted} into the path"))
    for each in paths:
        out.at(each).check()
    check_none_is_left(path, parting, paths)
    return list(zip(parts, paths, strict=True))


_ANY_NUMBER = "0123456789"
"""Stands for a part's number where any is looked for: no other number begins with 0 and is so long."""


def check_none_is_left(path: Path, parting: Parting, paths: Sequence[Path]) -> None:
    """Raise ``TargetError`` where a part of an earlier slice would stand among those that go to ``paths``.

    Of two months in one folder nobody could tell which files are of which.
    """
    new = {each.name for each in paths}
    left = [each for each in numbered_files(path, parting) if each.name not in new]
    if left:
        raise TargetError(
            f"{_and_more(left)} would stand among the files of this slice",
            mend=Mend("take away what an earlier slice left, or name another place"),
        )


def check_none_is_there(path: Path, parting: Parting) -> None:
    """Raise ``TargetExistsError`` where files of numbered parts are there, which nobody may replace."""
    there = numbered_files(path, parting)
    if there:
        raise TargetExistsError(
            f"{_and_more(there)} exist{'s' * (len(there) == 1)}",
            mend=Mend("name another place, or allow them to be replaced"),
        )


def numbered_files(path: Path, parting: Parting) -> list[Path]:
    """Return the files that are called as parts of so many rows are; none where a slice is parted otherwise."""
    if parting.per_rows is None:
        return []
    named = filled(path, (NUMBER_PLACE,), [_ANY_NUMBER])
    form = re.compile(re.escape(named.name).replace(_ANY_NUMBER, r"\d+"))
    with contextlib.suppress(OSError):
        return sorted(named.with_name(each.name) for each in os.scandir(named.parent) if form.fullmatch(each.name))
    return []


def _and_more(paths: Sequence[Path]) -> str:
    return f"{paths[0]}, and {len(paths) - 1:,} more," if len(paths) > 1 else str(paths[0])


def written_parts(path: Path, parts: Sequence[tuple[PartOfSlice, Path]]) -> Written:
    """Return what is said of parts that are in their places; ``path`` is what their names are made of."""
    paths = tuple(each for _, each in parts)
    size = sum(each.stat().st_size for each in paths)
    return Written(paths[0] if paths else path, sum(part.rows for part, _ in parts), size, paths)


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
    from yardcut.core.writers.formats.fifo import open_fifo

    with open_fifo(path, token) as pipe:
        write_stream(piece, pipe, plan, token, progress, own)
    return Written(path, piece.rows.count, None)


def write_checked(
    piece: Frame, beside: Path, path: Path, plan: Plan, token: CancelToken, progress: Progress, own: OwnTexts | None
) -> None:
    """Write a slice and count the rows that are read back. Raises ``TargetError`` where they are others."""
    form = plan.format
    more = (own,) if form.delimiter else ()
    function(form.write)(piece, beside, plan, token, progress, *more)
    rows = function(form.count)(beside, plan)
    if rows != piece.rows.count:
        raise TargetError(f"{path}: {piece.rows.count:,} rows were written and {rows:,} read back")
