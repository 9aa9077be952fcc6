"""A cut on the source and on another file: its lines, the columns, the first rows and a picture of both."""

from __future__ import annotations

from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.plain_truth import Row, write_packs


@pytest.fixture
def packs(tmp_path: Path) -> Path:
    path = tmp_path / "packs.csv"
    write_packs(path, 300, 5)
    return path


def _dearest_first(row: Row) -> tuple[bool, float, object]:
    price = row["price"]
    return price is None, -float(price or 0), row["n"]


def test_a_cut_is_seen_on_the_source_and_on_another_file(packs: Path, tmp_path: Path) -> None:
    other = tmp_path / "earlier.csv"
    rows = write_packs(other, 120, 9)
    oak = [row for row in rows if row["species"] == "oak"]
    dear = sorted(oak, key=_dearest_first)[:9]

    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("keep species = 'oak'", "would leave")
        await app.line("draw top 9 by price", "would leave")
        await app.press("C", "o")
        await app.until("also on ▸")
        await app.type("not-there.csv")
        await app.until("there is no not-there.csv")
        await app.press("ctrl+u")
        await app.type(str(other))
        await app.until("the cut runs there too")
        await app.press("ctrl+u")
        await app.type("earlier.csv")  # beside the source it needs no directory
        await app.until(f"reads {other}")
        await app.press("enter")
        await app.until("packs.csv beside earlier.csv", f"{len(oak)}", "avg")
        await app.resize(80, 24)
        share = f"{100 * len(oak) / 120:.1f}%"
        await app.until(f"{len(oak)}", share)  # both counts stand on a small terminal too
        await app.resize(160, 47)
        await app.until(share, "avg")
        await app.press("tab")
        await app.until("row ticket", "price", str(dear[0]["ticket"]), str(dear[8]["ticket"]))
        await app.press("tab", "P")
        await app.until("ticket in packs.csv and in earlier.csv")
        await app.press("l")
        await app.until("species in packs.csv and in earlier.csv", "100.0%")
        await app.press("escape", "C", "o")
        await app.type(str(other))
        await app.press("enter")
        await app.until("packs.csv beside earlier.csv", "avg")
        await app.press("up", "enter")
        await app.until("as of line 1")

    drive(packs, steps)


@pytest.mark.long
def test_a_file_that_cannot_be_compared_is_a_sentence(packs: Path, tmp_path: Path) -> None:
    (tmp_path / "words.csv").write_text("ticket,species\n00001-31,oak\n00002-31,ash\n")
    (tmp_path / "broken.parquet").write_bytes(b"PAR1 not really PAR1")

    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("keep species = 'oak'", "would leave")
        await app.line("keep boards > 3", "would leave")
        for name, seen in (("words.csv", "a line is wrong there"), ("broken.parquet", "Parquet")):
            await app.press("C", "o")
            await app.type(str(tmp_path / name))
            await app.until("the cut runs there too")
            await app.press("enter")
            await app.until(f"beside {name}", seen)
            await app.press("P", "tab", "pagedown", "escape", "escape")
        await app.until("as of line 2")

    drive(packs, steps)
