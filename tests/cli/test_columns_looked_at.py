"""Where a cut looks at some columns alone, only these are read as values: the same bytes as of the whole, said so."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from cli.test_first_rows import source
from commands import yardcut
from thoroughness import examples
from yardcut.core.sources import opening_sources
from yardcut.core.sources.formats import delimited
from yardcut.core.unattended.columns_enough import named_in
from yardcut.core.writers.texts import own_texts

SAID = "read as values; the cells of all others go through as they are"
NAMES = ["ticket", "note", "price", "day"]
ROW_LINES = [
    "keep ticket < '01500'", "keep ticket LIKE '%7'", "drop note = 'plain'", "keep note IS NULL OR note LIKE '%o%'",
    "keep price IS NOT NULL", "keep day > DATE '2031-04-01'", "drop day IS NULL AND ticket > '02000'",
    "keep EXTRACT(MONTH FROM day) = 3", "keep note IN ('ü', 'plain')", "keep NOTE = 'plain'", 'keep "note" <> \'NA\'',
    "draw first 40 percent", "draw random 200 seed 7", "draw first 2 per note", "draw random 30 percent seed 3",
    "order ticket DESC", "order day, ticket DESC", "order note NULLS FIRST", "draw top 30 by day", "draw last 25",
    "draw rows 20 to 700", "keep SOURCE_ROW > 1000", "make late = day > DATE '2031-06-01'", "make t2 = ticket || '/x'",
    "draw every 7", "draw part 2 of 60, 40 percent seed 1",
]  # fmt: skip
WHOLE_LINES = [
    "keep #2 IS NULL", "columns kind text", "columns ticket, #2", "columns t*, p*", "columns price..day",
    "order #4", "tally COUNT(*), MIN(price) AS least per note", "keep ANY(p*, t*) IS NULL",
]  # fmt: skip
SHOWN = ["columns all", "columns ticket", "columns note, ticket", "columns all without price", "columns price, day",
         "columns day AS felled, note", "columns all without ticket"]  # fmt: skip


@pytest.fixture(autouse=True)
def small_blocks(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 1 << 12)
    monkeypatch.setattr(opening_sources, "LARGE_BYTES", 1)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))


def two_ways(folder: Path, words: list[str], out: list[str]) -> tuple[bytes | str, bytes | str, bool]:
    """Cut a slice looking at some columns, and with all of them read; returns both, and whether the first was so."""
    written: list[bytes | str] = []
    narrow = False
    codes = []
    for more in ([], ["--store"]):
        done = yardcut("cut", "packs.csv", *words, *out, *more, cwd=folder)
        codes.append((done.returncode, done.stderr.splitlines()[-1] if done.returncode else ""))
        narrow |= SAID in done.stderr
        assert not (more and SAID in done.stderr)
        written.append((folder / out[1]).read_bytes() if out and not done.returncode else done.stdout)
    assert codes[0] == codes[1]
    return written[0], written[1], narrow


@pytest.mark.few(2)
@pytest.mark.parametrize("seed", range(examples(80)))
def test_the_bytes_are_those_of_all_columns(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    source(chance, tmp_path / "packs.csv")
    lines = chance.sample(ROW_LINES, chance.randint(1, 3))
    if chance.random() < 0.3:
        lines.insert(chance.randrange(len(lines) + 1), chance.choice(WHOLE_LINES))
    if chance.random() < 0.6:
        lines.append(chance.choice(SHOWN))
    words = [word for line in lines for word in ("-l", line)]
    out = ["--out", chance.choice(["slice.csv", "slice.tsv"]), "--replace"] if chance.random() < 0.5 else []
    some, all_of_it, _ = two_ways(tmp_path, words, out)
    assert some == all_of_it, lines


@pytest.mark.few(3)
@pytest.mark.parametrize("line", ROW_LINES)
def test_each_line_is_run_on_the_columns_it_names(tmp_path: Path, line: str) -> None:
    source(random.Random(line), tmp_path / "packs.csv")
    some, all_of_it, is_narrow = two_ways(tmp_path, ["-l", line], [])
    assert is_narrow or "draw rows" in line  # of which the first rows are enough
    assert some == all_of_it


@pytest.mark.few(3)
@pytest.mark.parametrize("line", WHOLE_LINES)
def test_lines_that_look_at_what_they_do_not_name_are_run_on_all(tmp_path: Path, line: str) -> None:
    source(random.Random(line), tmp_path / "packs.csv")
    some, all_of_it, _ = two_ways(tmp_path, ["-l", line], [])
    assert some == all_of_it


@pytest.mark.few(2)
@pytest.mark.parametrize(
    "words",
    [
        ["--out", "slice.parquet"], ["--strict"], ["-l", 'save "slice.json"'],
        ["-l", 'save "slice.csv" missing \'none\''], ["-l", 'save "slice.csv"', "-l", "draw first 3"],
        ["-l", "columns ticket, price, note"],
    ],
    ids=" ".join,
)  # fmt: skip
def test_all_is_read_where_values_of_all_may_matter(tmp_path: Path, words: list[str]) -> None:
    source(random.Random(5), tmp_path / "packs.csv")
    done = yardcut("cut", "packs.csv", "-l", "keep day IS NOT NULL", *words, cwd=tmp_path)
    assert done.returncode in (0, 3), done.stderr
    assert SAID not in done.stderr


def test_who_asks_again_within_a_day_has_it_kept(tmp_path: Path) -> None:
    source(random.Random(1), tmp_path / "packs.csv")
    ask = lambda: yardcut("cut", "packs.csv", "-l", "keep note = 'plain'", cwd=tmp_path)  # noqa: E731
    first, second = ask(), ask()
    assert SAID in first.stderr
    assert SAID not in second.stderr
    assert first.stdout == second.stdout
    stores = tmp_path / "cache" / "yardcut" / "stores"
    assert [each for each in stores.iterdir() if each.is_dir() and not each.name.startswith(("building-", "texts-"))]


def test_small_files_are_kept_at_once(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(opening_sources, "LARGE_BYTES", 1 << 30)
    source(random.Random(1), tmp_path / "packs.csv")
    assert SAID not in yardcut("cut", "packs.csv", "-l", "keep note = 'plain'", cwd=tmp_path).stderr


def test_names_are_found_however_they_are_written() -> None:
    names = ["Ticket", 'in "quotes"', "price per m3", "unseen"]
    texts = ["keep tIcKeT > 3", 'order "in ""quotes""" DESC', 'make x = "PRICE PER M3" / 2']
    assert named_in(texts, names) == {"Ticket", 'in "quotes"', "price per m3"}


def list_of(folder: Path, chance: random.Random) -> str:
    """Write a list of two cuts, of which the second begins with the first; returns what its last line does."""
    first = chance.sample(ROW_LINES, chance.randint(1, 2))
    second = ['from "first"', chance.choice(ROW_LINES), *([chance.choice(SHOWN)] if chance.random() < 0.5 else [])]
    ends = chance.choice(["", 'save "slice.csv" replace', 'save "slice.tsv" replace'])
    body = ["yardcut 1", 'source "packs.csv"', "", 'cut "first"', *first, "", 'cut "second"', *second, ends]
    (folder / "a.cut").write_text("\n".join(body) + "\n", "utf-8")
    return ends


@pytest.mark.few(2)
@pytest.mark.parametrize("seed", range(examples(60)))
def test_a_list_is_run_on_the_columns_it_names(tmp_path: Path, seed: int) -> None:
    """The same bytes as of the whole, and no difference to the last run that is none."""
    chance = random.Random(seed)
    source(chance, tmp_path / "packs.csv")
    ends = list_of(tmp_path, chance)
    slices, narrow = [], []
    for more in ([], ["--store"], []):
        done = yardcut("run", "a.cut", "--cut", "second", *more, cwd=tmp_path)
        assert done.returncode == 0, done.stderr
        assert "since the last run" not in done.stderr
        narrow.append(SAID in done.stderr)
        slices.append((tmp_path / ends.split('"')[1]).read_bytes() if ends else done.stdout)
    assert slices[0] == slices[1] == slices[2]
    named = named_in([(tmp_path / "a.cut").read_text("utf-8").partition("first")[2]], NAMES)
    assert narrow[0] == (len(named) <= 2)
    assert narrow[1:] == [False, False], "what is kept is used"


@pytest.mark.few(2)
@pytest.mark.parametrize(
    "words",
    [["--strict"], ["--report", "r.json"], ["--each", "wanted"], ["--store"], ["--out", "s.parquet"]],
    ids=" ".join,
)
def test_a_run_that_tells_of_all_columns_reads_them(tmp_path: Path, words: list[str]) -> None:
    source(random.Random(5), tmp_path / "packs.csv")
    lines = ["yardcut 1", 'source "packs.csv"', "dial wanted = 'plain'", "keep note = :wanted", 'save "{wanted}.csv" replace']  # fmt: skip
    (tmp_path / "a.cut").write_text("\n".join(lines) + "\n")
    done = yardcut("run", "a.cut", *words, cwd=tmp_path)
    assert done.returncode in (0, 3), done.stderr
    assert SAID not in done.stderr


def test_a_wrong_list_says_the_same_of_some_columns_and_of_all(tmp_path: Path) -> None:
    source(random.Random(5), tmp_path / "packs.csv")
    (tmp_path / "a.cut").write_text('yardcut 1\nsource "packs.csv"\nkeep note = 3\nkeep notes = 4\n')
    said = [yardcut("run", "a.cut", *more, cwd=tmp_path) for more in ([], ["--store"])]
    assert [done.returncode for done in said] == [2, 2]
    assert said[0].stderr.splitlines()[-1] == said[1].stderr.splitlines()[-1]


def test_a_file_that_changes_while_its_rows_go_out_is_said(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Rows go to standard output as they are found: who reads them there is told by the exit code."""
    path = tmp_path / "packs.csv"
    path.write_text("species,boards\n" + "oak,3.50\nash,4.0\n" * 50)
    plain = own_texts.RowsAsTheyStand.whole_rows

    def changing(self: own_texts.RowsAsTheyStand, *given: Any) -> Iterator[bytes]:
        for rows in plain(self, *given):
            yield rows
            path.write_text("species,boards\n" + "elm,3.50\nash,4.0\n" * 51)

    monkeypatch.setattr(own_texts.RowsAsTheyStand, "whole_rows", changing)
    done = yardcut("cut", "packs.csv", "-l", "keep species = 'oak'", cwd=tmp_path)
    assert done.returncode == 1
    assert "packs.csv changed while its rows were written: they are not all of one file" in done.stderr
