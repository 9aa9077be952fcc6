"""Noticing that a file of the source is no longer what was read."""

from __future__ import annotations

from pathlib import Path

from yardcut.core.errors import SourceError
from yardcut.core.sources.spec import SourceSpec


class FileWatch:
    """Compares size and time of change with those at the beginning; looks at nothing in the files."""

    def __init__(self) -> None:
        self._spec: SourceSpec | None = None
        self._seen: dict[Path, tuple[int, int] | None] = {}

    def begin(self, spec: SourceSpec) -> None:
        """Take the present state as what was read."""
        self._spec = spec
        self._seen = _states(spec)

    def changed(self) -> str:
        """Say what is different, or nothing."""
        if self._spec is None:
            return ""
        now = _states(self._spec)
        if now == self._seen:
            return ""
        for path, state in now.items():
            before = self._seen.get(path)
            if path not in self._seen:
                return f"{path.name} is a new file of the source"
            if state is None and before is not None:
                return f"{path.name} is gone"
            if state is not None and before is not None and state != before:
                grown = state[0] - before[0]
                how = f"has grown by {grown:,} bytes" if grown > 0 else "has changed"
                return f"{path.name} {how} since it was read"
        return "the files of the source have changed"


def _states(spec: SourceSpec) -> dict[Path, tuple[int, int] | None]:
    found: dict[Path, tuple[int, int] | None] = {}
    try:
        paths = spec.paths()
    except SourceError:
        return found
    for path in paths:
        try:
            status = path.stat()
            found[path] = (status.st_size, status.st_mtime_ns)
        except OSError:
            found[path] = None
    return found
