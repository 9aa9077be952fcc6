"""Where stores are kept: the user's cache directory, one folder per file content and form."""

from __future__ import annotations

import contextlib
import errno
import hashlib
import math
import os
import shutil
import time
from collections.abc import Iterator, Sequence
from pathlib import Path

from yardcut.core import litter
from yardcut.core.errors import Mend, SourceError
from yardcut.core.locks import hold
from yardcut.core.private import private_folder
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.settings.settings_in_force import settings
from yardcut.core.sources.growing_files import growing
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store.own_folders import (
    BUILDING,
    GLANCED,
    GLANCED_SECONDS,
    READING,
    SORTING,
    TEXTS,
    own_folder,
    stores_folder,
)

_EDGE_BYTES = 1 << 16


@dataclass(frozen=True, slots=True)
class Fingerprint:
    """What tells one content of a file from another: size, time of change, and a hash of both ends."""

    size_bytes: int
    changed_ns: int
    edges: str

    def __str__(self) -> str:
        return f"{self.size_bytes}-{self.changed_ns}-{self.edges}"


def fingerprint(path: Path) -> Fingerprint:
    """Take a file's fingerprint; one that a pipe still fills has none yet that tells of its content.

    Raises ``SourceError`` when it cannot be read.
    """
    if growing(path) is not None:
        return Fingerprint(0, 0, "")
    try:
        status = path.stat()
        with open(path, "rb") as file:
            edges = hashlib.blake2b(file.read(_EDGE_BYTES), digest_size=8)
            if status.st_size > _EDGE_BYTES:
                file.seek(max(_EDGE_BYTES, status.st_size - _EDGE_BYTES))
                edges.update(file.read(_EDGE_BYTES))
    except OSError as error:
        raise SourceError(f"{path} cannot be read: {error.strerror}") from error
    return Fingerprint(status.st_size, status.st_mtime_ns, edges.hexdigest())


def source_mark(spec: SourceSpec, paths: list[Path]) -> str:
    """Return what tells one content of a source from another. Raises ``SourceError`` for a lone file that is gone."""
    return " ".join([spec.mark(), *_content_marks(paths)] if spec.lines else _content_marks(paths))


def is_content_of(mark: str, paths: list[Path]) -> bool:
    """Tell whether files hold what they held when a source's mark was taken, however it was read then.

    A list that got ``kind`` lines is read in other words, and still from the same files. Raises ``SourceError``.
    """
    marks = _content_marks(paths)
    return mark.split(" ")[-len(marks) :] == marks


def _content_marks(paths: list[Path]) -> list[str]:
    marks = []
    for path in paths:
        try:
            marks.append(str(fingerprint(path)))
        except SourceError:
            if len(paths) == 1:
                raise
            marks.append("unread")
    return marks


def store_folder(paths: Sequence[Path], mark: str) -> Path:
    """Return the folder of the store for one content of some files, read in one way."""
    where = "\n".join(str(path.resolve()) for path in paths)
    key = hashlib.blake2b(f"{where}\n{mark}".encode(), digest_size=12).hexdigest()
    return stores_folder() / key


def reading_failed(error: OSError, label: str, parent: Path) -> SourceError:
    """Return what to say when a source could not be read into its store in the directory ``parent``."""
    if error.errno in (errno.ENOSPC, errno.EDQUOT):
        return SourceError(
            f"the disk of the cache directory {parent} is full",
            mend=Mend("make room there, or name a directory that has some: folder in [cache] of the settings"),
        )
    return SourceError(f"{label} cannot be read: {error.strerror or error}")


def cache_closed(error: OSError, parent: Path) -> SourceError:
    """Return what to say when the directory of the stores cannot be written."""
    return SourceError(
        f"the cache directory {parent} cannot be written: {error.strerror}",
        mend=Mend("name a directory that can: folder in [cache] of the settings"),
    )


def new_folder() -> Path:
    """Make a fresh folder to build a store in, beside where it will go. Raises ``SourceError``."""
    parent = stores_folder()
    try:
        private_folder(parent.parent)
        private_folder(parent)
        return own_folder(parent, BUILDING)
    except OSError as error:
        raise cache_closed(error, parent) from error


_LOOK_SECONDS = 0.05


def glanced_lately(folder: Path) -> bool:
    """Tell whether only the first rows of what goes into a store were wanted within a day; from now on they were."""
    mark = folder.with_name(f"{GLANCED}{folder.name}")
    with contextlib.suppress(OSError):
        if time.time() - mark.stat().st_mtime < GLANCED_SECONDS:
            return True
    with contextlib.suppress(OSError):
        private_folder(mark.parent.parent)
        private_folder(mark.parent)
        mark.touch()
        os.utime(mark)
    return False


@contextlib.contextmanager
def reading_alone(folder: Path, token: CancelToken, progress: Progress) -> Iterator[bool]:
    """Wait while another process reads what goes into a store, and keep others waiting meanwhile.

    Yields whether another was waited for, so that the store may be there now. Raises ``StoppedError``. Where there are
    no locks everybody reads for himself, and the last one to finish gives way.
    """
    path = folder.with_name(f"{READING}{folder.name}")
    waited = False
    lock = None
    with contextlib.suppress(OSError):
        private_folder(path.parent.parent)
        private_folder(path.parent)
        while (lock := hold(path)) is None:
            if not waited:
                progress.begin("waiting for another Yard Cut that reads it", 1)
            waited = True
            token.check()
            time.sleep(_LOOK_SECONDS)
    try:
        yield waited
    finally:
        if lock is not None:
            path.unlink(missing_ok=True)
            lock.let_go()


def place_folder(built: Path, target: Path) -> None:
    """Move a finished store into place; one that another process placed meanwhile gives way."""
    litter.end(built)
    if target.exists():
        shutil.rmtree(target, ignore_errors=True)
    try:
        built.rename(target)
    except OSError:
        if not target.exists():
            raise
        shutil.rmtree(built, ignore_errors=True)


def trim_cache(keep: Path) -> list[Path]:
    """Remove the stores longest unused until the rest keep to the limit; never ``keep``. Returns those removed.

    All are looked at now and then; between, what this process adds is added to what there was.
    """
    stores, limit = stores_folder(), settings().value("cache.bytes")
    now, added = time.monotonic(), _size_of(keep)
    when, before = _looked_at.get(stores, (-math.inf, 0))
    if now - when < _LOOKED_AT_SECONDS and before + added <= limit:
        _looked_at[stores] = when, before + added
        return []
    sizes = {
        folder: _size_of(folder)
        for folder in stores.iterdir()
        if folder.is_dir() and not folder.name.startswith((BUILDING, SORTING, TEXTS))
    }
    total = sum(sizes.values())
    removed = []
    for folder in sorted(sizes, key=lambda folder: folder.stat().st_mtime):
        if total <= limit:
            break
        if folder != keep:
            shutil.rmtree(folder, ignore_errors=True)
            total -= sizes[folder]
            removed.append(folder)
    _looked_at[stores] = now, total
    return removed


_LOOKED_AT_SECONDS = 60.0
_looked_at: dict[Path, tuple[float, int]] = {}
"""When all stores in a folder were looked at, and the bytes they took then with those this process added since."""


def _size_of(folder: Path) -> int:
    """Return the bytes of a store; of one that somebody is just removing, what is there still."""
    size_bytes = 0
    with contextlib.suppress(OSError):
        for file in folder.iterdir():
            size_bytes += file.stat().st_size
    return size_bytes
