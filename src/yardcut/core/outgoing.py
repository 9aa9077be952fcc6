"""The one door for every file that a command or a key writes: what is never written over, and who has to agree.

Slices and their parts, lists, reports, pictures, tables of values, what was left out: each is an :class:`Outgoing`,
checked before anything runs and again when it is written. ``tests/test_outgoing.py`` lists every place that writes.
"""

from __future__ import annotations

import errno
import os
import shutil
from collections.abc import Iterable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from yardcut.core.errors import Mend, TargetError, TargetExistsError, TargetProtectedError
from yardcut.core.placing import placed, put_in_place
from yardcut.core.quick_dataclasses import dataclass

THE_SOURCE = "the source, and a source is never written to"
A_SECOND_TABLE = "a second table of the list"
THE_LIST = "the list that is at work"
OF_THIS_RUN = "written by the same run already"
_WITH_DATABASES = ("", "-wal", "-shm", "-journal")


@dataclass(frozen=True, slots=True)
class Protected:
    """Files that nothing is written over, whoever agrees, each with what it is."""

    files: tuple[tuple[Path, str], ...] = ()

    @classmethod
    def of(cls, sources: Iterable[Path] = (), list_path: Path | None = None) -> Protected:
        """Return what is protected while some sources are read and a list is at work.

        The files a database keeps beside it are the database too.
        """
        whole = [source.with_name(source.name + ending) for source in sources for ending in _WITH_DATABASES]
        found = [(path, THE_SOURCE) for path in whole]
        return cls((*found, *([] if list_path is None else [(list_path, THE_LIST)])))

    def more(self, paths: Iterable[Path], what: str) -> Protected:
        """Return it with more files."""
        return Protected((*self.files, *((path, what) for path in paths)))

    def without(self, path: Path) -> Protected:
        """Return it without a file: a list may be written over itself."""
        return Protected(tuple(each for each in self.files if not _is_same(each[0], path)))

    def check(self, path: Path) -> None:
        """Raise ``TargetProtectedError`` where a path leads to one of the files, by a link of any kind too."""
        for file, what in self.files:
            if _is_same(path, file):
                raise TargetProtectedError(f"{path} is {what}", mend=Mend("name another file"))


NOTHING = Protected()


def _is_same(one: Path, other: Path) -> bool:
    try:
        return one.samefile(other)
    except OSError:  # one of them is not there yet
        return os.path.realpath(one) == os.path.realpath(other)


@dataclass(frozen=True, slots=True)
class Outgoing:
    """A file that is to be written: where, what it must not be, and whether what is there may be replaced.

    A new file that is ``private`` can be read by its owner alone.
    """

    path: Path
    protected: Protected = NOTHING
    replace: bool = False
    private: bool = False

    def at(self, path: Path) -> Outgoing:
        """Return another file under the same agreement."""
        return replace(self, path=path)

    def check(self, *, may_exist: bool = False) -> None:
        """Raise ``TargetError`` where the file must not or cannot be written; ``may_exist`` overlooks one."""
        path = self.path
        with writing_to(path):
            if path.is_dir():
                raise TargetError(f"{path} is a directory", mend=Mend("name a file in it"))
            folder = Path(os.path.realpath(path)).parent if path.is_symlink() else path.parent
            if not folder.is_dir():
                raise TargetError(f"there is no directory {folder}", mend=Mend("make it, or name another place"))
            self.protected.check(path)
            if path.is_fifo():
                return
            if path.exists():
                if not path.is_file():
                    raise TargetError(f"{path} is a device or a socket, and no file", mend=Mend("name a file"))
                if not (self.replace or may_exist):
                    raise _exists_already(path)
            if not os.access(folder, os.W_OK):
                raise TargetError(f"{folder} may not be written to by you", mend=Mend("name another place"))

    @contextmanager
    def opened(self) -> Iterator[Path]:
        """Give a path to write to; what was written there is in its place when the block ends well, or nowhere.

        Raises ``TargetError``; what the system says of the file is one too.
        """
        self.check()
        with writing_to(self.path), placed(self.path, replace=self.replace, private=self.private) as beside:
            yield beside

    def take(self, beside: Path) -> None:
        """Put a file that was written on the same disk in its place. Raises ``TargetError``."""
        self.check()
        with writing_to(self.path):
            try:
                put_in_place(beside, self.path, replace=self.replace)
            except OSError as error:
                if error.errno != errno.EXDEV:
                    raise
                with placed(self.path, replace=self.replace) as other:  # a link leads to another disk
                    shutil.copyfile(beside, other)

    def write(self, content: bytes) -> None:
        """Write a whole file. Raises ``TargetError``."""
        with self.opened() as beside:
            beside.write_bytes(content)


def check_apart(outputs: Sequence[tuple[Path, str]]) -> None:
    """Raise ``TargetError`` where two of some outputs, each with what it is, are one file."""
    known: dict[str, str] = {}
    for path, what in outputs:
        place = os.path.realpath(path)
        if place in known:
            raise TargetError(
                f"{path} would be {known[place]} and {what}", mend=Mend("name another file for one of them")
            )
        known[place] = what


@contextmanager
def writing_to(path: Path) -> Iterator[None]:
    """Turn what the system says of a file that is being written into ``TargetError``."""
    try:
        yield
    except FileExistsError:
        raise _exists_already(path) from None
    except OSError as error:
        raise cannot_write(path, error) from error


def _exists_already(path: Path) -> TargetExistsError:
    """Return the error for a file that is there and is not to be replaced."""
    return TargetExistsError(f"{path} exists", mend=Mend("name another file, or allow it to be replaced"))


def cannot_write(path: Path, error: OSError) -> TargetError:
    """Return what is said of a file that the system does not let be written."""
    if isinstance(error, BrokenPipeError):
        return TargetError(f"{path}: whoever read from the pipe went away")
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return TargetError(f"the disk of {path.parent} is full; nothing was written", mend=Mend("make room there"))
    if error.errno == errno.ENAMETOOLONG:
        return TargetError(f"the name {path.name[:40]}… is too long for the disk", mend=Mend("name it shorter"))
    return TargetError(f"{path} cannot be written: {error.strerror or error}", mend=Mend("name another place"))
