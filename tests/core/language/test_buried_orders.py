"""An order does not silently bury the one above it: what is left of it is said, and how both are one."""

from __future__ import annotations

from pathlib import Path

import pytest

from commands import yardcut

ROWS = "year,month,ticket\n2,1,1\n1,2,2\n1,1,3\n2,2,4\n1,1,5\n"
SAID = "the order above only tells apart rows that are equal here; as one, its keys first: order year, month"


def hints(folder: Path, *lines: str) -> str:
    (folder / "packs.csv").write_text(ROWS)
    words = [word for line in lines for word in ("-l", line)]
    return yardcut("cut", "packs.csv", *words, cwd=folder).stderr


@pytest.mark.parametrize("between", [[], ["keep ticket > 0"], ["make x = 1", "columns year, month, ticket"]])
def test_an_order_upon_an_order_is_said(tmp_path: Path, between: list[str]) -> None:
    assert SAID in hints(tmp_path, "order year", *between, "order month")


@pytest.mark.parametrize("between", ["draw first 4", "draw top 4 by ticket", "tally COUNT(*) per year, month"])
def test_an_order_that_was_made_use_of_is_not_buried(tmp_path: Path, between: str) -> None:
    assert "tells apart" not in hints(tmp_path, "order year", between, "order month")


def test_one_order_and_the_order_as_read_bury_nothing(tmp_path: Path) -> None:
    assert "tells apart" not in hints(tmp_path, "order year, month")
    assert "tells apart" not in hints(tmp_path, "order year", "order as read")


def test_what_is_said_is_so(tmp_path: Path) -> None:
    """Two orders are the later one with the earlier one's keys behind; the line offered has them first."""
    (tmp_path / "packs.csv").write_text(ROWS)

    def rows(*lines: str) -> str:
        words = [word for line in lines for word in ("-l", line)]
        return yardcut("cut", "packs.csv", *words, cwd=tmp_path).stdout

    assert rows("order year", "order month") == rows("order month, year") != rows("order year, month")
