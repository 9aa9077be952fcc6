"""A large file in a real terminal: lines are written while it is read, and the slice is asked for when it is there."""

from __future__ import annotations

import csv
import random
from collections.abc import Callable
from pathlib import Path

from terminal import Terminal

Start = Callable[..., Terminal]
BLOCK, TIMES = 5000, 320


def test_a_cut_is_written_while_the_file_is_read_and_saved_when_it_is_there(tmp_path: Path, start: Start) -> None:
    chance = random.Random(7)
    block = "".join(
        f"T{row:05},{chance.choice(['oak', 'ash', 'yew'])},{chance.randrange(120)},{chance.randrange(900) / 2},"
        f"2031-0{chance.randrange(1, 10)}-11,{'remark ' * 6}\n"
        for row in range(BLOCK)
    )
    path = tmp_path / "packs.csv"
    path.write_text("ticket,species,boards,price,felled,remark\n" + block * TIMES)
    expected = sum(row[1] == "oak" and int(row[2]) > 60 for row in csv.reader(block.splitlines())) * TIMES

    terminal = start("../packs.csv")
    terminal.until("no lines yet")
    terminal.type("w")
    terminal.until("cut ▸")
    terminal.type("keep species = 'oak' AND boards > 60")
    terminal.until("would leave")
    terminal.keys("Enter")
    terminal.until("1 keep")
    terminal.keys("C-s")  # the source is still being read, unless the machine is a quick one
    terminal.until("save slice ▸", seconds=60)
    terminal.until(f"writes {expected:,} rows")
    terminal.type("oak.csv")
    terminal.keys("Enter")
    terminal.until(f"{expected:,} rows read back", seconds=60)
    with open(tmp_path / "terminal-0" / "oak.csv", newline="") as file:
        assert sum(1 for _ in csv.reader(file)) == expected + 1
