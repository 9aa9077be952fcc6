"""Files and folders that only their owner can read: stores, state, reports, logs, and what is not whole yet."""

from __future__ import annotations

import os
from collections.abc import Callable
from pathlib import Path

_FILE, _FOLDER = 0o600, 0o700


def private_opener(path: str, flags: int) -> int:
    """Open a file, made for its owner alone where it is not there; for the ``opener`` of ``open``."""
    return os.open(path, flags | os.O_CLOEXEC, _FILE)


def write_private(path: Path, content: bytes) -> None:
    """Write a whole file that only its owner can read. Raises ``OSError``."""
    with open(path, "wb", opener=private_opener) as file:
        file.write(content)
        os.fchmod(file.fileno(), _FILE)


def private_folder(folder: Path) -> Path:
    """Make a folder, and those above it, that only its owner can look into; one that is there becomes so.

    A folder that belongs to somebody else stays as it is. Raises ``OSError``.
    """
    if not folder.is_dir():
        missing = [above for above in folder.parents if not above.exists()]
        folder.mkdir(parents=True, exist_ok=True, mode=_FOLDER)
        # parents are made with the usual mode, whatever is asked for
        for above in missing:
            above.chmod(_FOLDER)
    status = folder.stat()
    if status.st_mode & 0o077 and status.st_uid == os.geteuid():
        folder.chmod(_FOLDER)
    return folder


def create_private(name: Callable[[], Path]) -> Path:
    """Create an empty file under the first of some names that is free. Raises ``OSError``."""
    while True:
        path = name()
        try:
            os.close(os.open(path, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, _FILE))
        except FileExistsError:
            continue
        return path
