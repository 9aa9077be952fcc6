"""Files of the web and of buckets, fetched into the cache: known again by what is said of them, whole or not there."""

from __future__ import annotations

import json
import os
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import asdict
from functools import partial
from pathlib import Path

from yardcut.core.formats import function
from yardcut.core.locks import hold
from yardcut.core.private import private_folder, write_private
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere import addresses
from yardcut.core.sources.elsewhere.coming_files import About
from yardcut.core.sources.elsewhere.ranged_files import Get, may_stay_there, stand_in
from yardcut.core.sources.store.cache import reading_failed
from yardcut.core.sources.store.own_folders import ABOUT

_PART = ".part"


def fetch_file(address: str, token: CancelToken, progress: Progress) -> Path:
    """Return the file of an address, fetched where it is not here or another one by now; once in a process.

    Raises ``SourceError``, ``StoppedError``.
    """
    path = addresses.file_of(address)
    if addresses.is_fresh(address) and path.exists():
        return path
    get: Get = function(addresses.way_to(address).get)
    if may_stay_there(address):
        get = partial(stand_in, get)
    try:
        private_folder(path.parent.parent)
        private_folder(path.parent)
        with _alone(path.parent, token, progress):
            known = _known(path)
            part = path.with_name(path.name + _PART)
            about = get(address, part, known, token, progress)
            if about is not None:
                if about.changed_seconds >= 0:
                    os.utime(part, (about.changed_seconds, about.changed_seconds))
                part.replace(path)
                write_private(path.with_name(ABOUT), json.dumps(asdict(about)).encode())
            os.utime(path.with_name(ABOUT))
    except OSError as error:
        raise reading_failed(error, address, path.parent) from error
    addresses.fetched(address)
    return path


def _known(path: Path) -> About | None:
    """Return what was said of the file that is here; nothing where it is not whole."""
    try:
        about = About(**json.loads(path.with_name(ABOUT).read_bytes()))
        size = path.stat().st_size
    except (OSError, ValueError, TypeError):
        return None
    return about if about.stays_there or about.size_bytes in (-1, size) else None


@contextmanager
def _alone(folder: Path, token: CancelToken, progress: Progress) -> Iterator[None]:
    """Wait while another process fetches the same file."""
    while (lock := hold(folder / "fetching.lock")) is None:
        progress.begin("waiting for another Yard Cut that fetches it", 1)
        token.wait(0.05)
    try:
        yield
    finally:
        lock.let_go()
