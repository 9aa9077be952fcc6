"""A file on its way: what is said of it, and writing it as it comes."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from yardcut.core.errors import SourceError
from yardcut.core.private import private_opener
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class About:
    """What a server says of a file: its entity tag, when it changed (as the server writes it), and its bytes.

    "" and -1 where it says nothing. Where it ``stays_there``, what is here stands for it, and ranges of it come.
    """

    tag: str = ""
    changed: str = ""
    size_bytes: int = -1
    changed_seconds: float = -1.0
    stays_there: bool = False


def begin(progress: Progress, name: str, size_bytes: int) -> None:
    """Show that a file is on its way."""
    progress.begin(f"fetching {name}", max(0, size_bytes))


def write_pieces(pieces: Iterator[bytes], part: Path, start: int, token: CancelToken, progress: Progress) -> int:
    """Write what comes behind the bytes that are there already; returns how many there are then.

    Raises ``OSError``, ``StoppedError``, and what the pieces raise.
    """
    done = start
    with open(part, "r+b" if start else "wb", opener=private_opener) as file:
        file.seek(start)
        file.truncate()
        for piece in pieces:
            token.check()
            file.write(piece)
            done += len(piece)
            progress.done = done
    return done


def refused(address: str, said: str) -> SourceError:
    """Return the error for a file that cannot be had."""
    return SourceError(f"{address}: {said}")
