"""Every card about cells, values, conditions and rows that are gone, on tables nobody would think of."""

from __future__ import annotations

import csv
from pathlib import Path

import pytest

from thoroughness import some
from tui.driving import Driven, drive

_HARD = ["[bold]x[/]", "\x1b[31mred", "a\tb", "it's", 'say "so"', "漢字 wide", "e\u0301", "\u202eright", "", " blank "]
TABLES: dict[str, tuple[list[str], list[list[object]]]] = {
    "no rows": (["a", "b"], []),
    "hard texts": (["[red]name", "tab\tname", "quoted \"name\""], [[text, text, text] for text in _HARD]),
    "hard numbers": (["n", "x"], [[2**63 - 1, "1e308"], [-(2**63), "-1e308"], [0, "5e-324"], ["", "-0.0"]]),
    "many columns": ([f"c{n}" for n in range(300)], [list(range(300)), list(range(1, 301))]),
    "nothing but missing": (["a", "b"], [["NA", "NA"]] * 5),
    "one cell": (["only"], [["x"]]),
    "one number": (["n"], [[7]]),
    "infinities": (["x", "y"], [["1e300", 1]] * 3 + [["1e-300", 2]]),
    "far days": (["d", "t"], [["0001-01-01", "9999-12-31 23:59:59"], ["9999-12-31", "0001-01-01 00:00:00"], ["2032-02-29", ""]]),
    "long texts": (["long"], [["y" * 5000], ["z" * 1200], ["short"]]),
}  # fmt: skip


@pytest.mark.long
@pytest.mark.parametrize("name", some(TABLES, 1))
def test_every_card_opens_on_it_and_goes_away(tmp_path: Path, name: str) -> None:
    header, rows = TABLES[name]
    path = tmp_path / "odd.csv"
    with open(path, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(header)
        writer.writerows(rows)

    async def steps(app: Driven) -> None:
        await app.until("no lines yet", "odd.csv")
        for _ in range(min(2, len(header)) if name.startswith("hard") else 1):
            for keys in (
                ["enter", "down", "b", "escape"],
                ["v", "right", "tab", "left", "comma", "semicolon", "home", "v", "space", "a", "i", "s", "escape", "escape"],
                ["v", "v", "space", "semicolon", "escape"],
                ["a"], ["A"], ["colon", "n", "escape"], ["colon", "right", "enter", "x", "e", "delete", "escape", "escape"],
                ["ctrl+s"], ["f6", "right", "down", "right", "end", "right", "right", "escape"], ["escape"],
                ["s", "s", "s"], ["slash", "x", "enter", "n", "N"], ["y"], ["escape"], ["L"], ["k"], ["X"], ["O"], ["b"],
            ):  # fmt: skip
                await app.press_quickly(*keys)
            await app.press("escape", "right")
        await app.press("home", "full_stop")
        for keys in (
            ["o"],
            ["b", "end", "escape"],
            ["o"],
            ["O", "escape"],
            ["y", "down", "escape"],
            ["escape"],
            ["ctrl+n"],
            ["C", "up", "v"],
            ["down", "enter"],
            ["b", "escape"],
            ["w", *"dial d =", "enter"],
            ["colon", "enter"],
            ["escape", "escape", "colon", "right", "x", "escape"],
            ["tab", "Z", "a"],
            ["q", "enter"],
            ["tab", "tab", "r"],
        ):
            await app.press_quickly(*keys)
        for key in ("n", "x", "x", "g", "t", "d", "comma", "semicolon", "o"):
            await app.press(key)
        await app.press("escape", "escape", "u", "u", "h", "escape", "tab", "enter", "delete")
        await app.until("odd.csv")
        app.end()

    drive(path, steps)
