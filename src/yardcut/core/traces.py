"""Where an error came from, for logs: kinds of errors and lines of code, never a message, which may quote a cell."""

from __future__ import annotations

import traceback
from pathlib import Path

_PACKAGE = "yardcut"


def trace(error: BaseException) -> str:
    """Return the kinds of an error and of those behind it, each with the lines of code it came through."""
    parts = []
    seen: set[int] = set()
    now: BaseException | None = error
    while now is not None and id(now) not in seen:
        seen.add(id(now))
        frames = "".join(
            f"\n  {frame.filename}:{frame.lineno} in {frame.name}" for frame in traceback.extract_tb(now.__traceback__)
        )
        parts.append(f"{_kind(now)}{frames}")
        now = now.__cause__ or now.__context__
    return "\ncaused by ".join(parts)


def came_from(error: BaseException) -> str:
    """Return the kind of an error, and the last line of our own code it came through, to be told and reported."""
    frames = traceback.extract_tb(error.__traceback__)
    own = [frame for frame in frames if f"/{_PACKAGE}/" in frame.filename.replace("\\", "/")]
    if not frames:
        return _kind(error)
    last = (own or list(frames))[-1]
    path = Path(last.filename)
    parts = path.parts
    if _PACKAGE in parts:
        path = Path(*parts[len(parts) - 1 - parts[::-1].index(_PACKAGE) :])
    return f"{_kind(error)} at {path}, line {last.lineno}"


def _kind(error: BaseException) -> str:
    name = type(error).__name__
    return f"{name} {error.errno}" if isinstance(error, OSError) and error.errno is not None else name
