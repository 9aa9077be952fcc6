"""Files written beside their target first and then put in its place, with the mode the target has or would get."""

from __future__ import annotations

import contextlib
import os
import re
import secrets
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from yardcut.core import litter
from yardcut.core.private import create_private

PARTIAL_SUFFIX, PARTS_SUFFIX = ".partial", ".parts"
_PARTIAL, _PARTS = (
    re.compile(rf"\..+\.[0-9a-f]{{8}}{re.escape(suffix)}", re.DOTALL) for suffix in (PARTIAL_SUFFIX, PARTS_SUFFIX)
)


@contextmanager
def placed(path: Path, *, replace: bool, private: bool = False) -> Iterator[Path]:
    """Give a path to write to; what was written there is in its place when the block ends well, or nowhere.

    Until then nobody but its owner can read it, and a new file that is ``private`` stays so. A link stays: what it
    leads to is written. A file that is replaced keeps its mode, and its owner where that is possible. Raises
    ``OSError``, ``FileExistsError`` among it when something is there that is not to be replaced, perhaps since a
    moment ago.
    """
    target = Path(os.path.realpath(path))
    litter.sweep_files(_partial_files(target.parent))
    beside = create_private(lambda: _name_beside(target))
    while not litter.begin_file(beside):
        beside = create_private(lambda: _name_beside(target))
    try:
        yield beside
        with open(beside, "rb") as file:
            os.fsync(file.fileno())
        _place(beside, target, replace=replace, private=private)
    finally:
        litter.drop(beside)


@contextmanager
def folder_beside(path: Path) -> Iterator[Path]:
    """Give a folder of one's own beside a target as long as this lasts. Raises ``OSError``."""
    target = Path(os.path.realpath(path))
    litter.sweep_folders(_partial_files(target.parent, _PARTS))
    folder = _name_beside(target, PARTS_SUFFIX)
    folder.mkdir(0o700)
    try:
        litter.begin_folder(folder)
        yield folder
    finally:
        litter.drop(folder)


def put_in_place(beside: Path, path: Path, *, replace: bool) -> None:
    """Put a file that was written on the same disk in its place, as :func:`placed` does. Raises ``OSError``."""
    with open(beside, "rb") as file:
        os.fsync(file.fileno())
    _place(beside, Path(os.path.realpath(path)), replace=replace, private=False)
    beside.unlink(missing_ok=True)


def named_with_link(path: Path) -> str:
    """Return a path's name, and what it leads to where it is a link."""
    return f"{path}, a link to {path.resolve()}" if path.is_symlink() else str(path)


def _partial_files(folder: Path, of_form: re.Pattern[str] = _PARTIAL) -> Iterator[Path]:
    with contextlib.suppress(OSError):
        yield from (Path(entry.path) for entry in os.scandir(folder) if of_form.fullmatch(entry.name))


def _name_beside(target: Path, suffix: str = PARTIAL_SUFFIX) -> Path:
    return target.with_name(f".{target.name[:100]}.{secrets.token_hex(4)}{suffix}")


def _place(beside: Path, target: Path, *, replace: bool, private: bool) -> None:
    there = None
    if replace:
        with contextlib.suppress(FileNotFoundError):
            there = target.stat()
    if there is None and not private:  # it is made so
        beside.chmod(_mode_of_new_files(target))
    elif there is not None:
        if (there.st_uid, there.st_gid) != (os.geteuid(), os.getegid()):
            # only the superuser can, and a group only who is in it
            with contextlib.suppress(PermissionError):
                os.chown(beside, there.st_uid, there.st_gid)
        beside.chmod(stat.S_IMODE(there.st_mode))
    if replace:
        os.replace(beside, target)
        return
    try:
        # a link is never placed over a file that came up meanwhile
        os.link(beside, target)
    except FileExistsError:
        raise
    except OSError:
        # some file systems have no links
        os.replace(beside, target)


def _mode_of_new_files(target: Path) -> int:
    """Return the mode a new file gets in the target's directory, as the system tells when one is made.

    The umask cannot be asked for without setting it, which would be everybody's; and a directory may have a rule of its
    own.
    """
    asked = _name_beside(target)
    made = os.open(asked, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, 0o666)
    try:
        return stat.S_IMODE(os.fstat(made).st_mode)
    finally:
        os.close(made)
        asked.unlink(missing_ok=True)
