"""What goes wrong is said in one sentence, in the app too, and leaves nothing half done."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from helpers import take_grammars

Start = Callable


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("gone.csv", None, "there is no file"),
        ("empty.csv", b"", "it has not even a header"),
        ("binary.csv", bytes(range(256)) * 20, "looks like a binary file"),
        ("wrong.cut", b"yardcut 1\nsource \"x.csv\"\ncut \"a\"\n  plane grade\n", "line 4"),
    ],
)  # fmt: skip
def test_what_cannot_be_opened_ends_with_a_sentence(
    start: Start, tmp_path: Path, name: str, content: bytes | None, says: str
) -> None:
    if content is not None:
        (tmp_path / name).write_bytes(content)
    app = start(f"../{name}")
    assert app.status() in (1, 2)
    screen = app.until("yardcut: ", says)
    assert "Traceback" not in screen


@pytest.mark.long  # tests/tui/test_main_screen.py has it on every change
def test_mistakes_at_the_prompt_are_named_and_mended(start: Start) -> None:
    app = start(columns=120, rows=30)
    app.until("7,650 rows × 71 columns")
    for wrong, says in (
        ("keep grad = 'A'", "there is no column grad"),
        ("keep sold_on = NULL", "IS NULL"),
        ("keep felled_on > DATE '2031-02-30'", "2031-02-30"),
        ("keep boards = 'many'", "boards"),
        ("drop", "condition"),
        ("plane boards", "plane"),
        ("draw top 5", "by"),
        ("columns nothing*", "nothing*"),
    ):
        app.keys("w")
        app.until("cut ▸")
        app.type(wrong)
        app.until(says)
        app.keys("Enter")
        app.until("cut ▸", wrong)
        app.keys("C-g")
        app.until("cut ▸", gone=True)
    app.until("no lines yet")


@pytest.mark.long  # tests/tui/test_odd_tables.py has it on every change
def test_a_header_alone_one_row_and_nothing_but_missing_values(start: Start, tmp_path: Path) -> None:
    (tmp_path / "head.csv").write_text("a,b\n")
    app = start("../head.csv", columns=80, rows=24)
    app.until("0 rows × 2 columns")
    app.keys("Down", "End", "o", "f", "Home")
    app.line("keep a = 'x'", "would leave 0 of 0")
    app.keys("C-s")
    app.until("writes 0 rows and 2 columns")
    app.keys("Enter")
    app.until("0 rows read back")
    (tmp_path / "one.csv").write_text("a,b\n1,2\n")
    app = start("../one.csv")
    app.until("1 row × 2 columns")
    app.keys("BSpace")
    app.until("drop    a = 1", "−1")
    (tmp_path / "none.csv").write_text("a,b\n" + "NA,NA\n" * 300)
    app = start("../none.csv")
    app.until("300 rows × 2 columns", "300 missing (100.0%)")
    app.keys(".")
    app.until("a IS NULL", "none taken")


@pytest.mark.long
def test_a_target_that_cannot_be_written_is_refused_before_anything_runs(start: Start, tmp_path: Path) -> None:
    app = start()
    app.until("7,650 rows × 71 columns")
    for path, says in (("nowhere/x.csv", "no directory"), ("x.docx", "csv"), ("", "a path ending in")):
        app.keys("C-s")
        app.until("save slice ▸")
        app.keys("C-u")
        app.type(path)
        app.until(says)
        app.keys("C-g")
        app.until("save slice ▸", gone=True)
    assert sorted(entry.name for entry in (tmp_path / "terminal-0").iterdir() if entry.suffix == ".csv") == [
        "yard_2031.csv"
    ]


@pytest.mark.long
def test_typing_ahead_loses_nothing(start: Start) -> None:
    app = start()
    app.until("7,650 rows × 71 columns")
    app.type("gprice_per\rwkeep boards > 80 AND grade = 'A'")
    app.until("cut ▸ keep boards > 80 AND grade = 'A'", "would leave", "price_per_m3")
    app.type("\rwdrop bay = 'ALL BAYS'")
    app.until("cut ▸ drop bay = 'ALL BAYS'", "(as line 2)")


@pytest.mark.long
def test_a_wide_table_with_hostile_names_is_shown_as_it_is(start: Start, tmp_path: Path) -> None:
    names = ["[bold]b[/bold]", "\x1b[31mred", '"quo""ted"', "木材の名前", "a, b"]
    quoted = ['"' + name.replace('"', '""') + '"' for name in names]
    (tmp_path / "names.csv").write_text(",".join(quoted) + "\n" + "1,2,3,4,5\n" * 40)
    app = start("../names.csv", columns=110, rows=30)
    app.until("[bold]b[/bold]", "␛[31mred", "木材の名前", "40 rows × 5 columns")
    app.keys("End", ".")
    app.until('keep    "a, b" = 5')
    app.keys("Home", ".")
    app.until('"[bold]b[/bold]" = 1')


@pytest.mark.long
def test_a_killed_app_leaves_the_cache_usable(start: Start, tmp_path: Path) -> None:
    body = "".join(f"{row},name {row % 5000},{row * 7 % 1000}\n" for row in range(400_000))
    (tmp_path / "long.csv").write_text("a,b,c\n" + body)
    cache = tmp_path / "cache"  # of its own: a test in this process may keep part of a table in the shared one
    take_grammars(cache)
    app = start("../long.csv", XDG_CACHE_HOME=str(cache))
    app.until("name 1")
    app.close()
    again = start("../long.csv", XDG_CACHE_HOME=str(cache))
    again.until("400,000 rows × 3 columns")
    again.line("keep c = 999", "would leave 400 of 400,000")
    assert not list((cache / "yardcut" / "stores").glob("building-*"))


def test_after_a_kill_the_list_is_offered(start: Start, tmp_path: Path) -> None:
    own = {"XDG_STATE_HOME": str(tmp_path / "state")}
    app = start(**own)
    app.until("7,650 rows × 71 columns")
    app.line("keep grade = 'A'", "would leave")
    app.line("draw first 12", "would leave 12")
    app.until("12 rows left")
    app.kill()
    assert app.status() == 137
    app = start(**own)
    app.until("before a list of 2 lines was saved; K takes it up")
    app.keys("K")
    app.until("unsaved lists of this source", "1 keep grade = 'A'", "2 draw first 12")
    app.keys("Enter")
    app.until("12 rows left")
