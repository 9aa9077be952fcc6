"""What the list panel is told to show."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from typing import TYPE_CHECKING

from yardcut.core.quick_dataclasses import dataclass

if TYPE_CHECKING:
    from yardcut.core.run.executing.bound_lines import BoundLine
    from yardcut.core.run.executing.results import LineResult
    from yardcut.core.run.explaining.tree_counts import Branch
    from yardcut.core.run.hinting.hint import Hint

Run = tuple[str, str]
"""A text and the name of its style: one of the list panel's component classes."""


@dataclass(frozen=True, slots=True)
class PanelLine:
    """One line of the panel; ``entry`` is the index of the list's line it belongs to (-1: the source), or ``None``."""

    runs: tuple[Run, ...]
    entry: int | None = None


@dataclass(frozen=True, slots=True)
class CountsOfAll:
    """What is known of a source that still comes: its rows, then those that each of the first lines leaves.

    ``counts`` are written as they are shown, "" where nobody knows; ``said`` is what stands before them.
    """

    said: str = ""
    counts: tuple[str, ...] = ()

    def of_line(self, index: int) -> str:
        """Return the count of a line (-1: the source), "" where there is none."""
        return self.counts[index + 1] if index + 1 < len(self.counts) else ""


@dataclass(frozen=True, slots=True)
class ListState:
    """All that the list panel shows.

    ``unanswered`` says of the selected line which operations had no answer; ``was`` how many rows lines left before the
    last edit; ``looks`` are the look lines, at work or resting; ``hints`` is what a look at the values says of lines;
    ``dials`` are the names of dials and what they hold; ``so_far`` says of which rows all figures are while the source
    is being read; ``of_all`` are the counts of rows that still come.
    """

    lines: tuple[BoundLine, ...] = ()
    results: tuple[LineResult, ...] = ()
    source: str = ""
    source_rows: int | None = None
    selected: int = -1
    tree: tuple[Branch, ...] = ()
    unanswered: tuple[str, ...] = ()
    looks: tuple[BoundLine, ...] = ()
    is_looking: bool = False
    was: Mapping[int, int] = field(default_factory=dict)
    hints: Mapping[int, tuple[Hint, ...]] = field(default_factory=dict)
    dials: tuple[tuple[str, str], ...] = ()
    so_far: str = ""
    of_all: CountsOfAll = CountsOfAll()
