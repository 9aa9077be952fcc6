"""What a slice is written as is what another reader reads with the options written, or the option is refused by name."""

from __future__ import annotations

import csv
import itertools
import random
from pathlib import Path

import pyarrow as pa
import pytest
from pyarrow import parquet

from commands import assert_sentence, yardcut
from thoroughness import IS_LONG
from yardcut.core.errors import ListError
from yardcut.core.language.save_options import wrong_mark
from yardcut.core.language.syntax.parsing_lines import parse_statement

TEXTS = [
    'say "it"',
    "it's",
    "a,b",
    "a;b",
    "a|b",
    "two\nlines",
    "cr\r\nlf",
    " x ",
    "-",
    "+1",
    "=2",
    "1.5",
    "NA",
    "é",
    "\x02\x05",
    None,
]
NUMBERS = [1.5, -2.25, 1e300, 0.1, None, -1.0, 12345.678]
DELIMITERS = [None, ",", ";", "\t", "|", "-", ".", "+", ":", " ", "'", "§", "\x1f"]
DECIMALS = [None, ".", ",", "·", "'"]
QUOTES = [None, '"', "'", "|", "~", "$"]


@pytest.fixture(scope="module", params=["parquet", "text"])
def source(request: pytest.FixtureRequest, tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, list[list[object]]]:
    """Return a source, computed or with cells as they stand, and its rows."""
    folder = tmp_path_factory.mktemp("back")
    chance = random.Random(3)
    rows = [[n, TEXTS[n % len(TEXTS)], NUMBERS[n % len(NUMBERS)], chance.choice(["x", "y's", None])] for n in range(60)]
    if request.param == "parquet":
        columns = list(zip(*rows, strict=True))
        parquet.write_table(
            pa.table({name: list(cells) for name, cells in zip("nwpk", columns, strict=True)}), folder / "a.parquet"
        )
        return folder / "a.parquet", rows
    rows = [[n, None if w in ("NA", "\x02\x05") else w, p, k] for n, w, p, k in rows]
    with open(folder / "a.csv", "w", newline="", encoding="utf-8") as file:
        csv.writer(file, lineterminator="\n").writerows([["n", "w", "p", "k"], *rows])
    return folder / "a.csv", rows


def words(
    delimiter: str | None, decimal: str | None, quote: str | None, missing: str | None, quoting: str, ends: str
) -> str:
    said = [("delimiter", delimiter), ("decimal", decimal), ("quote", quote), ("missing", missing)]
    texts = [f"{word} '{mark.replace(chr(39), chr(39) * 2)}'" for word, mark in said if mark is not None]
    return " ".join([*texts, f"quoting {quoting}", f"line ends {ends}"])


def cases() -> list[tuple[str | None, str | None, str | None, str | None, str, str]]:
    every = [*itertools.product(DELIMITERS, DECIMALS, QUOTES)]
    chance = random.Random(11)
    chance.shuffle(every)
    missing = [None, "", "∅", "a,c", "no 'one'", 'no "one"']
    return [
        (*case, chance.choice(missing), chance.choice(["needed", "texts", "all"]), chance.choice(["lf", "crlf"]))
        for case in (every if IS_LONG else every[:40])
    ]


def test_another_reader_finds_the_same_cells(source: tuple[Path, list[list[object]]], tmp_path: Path) -> None:
    path, rows = source
    written = 0
    for delimiter, decimal, quote, missing, quoting, ends in cases():
        said = words(delimiter, decimal, quote, missing, quoting, ends)
        line = f'save "{tmp_path / "o.csv"}" {said} replace'
        done = yardcut("cut", path, "-l", "make twice = p * 2, no = w || k", "-l", line, "-q", cwd=tmp_path)
        marks = [delimiter or ",", decimal or ".", quote or '"']
        if len(set(marks)) < 3 or wrong_mark("decimal", marks[1]) or wrong_mark("quote", marks[2]):
            assert_sentence(done, 2)
            continue
        assert done.returncode == 0, (said, done.stderr)
        written += 1
        with open(tmp_path / "o.csv", newline="", encoding="utf-8") as file:
            found = list(csv.reader(file, delimiter=marks[0], quotechar=marks[2]))
        assert found[0] == ["n", "w", "p", "k", "twice", "no"], said
        for cells, row in zip(found[1:], rows, strict=True):
            made = [
                *row,
                None if row[2] is None else row[2] * 2,
                None if None in (row[1], row[3]) else f"{row[1]}{row[3]}",
            ]
            for cell, value in zip(cells, made, strict=True):
                if value is None:
                    assert cell == (missing or ""), said
                elif isinstance(value, float):
                    assert float(cell.replace(marks[1], ".")) == value, (said, cell)
                else:
                    assert cell == str(value), said
        assert (tmp_path / "o.csv").read_bytes().endswith(b"\r\n") == (ends == "crlf")
    assert written > 20


@pytest.mark.parametrize("option", ["delimiter", "decimal", "quote"])
@pytest.mark.parametrize("mark", ["1", "a", "é", "²", "\n", "\r", "\0"])
def test_marks_nobody_could_tell_from_cells_are_refused_by_name(option: str, mark: str) -> None:
    with pytest.raises(ListError, match=option):
        parse_statement(f"save \"o.csv\" {option} U&'{''.join(f'{chr(92)}{ord(char):04x}' for char in mark)}'")


@pytest.mark.parametrize(
    "said", ["decimal '-'", "decimal 'e'", "decimal '1'", "delimiter '\"'", "quote ','", "quote '-'", "decimal ','",
             "delimiter ';' decimal ';'", "quote ';' delimiter ';'", "encoding 'idna'", "encoding 'unicode_escape'"]
)  # fmt: skip
def test_they_end_with_two(tmp_path: Path, said: str) -> None:
    (tmp_path / "a.csv").write_text("n,p\n1,2.5\n")
    done = yardcut("cut", "a.csv", "-l", f'save "o.csv" {said}', cwd=tmp_path)
    assert_sentence(done, 2, said.split()[0])
    assert not (tmp_path / "o.csv").exists()


@pytest.mark.parametrize(("missing", "column"), [("x", "k"), ("0", "n"), ("1.5", "p"), ("2031-03-01", "d")])
@pytest.mark.parametrize("kind", ["", "make m = k || ''", "order n DESC"])
def test_a_text_that_is_a_value_stands_for_nothing_else(tmp_path: Path, missing: str, column: str, kind: str) -> None:
    (tmp_path / "a.csv").write_text("n,p,k,d\n0,1.5,x,2031-03-01\n1,,y,\n2,2.5,,2031-03-02\n")
    lines = ["-l", kind] if kind else []
    done = yardcut("cut", "a.csv", *lines, "-l", f"save \"o.csv\" missing '{missing}'", cwd=tmp_path)
    assert_sentence(done, 1, f"missing '{missing}'")
    assert not (tmp_path / "o.csv").exists()
    assert column in "nkpd"


FORMS = [
    (";", ",", "cp1252", "\n"), (";", ".", "utf-8", "\r\n"), ("|", ".", "utf-8", "\n"), (",", ".", "utf-16", "\n"),
    (";", ",", "utf-8-sig", "\r\n"),
]  # fmt: skip


@pytest.mark.parametrize(("delimiter", "decimal", "encoding", "ends"), FORMS)
def test_a_slice_has_the_form_of_its_source(
    tmp_path: Path, delimiter: str, decimal: str, encoding: str, ends: str
) -> None:
    rows = [["n", "wood", "p"], *([f"{n}", f"Lärche {n}", f"{n}{decimal}50"] for n in range(1, 40))]
    text = "".join(delimiter.join(row) + ends for row in rows)
    (tmp_path / "a.csv").write_bytes(text.encode(encoding))
    done = yardcut("cut", "a.csv", "--out", "b.csv", cwd=tmp_path)
    assert done.returncode == 0
    assert "written as its source is" in done.stderr
    assert (tmp_path / "b.csv").read_bytes() == (tmp_path / "a.csv").read_bytes()
    done = yardcut("cut", "a.csv", "-l", "make q = p / 4", "-l", "order n DESC", "--out", "c.csv", cwd=tmp_path)
    with open(tmp_path / "c.csv", encoding=encoding, newline="") as file:
        found = list(csv.reader(file, delimiter=delimiter))
    assert found[1] == ["39", "Lärche 39", f"39{decimal}50", f"9{decimal}875"]
    done = yardcut("cut", "a.csv", "--out", "d.tsv", cwd=tmp_path)
    assert (tmp_path / "d.tsv").read_bytes().decode(encoding).startswith("n\twood\tp")
    said = "delimiter ',' decimal '.' encoding 'utf-8' line ends lf"
    assert yardcut("cut", "a.csv", "-l", f'save "e.csv" {said}', cwd=tmp_path).returncode == 0
    assert (tmp_path / "e.csv").read_bytes().decode().splitlines()[1] in ("1,Lärche 1,1.50", "1,Lärche 1,1.5")


def test_a_single_empty_cell_is_a_row_with_any_quote(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text('n,w\n1,a\n2,\n3,"b""c"\n')
    assert yardcut("cut", "a.csv", "-l", "columns w", "-l", "save \"o.csv\" quote ''''", cwd=tmp_path).returncode == 0
    assert (tmp_path / "o.csv").read_text() == "w\na\n''\nb\"c\n"
    assert (
        yardcut(
            "cut", "a.csv", "-l", "make v = w", "-l", "columns v", "-l", "save \"p.csv\" quote '~'", cwd=tmp_path
        ).returncode
        == 0
    )
    assert (tmp_path / "p.csv").read_text() == 'v\na\n~~\nb"c\n'
