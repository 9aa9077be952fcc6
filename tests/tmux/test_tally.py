"""The story of the manual: volume and price of the unsold, the three largest, as a picture and as a workbook."""

from __future__ import annotations

import csv
from collections import defaultdict
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import pytest
import python_calamine

MANUAL = Path(__file__).parents[2] / "docs" / "language.md"
Start = Callable


def largest(folder: Path, count: int) -> list[tuple[str, str, float]]:
    """Work it out with the csv module and fractions."""
    volumes: dict[tuple[str, str], Fraction] = defaultdict(Fraction)
    with open(folder / "yard_2031.csv", encoding="utf-8", newline="") as file:
        for row in csv.DictReader(file):
            if not row["sold_on"] and row["volume_m3"] not in ("", "NA", "n/a"):
                volumes[row["species"], row["grade"]] += Fraction(float(row["volume_m3"]))
    found = sorted(volumes.items(), key=lambda each: -each[1])[:count]
    return [(*key, float(volume)) for key, volume in found]


class Counted:
    """A terminal whose keys are counted."""

    def __init__(self, app) -> None:  # type: ignore[no-untyped-def]
        self.app, self.keys = app, 0

    def press(self, *keys: str) -> None:
        self.keys += len(keys)
        self.app.keys(*keys)

    def type(self, text: str) -> None:
        self.keys += len(text)
        self.app.type(text)

    def line(self, text: str) -> None:
        self.press("w")
        self.app.until("cut ▸")
        self.type(text)
        self.app.until("(as line")
        self.press("Enter")
        self.app.until("cut ▸", gone=True)


@pytest.mark.long  # tests/tui/test_tallying.py holds its cards on every change
def test_the_three_largest_of_the_unsold_as_bars_and_as_a_workbook(start: Start, tmp_path: Path) -> None:
    app = start()
    app.until("7,650 rows × 71 columns")
    by_hand = Counted(app)
    by_hand.line("keep sold_on IS NULL")
    by_hand.line("tally SUM(volume_m3) AS volume, AVG(price_per_m3) AS price per species, grade")
    by_hand.line("draw top 3 by volume")
    app.until("3 rows left")
    by_hand.press("P")
    app.until("volume per species, grade")
    by_hand.press("s")
    app.until("picture to ▸")
    by_hand.press("C-u")
    by_hand.type("three.svg")
    by_hand.press("Enter")
    app.until("wrote")
    by_hand.press("C-s")
    app.until("save slice ▸")
    by_hand.press("C-u")
    by_hand.type("three.xlsx")
    app.until("writes 3 rows and 4 columns as xlsx")
    by_hand.press("Enter")
    app.until("3 rows read back")
    header, *rows = (
        python_calamine.CalamineWorkbook.from_path(tmp_path / "terminal-0" / "three.xlsx")
        .get_sheet_by_index(0)
        .to_python()
    )
    assert header == ["species", "grade", "volume", "price"]
    assert [tuple(row[:3]) for row in rows] == largest(tmp_path, 3)
    assert f"takes {by_hand.keys} keys" in MANUAL.read_text(encoding="utf-8")


@pytest.mark.long
def test_the_same_with_a_dial_that_is_turned(start: Start, tmp_path: Path) -> None:
    app = start()
    app.until("7,650 rows × 71 columns")
    app.keys("w")
    app.until("cut ▸")
    app.type("dial best = 3 from 1 to 9")
    app.keys("Enter")
    app.until("cut ▸", gone=True)
    app.line("keep sold_on IS NULL", "(as line")
    app.line("tally SUM(volume_m3) AS volume per species, grade", "(as line")
    app.line("draw top :best by volume", "(as line")
    app.until("3 rows left")
    app.keys(":")
    app.until("best")
    app.keys("Right", "Right")
    app.until("5 rows left")
    app.keys("Escape")
    species, grade, volume = largest(tmp_path, 5)[-1]
    app.until(species, grade, f"{volume:.3f}"[:5])
