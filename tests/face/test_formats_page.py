"""The page on formats says what comes back: each is written, read again, and compared with its row."""

from __future__ import annotations

import re
from pathlib import Path

import pytest

import yardcut
from yardcut.core.formats import FORMATS

PAGE = Path(__file__).parents[2] / "docs" / "formats.md"
ROWS = {
    cells[0]: cells[1:]
    for line in PAGE.read_text().splitlines()
    if line.startswith("| ") and not line.startswith("| format")
    for cells in [[cell.strip() for cell in line.strip("|").split("|")]]
}
KINDS = ("text", "integer", "number", "boolean", "date", "timestamp", "instant", "time")
SOURCE = (
    "word,whole,part,yes,day,moment,at_once,clock\n"
    "oak,1,1.50,true,2031-03-01,2031-03-01 10:00:00.25,2031-03-01T10:00:00+02:00,10:30\n"
    "elm,-9007199254740993,0.1,false,1999-12-31,2031-03-01 11:00:00,2031-03-01T12:00:00+02:00,23:59:59.5\n"
    "ash,2,,,,,,\n"
)


def test_each_format_has_its_row() -> None:
    assert list(ROWS) == [name for name, form in FORMATS.items() if form.write]


@pytest.mark.parametrize("name", ROWS)
def test_what_comes_back_is_what_the_page_says(name: str, tmp_path: Path) -> None:
    endings, kinds, empty, cells, carries, several, compressed = ROWS[name]
    form = FORMATS[name]
    assert re.findall("`(.*?)`", endings) == list(form.endings)
    said = {"yes": True, "no": False}
    assert (said[carries], said[several], said[compressed]) == (bool(form.carried), form.holds_several, form.is_text)
    (tmp_path / "a.csv").write_text(SOURCE)
    table = yardcut.open(tmp_path / "a.csv")
    assert table.kinds == KINDS
    table.cut().save(tmp_path / f"same{form.endings[0]}")
    emptied = table.make("word = CASE WHEN whole < 0 THEN '' ELSE word END")
    emptied.save(tmp_path / f"emptied{form.endings[0]}")
    back = yardcut.open(tmp_path / f"same{form.endings[0]}")
    assert back.names == table.names
    expected = (
        KINDS if kinds.startswith("all eight") else tuple("integer" if kind == "boolean" else kind for kind in KINDS)
    )
    assert back.kinds == expected
    ours, theirs = (each.cut().to_arrow().to_pylist() for each in (table, back))
    assert ours == theirs
    word = yardcut.open(tmp_path / f"emptied{form.endings[0]}").cut().to_arrow().to_pylist()[1]["word"]
    assert word == ("" if empty == "stays" else None)
    if cells == "as they came":
        assert "1.50" in (tmp_path / f"same{form.endings[0]}").read_text()
