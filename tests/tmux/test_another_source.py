"""Another source is opened from within: by a key and its path, or by a path that is pasted or dropped."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from terminal import Terminal

Start = Callable[..., Terminal]


def test_another_source_is_opened_and_the_list_of_the_first_is_kept(start: Start, tmp_path: Path) -> None:
    (tmp_path / "mine.csv").write_text("a,b\n1,x\n2,y\n")
    app = start()
    app.until("7,650 rows × 71 columns")
    app.line("draw first 9", "would leave 9 of 7,650")
    app.keys("C-o")
    app.until("open ▸")
    app.type("../nowhere.csv")
    app.until("there is no ../nowhere.csv")
    app.keys("C-u")
    app.type("../mine")
    app.keys("Tab")
    app.until("opens mine.csv instead of this source")
    app.keys("Enter")
    app.until("The cutting list is not saved")
    app.keys("y")
    app.until("2 rows × 2 columns", "no lines yet")
    app.until(" table ")
    app.paste(str(tmp_path / "yard_2031.csv") + "\n")  # nothing is lost by it: no line is there
    app.until("7,650 rows × 71 columns", "7,400 distinct")
    app.keys("K")
    app.until("draw first 9")
    app.keys("Enter")
    app.until("9 rows left", " table ")  # the card is gone: what is pasted is not for it
    app.paste(f"'{tmp_path / 'mine.csv'}'")
    app.until("open ▸", "opens mine.csv instead of this source")  # here lines are: Enter is waited for
    app.keys("Escape")
    app.until("9 rows left")


@pytest.mark.long
def test_what_cannot_be_opened_leaves_everything_as_it_was(start: Start, tmp_path: Path) -> None:
    (tmp_path / "broken.cut").write_text("no list\n")
    (tmp_path / "broken.parquet").write_bytes(b"PAR1 no more")
    app = start()
    app.until("7,650 rows × 71 columns")
    app.line("draw first 9", "would leave 9 of 7,650")
    for name, said in (("broken.cut", "broken.cut"), ("broken.parquet", "broken.parquet"), ("", "is a directory")):
        app.keys("F7")
        app.until("open ▸")
        app.type(f"../{name}")
        app.keys("Enter")
        app.until(said)
        app.keys("Escape", "Escape")
        app.until("9 rows left")
    app.keys("Tab", "x")
    app.until("7,650 rows left")
