"""What a hunt is: turns by seed, each of which finds something or not."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

Turn = Callable[[int, Path], "str | None"]
"""Takes a seed and an empty folder; returns what it found, in words that are enough to look at it again."""


@dataclass(frozen=True, slots=True)
class Finding:
    """What one turn found."""

    hunt: str
    seed: int
    said: str


@dataclass(slots=True)
class Tally:
    """How often a hunt was run, how long, and what it found."""

    hunt: str
    turns: int = 0
    seconds: float = 0.0
    findings: int = 0


def turns(hunt: str, turn: Turn, first_seed: int, seconds: float, folder: Path, tally: Tally) -> Iterator[Finding]:
    """Take turns until the time is over; yield what they find."""
    began = time.monotonic()
    seed = first_seed
    while time.monotonic() - began < seconds:
        place = folder / f"{hunt}-{seed}"
        place.mkdir()
        said = turn(seed, place)
        tally.turns += 1
        tally.seconds = time.monotonic() - began
        if said is not None:
            tally.findings += 1
            yield Finding(hunt, seed, said)
        else:
            _remove(place)
        seed += 1


def _remove(place: Path) -> None:
    import shutil

    shutil.rmtree(place, ignore_errors=True)
