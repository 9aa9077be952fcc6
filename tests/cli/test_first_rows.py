"""Where the first rows are all that is asked for, reading stops there: the same bytes as of the whole, said so."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from commands import yardcut
from thoroughness import examples
from yardcut.core.sources.formats import delimited

ROWS = 3_000


@pytest.fixture(autouse=True)
def small_blocks(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 1 << 12)
    monkeypatch.setattr(delimited, "FIRST_BLOCK_BYTES", 1 << 11)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))


def source(chance: random.Random, path: Path) -> None:
    """A file whose kinds change further down, with blank rows, headers again, quotes, odd cells and missing ones."""
    mark, ends = chance.choice(",;\t|"), chance.choice(["\n", "\r\n"])
    turns = chance.randrange(ROWS // 2, ROWS)
    lines = [mark.join(("ticket", "price", "note", "day"))]
    for row in range(ROWS):
        price = f"{chance.randrange(1000)}{chance.choice(['', '.50', '.0'])}" if row < turns else "dear"
        note = chance.choice(["", "NA", "plain", '"in ""quotes"""', f'"a{mark}b"', " blank ", '"two\nlines"', "ü"])
        lines.append(mark.join((f"{row:05}", chance.choice([price, ""]), note, f"2031-0{1 + row % 9}-11")))
        if chance.random() < 0.003:
            lines.append(chance.choice(["", lines[0]]))
    path.write_bytes(ends.join([*lines, ""]).encode(chance.choice(["utf-8", "utf-8-sig", "cp1252"])))


@pytest.mark.few(2)
@pytest.mark.parametrize("seed", range(examples(60)))
def test_the_bytes_are_those_of_the_whole(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    source(chance, tmp_path / "packs.csv")
    draw = chance.choice(
        [
            f"first {chance.randrange(1, 400)}",
            f"rows {chance.randrange(1, 200)} to {chance.randrange(200, 500)}",
            "first 99999",
        ]
    )
    columns = chance.choice([[], ["-l", "columns note, ticket"], ["-l", "columns all without price"]])
    words = [*columns, "-l", f"draw {draw}"] if chance.random() < 0.5 else ["-l", f"draw {draw}", *columns]
    out = ["--out", chance.choice(["slice.csv", "slice.tsv"]), "--replace"] if chance.random() < 0.5 else []
    written = []
    for more in ([], ["--store"]):
        done = yardcut("cut", "packs.csv", *words, *out, *more, cwd=tmp_path)
        assert done.returncode == 0, done.stderr
        written.append((tmp_path / out[1]).read_bytes() if out else done.stdout)
        assert ("reading stopped after" in done.stderr) is (not more and draw != "first 99999"), done.stderr
    assert written[0] == written[1]


@pytest.mark.few(4)
@pytest.mark.parametrize(
    "words",
    [
        ["-l", "keep price > 3", "-l", "draw first 5"], ["-l", "make x = price + 1", "-l", "draw first 5"], ["-l", "draw last 5"],
        ["-l", "draw first 5 percent"], ["-l", "draw first 2 per note"], ["-l", "order price", "-l", "draw first 5"],
        ["-l", "draw first 5", "-l", "order price"], ["-l", "columns ticket"], ["-l", "draw first 5", "--strict"],
        ["-l", "draw first 5", "--out", "slice.parquet"], ["-l", "draw first 5", "-l", 'save "slice.csv" missing \'none\''],
        ["-l", "dial best = 5", "-l", "draw first :best"],
    ],
    ids=" ".join,
)  # fmt: skip
def test_all_is_read_where_more_may_matter(tmp_path: Path, words: list[str]) -> None:
    (tmp_path / "packs.csv").write_text("ticket,price,note\n" + "".join(f"{n:05},{n},x\n" for n in range(ROWS)))
    done = yardcut("cut", "packs.csv", *words, cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    assert "reading stopped" not in done.stderr


def test_who_asks_again_within_a_day_has_it_kept_and_the_source_is_watched(tmp_path: Path) -> None:
    path = tmp_path / "packs.csv"
    path.write_text("ticket,price\n" + "".join(f"{n:05},{n}\n" for n in range(ROWS)))

    def ask() -> str:
        return yardcut("cut", "packs.csv", "-l", "draw first 5", cwd=tmp_path).stderr

    stores = tmp_path / "cache" / "yardcut" / "stores"
    assert "reading stopped" in ask()
    assert not [each for each in stores.iterdir() if each.is_dir() and not each.name.startswith("building-")]
    assert "reading stopped" not in ask()
    assert [each for each in stores.iterdir() if each.is_dir() and not each.name.startswith("building-")]
    path.write_text(path.read_text() + "another,1\n")
    assert "reading stopped" in ask()  # it is another file now
