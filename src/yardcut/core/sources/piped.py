"""Standard input and named pipes as sources: kept in a file of their own, since columns may have to be read twice."""

from __future__ import annotations

import atexit
import shutil
from pathlib import Path
from typing import IO

from yardcut.core import litter
from yardcut.core.errors import Mend, SourceError
from yardcut.core.private import private_folder, private_opener
from yardcut.core.sources.store.own_folders import PIPED, own_folder, stores_folder

_PIECE_BYTES = 1 << 20


def kept_input(stream: IO[bytes], name: str = "standard input") -> Path:
    """Copy a pipe to a file that is removed when the process ends. Raises ``SourceError``."""
    folder = stores_folder().parent
    try:
        private_folder(folder)
        kept = own_folder(folder, PIPED)
        atexit.register(litter.drop, kept)
        path = kept / name
        with open(path, "wb", opener=private_opener) as file:
            shutil.copyfileobj(stream, file, _PIECE_BYTES)
    except OSError as error:
        raise SourceError(f"{name} cannot be kept in {folder}: {error.strerror}") from error
    if not path.stat().st_size:
        raise SourceError(f"nothing came from {name}", mend=Mend("check the command before the pipe"))
    return path


def plain_source(file: str) -> str:
    """Return what a source is called in a list that others read: of a pipe that was kept, no path of ours.

    >>> plain_source("yard_2031.csv")
    'yard_2031.csv'
    """
    path = Path(file)
    return path.name if path.parent.name.startswith(PIPED) and path.is_relative_to(stores_folder().parent) else file


def kept_pipe(path: Path) -> Path:
    """Copy what comes from a named pipe, such as the shell makes for ``<(command)``. Raises ``SourceError``."""
    try:
        with open(path, "rb") as stream:
            return kept_input(stream, f"pipe {path.name}")
    except OSError as error:
        raise SourceError(f"{path} cannot be read: {error.strerror}") from error
