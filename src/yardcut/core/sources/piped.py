"""Standard input and named pipes as sources: kept in a file of their own, since columns may have to be read twice."""

from __future__ import annotations

import atexit
import os
from collections.abc import Iterable
from pathlib import Path
from typing import IO

from yardcut.core import litter
from yardcut.core.errors import Mend, SourceError
from yardcut.core.private import private_folder, private_opener
from yardcut.core.sources.growing_files import GrowingFile
from yardcut.core.sources.store.own_folders import PIPED, own_folder, stores_folder

_PIECE_BYTES = 1 << 20


def kept_input(stream: IO[bytes], name: str = "standard input") -> Path:
    """Copy a pipe to a file that is removed when the process ends. Raises ``SourceError``."""
    _take(stream)
    path = kept_bytes(iter(lambda: stream.read(_PIECE_BYTES), b""), name)
    if not path.stat().st_size:
        raise _nothing_came(name)
    return path


def kept_bytes(pieces: Iterable[bytes], name: str) -> Path:
    """Write bytes to a private file of that name; it and what is read of it go when the process ends.

    Raises ``SourceError``.
    """
    path = _place_for(name)
    try:
        with open(path, "wb", buffering=0, opener=private_opener) as file:
            for piece in pieces:
                rest = memoryview(piece)
                while rest:
                    rest = rest[file.write(rest) :]
    except OSError as error:
        raise _cannot_be_kept(name, error) from error
    return path


_taken: list[IO[bytes]] = []


def _take(stream: IO[bytes]) -> None:
    """Note that a stream is read: of two who read it each would get a part. Raises ``SourceError``."""
    if any(stream is each for each in _taken):
        raise SourceError("standard input gives its bytes once", mend=Mend("name it once"))
    _taken.append(stream)


def _place_for(name: str) -> Path:
    folder = stores_folder().parent
    try:
        private_folder(folder)
        kept = own_folder(folder, PIPED)
    except OSError as error:
        raise _cannot_be_kept(name, error) from error
    atexit.register(litter.drop, kept)
    return kept / name


def _cannot_be_kept(name: str, error: OSError) -> SourceError:
    return SourceError(f"{name} cannot be kept in {stores_folder().parent}: {error.strerror}")


def growing_input(stream: IO[bytes]) -> Path:
    """Return a file that standard input fills from now on; bytes in memory are kept at once. Raises ``SourceError``."""
    try:
        pipe = stream.fileno()
    except OSError:
        return kept_input(stream)
    _take(stream)
    return _growing(pipe, "standard input")


def growing_pipe(path: Path) -> Path:
    """Return a file that a named pipe fills from now on. Raises ``SourceError``."""
    try:
        pipe = os.open(path, os.O_RDONLY)
    except OSError as error:
        raise SourceError(f"{path} cannot be read: {error.strerror}") from error
    return _growing(pipe, f"pipe {path.name}")


def _growing(pipe: int, name: str) -> Path:
    path = _place_for(name)
    if not GrowingFile(pipe, path, name).wait_for(1):
        raise _nothing_came(name)
    return path


def _nothing_came(name: str) -> SourceError:
    return SourceError(f"nothing came from {name}", mend=Mend("check the command before the pipe"))


def plain_source(file: str) -> str:
    """Return what a source is called in a list that others read: of a pipe that was kept, no path of ours.

    >>> plain_source("yard_2031.csv")
    'yard_2031.csv'
    """
    path = Path(file)
    return path.name if came_through_a_pipe(path) else file


def came_through_a_pipe(path: Path) -> bool:
    """Tell whether a file is what was kept of a pipe: nobody meets it again when this process has ended."""
    return path.parent.name.startswith(PIPED) and path.is_relative_to(stores_folder().parent)


def kept_pipe(path: Path) -> Path:
    """Copy what comes from a named pipe, such as the shell makes for ``<(command)``. Raises ``SourceError``."""
    try:
        with open(path, "rb") as stream:
            return kept_input(stream, f"pipe {path.name}")
    except OSError as error:
        raise SourceError(f"{path} cannot be read: {error.strerror}") from error
