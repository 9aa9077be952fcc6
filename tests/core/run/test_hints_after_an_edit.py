"""After an edit the hints of that line are worked out, and of those below whose rows changed: of no other."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting import line_hints
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.opening_sources import open_table

LINES = [f"keep boards <> {number}" for number in range(10)]


@pytest.fixture
def looked_at(monkeypatch: pytest.MonkeyPatch) -> list[str]:
    """The lines whose values were looked at."""
    seen = list[str]()
    monkeypatch.setattr(
        line_hints, "LOOKING", [lambda result, executor, token: seen.append(result.line.line.text) or ()]
    )
    return seen


def hinted(executor: Executor, lines: list[str]) -> list[LineResult]:
    results = list(executor.run(Cut(lines=tuple(map(Line, lines))), CancelToken()))
    for result in results:
        line_hints.line_hints(result, executor, CancelToken())
    return results


@pytest.mark.parametrize(
    ("edited", "text", "again"),
    [
        (4, "keep boards <> 40", [4, 5, 6, 7, 8, 9]),  # other rows reach those below
        (9, "keep boards <> 40", [9]),
        (0, "off keep boards <> 0", [0, 1, 2, 3, 4, 5, 6, 7, 8, 9]),
    ],
)
def test_only_what_changed_is_looked_at_again(
    tmp_path: Path, looked_at: list[str], edited: int, text: str, again: list[int]
) -> None:
    path = tmp_path / "yard.csv"
    path.write_text("boards\n" + "".join(f"{row % 50}\n" for row in range(500)))
    executor = Executor(LocalRunner(open_table(path)))
    hinted(executor, LINES)
    assert looked_at == LINES
    looked_at.clear()
    lines = [text if place == edited else line for place, line in enumerate(LINES)]
    hinted(executor, lines)
    assert looked_at == [lines[place] for place in again]
    looked_at.clear()
    hinted(executor, LINES)  # taken back
    assert looked_at == []
