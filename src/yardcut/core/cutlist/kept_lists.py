"""Lists as they are being worked on, kept in the state directory at every edit, to be taken up after a crash.

Each running app has a folder of its own, with a lock that it holds as long as it lives: ``now.cut``, and the few states
before it, in case it is the last edit that does the harm. They are lists as any other, below one line of where from.
"""

from __future__ import annotations

import contextlib
import json
import os
import secrets
import shutil
import threading
import time
from collections.abc import Sequence
from pathlib import Path

from yardcut.core.cutlist.file import list_text, parse_list
from yardcut.core.cutlist.model import CutList
from yardcut.core.errors import ListError
from yardcut.core.locks import FileLock, hold, is_abandoned
from yardcut.core.private import private_folder, write_private
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.state import state_folder

_HEAD = "-- kept "
_NAMES = ("now.cut", "before-1.cut", "before-2.cut", "before-3.cut")
_LEFT, _LOCK = "left", "lock"
_MOST_FOUND = 20


@dataclass(frozen=True, slots=True)
class KeptList:
    """One state of a list. ``base`` is the directory its source's path is relative to, ``path`` its file if any."""

    cut_list: CutList
    cut_index: int
    base: Path
    path: Path | None = None

    @property
    def sources(self) -> tuple[str, ...]:
        """What it reads, as whole paths; patterns stay patterns."""
        return tuple(os.path.abspath(self.base / file) for file in self.cut_list.files)

    @property
    def lines(self) -> list[str]:
        """The lines of the cut worked on."""
        return [line.text for line in self.cut_list.cuts[self.cut_index].lines]

    def text(self) -> str:
        """Write it down."""
        known = {
            "base": os.path.abspath(self.base),
            "list": None if self.path is None else os.path.abspath(self.path),
            "cut": self.cut_index,
        }
        return f"{_HEAD}{json.dumps(known)}\n{list_text(self.cut_list)}"

    @classmethod
    def of(cls, text: str) -> KeptList:
        """Read what :meth:`text` wrote. Raises ``ListError`` or ``ValueError`` for anything else."""
        head, _, rest = text.partition("\n")
        if not head.startswith(_HEAD):
            raise ValueError("no kept list")
        known = json.loads(head.removeprefix(_HEAD))
        cut_list = parse_list(rest)
        path = None if known["list"] is None else Path(known["list"])
        return cls(cut_list, max(0, min(int(known["cut"]), len(cut_list.cuts) - 1)), Path(known["base"]), path)


@dataclass(frozen=True, slots=True)
class Found:
    """A list that nobody works on any more: its states, the newest first, and when it was edited last (POSIX seconds).

    ``was_left`` is true when its user left it unsaved knowingly.
    """

    folder: Path
    states: tuple[KeptList, ...]
    edited: float
    was_left: bool


class Keeper:
    """Keeps the list of one running app. Threads may call it; an older state never takes a newer one's place."""

    def __init__(self, root: Path | None = None) -> None:
        self._root = root or lists_folder()
        self._guard = threading.Lock()
        self._folder: Path | None = None
        self._lock: FileLock | None = None
        self._newest = 0

    def keep(self, number: int, state: KeptList) -> None:
        """Write a state down, unless one of a higher number is. Raises ``OSError``."""
        with self._guard:
            if number <= self._newest:
                return
            folder = self._begun()
            beside = folder / "new.partial"
            write_private(beside, state.text().encode())
            for older, newer in zip(reversed(_NAMES), _NAMES[-2::-1], strict=False):
                with contextlib.suppress(FileNotFoundError):
                    os.replace(folder / newer, folder / older)
            os.replace(beside, folder / _NAMES[0])
            self._newest = number

    def _begun(self) -> Path:
        if self._folder is None:
            private_folder(self._root.parent)
            private_folder(self._root)
            folder = private_folder(self._root / f"{time.strftime('%Y%m%d-%H%M%S')}-{secrets.token_hex(3)}")
            self._lock = hold(folder / _LOCK)
            self._folder = folder
        return self._folder

    def end(self, *, unsaved: bool) -> None:
        """The app ends: what is saved needs no keeping, what is left unsaved knowingly is not offered unasked."""
        with self._guard:
            self._newest = 1 << 62
            if self._folder is not None:
                with contextlib.suppress(OSError):
                    if unsaved:
                        write_private(self._folder / _LEFT, b"")
                    else:
                        shutil.rmtree(self._folder)
            if self._lock is not None:
                self._lock.let_go()


def lists_folder() -> Path:
    """Return where lists are kept."""
    return state_folder() / "lists"


def found_lists(root: Path | None = None) -> list[Found]:
    """Return the lists nobody works on, newest first; beyond the twenty newest they are dropped for good."""
    found: list[Found] = []
    for lock in sorted((root or lists_folder()).glob(f"*/{_LOCK}"), reverse=True):
        if not is_abandoned(lock):
            continue
        folder = lock.parent
        if len(found) == _MOST_FOUND:
            shutil.rmtree(folder, ignore_errors=True)
            continue
        states = tuple(state for name in _NAMES if (state := _read(folder / name)) is not None)
        if states:
            with contextlib.suppress(OSError):
                edited = max(path.stat().st_mtime for path in folder.glob("*.cut"))
                found.append(Found(folder, states, edited, (folder / _LEFT).exists()))
    return found


def found_for(sources: Sequence[str], path: Path | None, found: Sequence[Found]) -> list[Found]:
    """Return those that read the same sources (whole paths), or are of the same list file."""
    own = None if path is None else os.path.abspath(path)
    return [
        one
        for one in found
        if one.states[0].sources == tuple(sources)
        or (own is not None and one.states[0].path is not None and str(one.states[0].path) == own)
    ]


def forget(found: Found) -> None:
    """Drop a list for good."""
    shutil.rmtree(found.folder, ignore_errors=True)


def _read(path: Path) -> KeptList | None:
    """Read a state; ``None`` where there is none, or none that can be read."""
    try:
        return KeptList.of(path.read_text("utf-8"))
    except (OSError, ValueError, KeyError, TypeError, ListError):
        return None
