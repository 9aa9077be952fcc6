"""Finding a text anywhere: against a look at every cell as it is shown."""

from __future__ import annotations

import random

import pytest

from helpers import WriteTable, run_lines
from yardcut.core.progress import CancelToken
from yardcut.core.run.looking.found_texts import find_line, find_text, next_match
from yardcut.core.scanning.local import LocalRunner


@pytest.mark.few(8)
@pytest.mark.parametrize("text", ["oak", "OAK", "2", "-1.5", "true", "2031-03", "e", "é", "'", "%", "2.", "nowhere"])
@pytest.mark.parametrize("lines", [[], ["keep n >= 0", "order n DESC"]])
def test_every_cell_that_shows_a_text_is_found(table_of: WriteTable, text: str, lines: list[str]) -> None:
    chance = random.Random(5)
    rows = [
        [
            chance.choice([None, "oak", "Oak beam", "it's 2 %", "élan"]),
            chance.choice([None, *range(-12, 30)]),
            chance.choice([None, -1.5, 2.25, 1e-7]),
            chance.choice([None, "2031-03-01", "2030-12-31"]),
            chance.choice([None, "true", "false"]),
        ]
        for _ in range(700)
    ]
    table = table_of(["wood", "n", "x", "day", "flag"], rows)
    frame = run_lines(table, *(lines or ["keep TRUE"]))[-1].frame
    found = find_text(text, frame, LocalRunner(table), lambda part: None, CancelToken())
    page = frame.page(0, frame.rows.count, range(5))
    wanted = text.lower()
    hits = [[wanted in (cell or "").lower() for cell in cells] for cells in page.cells]
    expected = [position for position, row in enumerate(zip(*hits, strict=True)) if any(row)]
    assert found.count == len(expected)
    assert dict(found.by_column) == {
        column.name: sum(some) for column, some in zip(frame.columns, hits, strict=True) if any(some)
    }
    position, met = -1, []
    while (position := next_match(found, frame, position, 1)) is not None:  # type: ignore[assignment]
        met.append(position)
    assert met == expected
    position, met = frame.rows.count, []
    while (position := next_match(found, frame, position, -1)) is not None:  # type: ignore[assignment]
        met.append(position)
    assert met == expected[::-1]
    kept = run_lines(table, *lines, find_line("keep", text))[-1]
    assert kept.rows.count == len(expected)
