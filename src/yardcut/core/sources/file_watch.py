"""Noticing that a file of the source, or of a second table, is no longer what was read."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

from yardcut.core.errors import SourceError
from yardcut.core.sources.spec import SourceSpec

_State = tuple[int, int] | None
"""A file's size in bytes and when it was changed, in nanoseconds; ``None``: it is not there."""


class FileWatch:
    """Compares size and time of change with those at the beginning; looks at nothing in the files."""

    def __init__(self) -> None:
        self._spec: SourceSpec | None = None
        self._seen: dict[Path, _State] = {}
        self._beside: dict[Path, _State] = {}

    def begin(self, spec: SourceSpec) -> None:
        """Take the present state as what was read."""
        self._spec = spec
        self._seen = _states(spec)
        self._beside = {path: _state(path) for path in self._beside}

    def beside(self, paths: Iterable[Path]) -> None:
        """Watch the files of second tables too; those that come to it were read just now."""
        self._beside = {path: self._beside[path] if path in self._beside else _state(path) for path in paths}

    def states(self) -> dict[Path, tuple[int, int] | None]:
        """Return size and time of change of every file as they are now."""
        return {**({} if self._spec is None else _states(self._spec)), **{path: _state(path) for path in self._beside}}

    def changed(self) -> str:
        """Say what is different, or nothing."""
        if self._spec is None:
            return ""
        now = _states(self._spec)
        new = next((path for path in now if path not in self._seen), None)
        if new is not None:
            return f"{new.name} is a new file of the source"
        there = {**now, **{path: _state(path) for path in tuple(self._beside)}}
        for path, before in {**self._seen, **self._beside}.items():
            said = _difference(path, before, there.get(path))
            if said:
                return said
        return "the files of the source have changed" if len(now) != len(self._seen) else ""


def _difference(path: Path, before: _State, now: _State) -> str:
    if now == before or before is None:
        return ""
    if now is None:
        return f"{path.name} is gone"
    grown = now[0] - before[0]
    return f"{path.name} {f'has grown by {grown:,} bytes' if grown > 0 else 'has changed'} since it was read"


def _states(spec: SourceSpec) -> dict[Path, _State]:
    try:
        return {path: _state(path) for path in spec.paths()}
    except SourceError:
        return {}


def _state(path: Path) -> _State:
    try:
        status = path.stat()
    except OSError:
        return None
    return status.st_size, status.st_mtime_ns
