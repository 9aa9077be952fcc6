"""Where stores are kept: the user's cache directory, one folder per file content and form."""

from __future__ import annotations

import contextlib
import errno
import hashlib
import os
import shutil
import tempfile
import time
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from yardcut.core import litter
from yardcut.core.errors import Mend, SourceError
from yardcut.core.locks import abandoned, hold
from yardcut.core.private import private_folder
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.settings.folders import cache_folder
from yardcut.core.settings.settings import settings
from yardcut.core.sources.spec import SourceSpec

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
    """Take a file's fingerprint. Raises ``SourceError`` when it cannot be read."""
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


def stores_folder() -> Path:
    """Return the folder that holds all stores."""
    return cache_folder("stores")


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


_GLANCED, _GLANCED_SECONDS = "glanced-", 24 * 3600.0
BUILDING, SORTING, TEXTS, PIPED = "building-", "sorting-", "texts-", "piped-"
_MAKING, _READING = "making.lock", "reading-"
_LOOK_SECONDS = 0.05


def own_folder(parent: Path, prefix: str) -> Path:
    """Make a folder that is this process's own as long as it lives, and sweep what others left. Raises ``OSError``.

    One process at a time does so: a folder just made, and not locked yet, is never taken for one left behind.
    """
    with contextlib.ExitStack() as alone:
        with contextlib.suppress(OSError):
            lock = hold(stores_folder().parent / _MAKING, wait=True)
            if lock is not None:
                alone.callback(lock.let_go)
        _sweep()
        folder = Path(tempfile.mkdtemp(prefix=prefix, dir=parent))
        litter.begin_folder(folder)
    return folder


def sweep() -> None:
    """Sweep what killed processes left, unless another process makes something just now."""
    with contextlib.suppress(OSError):
        lock = hold(stores_folder().parent / _MAKING)
        if lock is not None:
            _sweep()
            lock.let_go()


def _sweep() -> None:
    stores = stores_folder()
    for path in stores.glob(f"{_READING}*"):  # of readers that were killed
        with abandoned(path) as is_left:
            if is_left:
                path.unlink(missing_ok=True)
    for path in stores.glob(f"{_GLANCED}*"):
        with contextlib.suppress(OSError):
            if time.time() - path.stat().st_mtime >= _GLANCED_SECONDS:
                path.unlink(missing_ok=True)
    building = (path for prefix in (BUILDING, SORTING, TEXTS) for path in stores.glob(f"{prefix}*"))
    litter.sweep_folders([*building, *stores.parent.glob(f"{PIPED}*")])


def glanced_lately(folder: Path) -> bool:
    """Tell whether only the first rows of what goes into a store were wanted within a day; from now on they were."""
    mark = folder.with_name(f"{_GLANCED}{folder.name}")
    with contextlib.suppress(OSError):
        if time.time() - mark.stat().st_mtime < _GLANCED_SECONDS:
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
    path = folder.with_name(f"{_READING}{folder.name}")
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
    """Remove the stores longest unused until the rest keep to the limit; never ``keep``. Returns those removed."""
    sizes: dict[Path, int] = {}
    for folder in stores_folder().iterdir():
        if folder.is_dir() and not folder.name.startswith((BUILDING, SORTING, TEXTS)):
            sizes[folder] = sum(file.stat().st_size for file in folder.iterdir())
    total, limit = sum(sizes.values()), settings().value("cache.bytes")
    removed = []
    for folder in sorted(sizes, key=lambda folder: folder.stat().st_mtime):
        if total <= limit:
            break
        if folder != keep:
            shutil.rmtree(folder, ignore_errors=True)
            total -= sizes[folder]
            removed.append(folder)
    return removed
