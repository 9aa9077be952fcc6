"""Two slices beside each other, against plain Python: rows by key or as a whole, cells, order, columns; lists too."""

from __future__ import annotations

import csv
import random
from collections import Counter
from pathlib import Path

import pytest

from commands import assert_sentence, yardcut
from thoroughness import some

Rows = list[list[str]]
HEADER = ["ticket", "species", "price", "day"]


def made(chance: random.Random, count: int) -> Rows:
    return [
        [
            f"T{n}",
            chance.choice(["oak", "ash", ""]),
            str((2 * chance.randint(1, 40) + 1) / 4),
            chance.choice(["2031-03-01", "2031-04-02", ""]),
        ]
        for n in range(count)
    ]


def write(path: Path, rows: Rows, header: list[str] = HEADER) -> None:
    with open(path, "w", newline="") as file:
        csv.writer(file, lineterminator="\n").writerows([header, *rows])


def changed(chance: random.Random, rows: Rows) -> Rows:
    other = [list(row) for row in rows]
    for _ in range(chance.randint(0, 12)):
        row = chance.choice(other)
        place = chance.randint(1, 3)
        row[place] = chance.choice([["larch", ""], ["99.5", "0.25"], ["2031-12-24", ""]][place - 1])
    for _ in range(chance.randint(0, 5)):
        other.pop(chance.randrange(len(other)))
    other += [[f"N{n}", "yew", "1.5", ""] for n in range(chance.randint(0, 3))]
    if chance.random() < 0.4:
        chance.shuffle(other)
    return other


def differences(path: Path) -> tuple[list[str], list[list[str]]]:
    with open(path, newline="") as file:
        head, *rows = csv.reader(file)
    return head, rows


@pytest.mark.parametrize("seed", some(range(40), 10))
def test_rows_told_by_key(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    one = made(chance, chance.choice([8, 60, 300]))
    other = changed(chance, one)
    write(tmp_path / "a.csv", one)
    write(tmp_path / "b.csv", other)
    by_key = {row[0]: row for row in other}
    ours = {row[0] for row in one}
    expected = [["only here", row[0], "", "", ""] for row in one if row[0] not in by_key]
    expected += [["only there", row[0], "", "", ""] for row in other if row[0] not in ours]
    expected += [
        ["changed", row[0], name, mine, its]
        for row in one if row[0] in by_key
        for name, mine, its in zip(HEADER, row, by_key[row[0]], strict=True) if mine != its
    ]  # fmt: skip
    key = ["--key", "ticket"] if seed % 2 else []
    done = yardcut("diff", "a.csv", "b.csv", "--out", "d.csv", *key, cwd=tmp_path)
    head, found = differences(tmp_path / "d.csv")
    assert head == ["difference", "ticket", "column", "here", "there"]
    assert found == expected
    both = [row[0] for row in one if row[0] in by_key]
    in_order = both == [row[0] for row in other if row[0] in ours]
    assert done.returncode == (0 if not expected and in_order else 3), done.stderr
    said = done.stdout
    assert "rows told by ticket" in said
    if expected:
        assert f"{len(both):,} rows in both" in said
        assert ("those in both stand in another order" in said) is not in_order
    assert (yardcut("diff", "a.csv", "b.csv", "--any-order", "-q", cwd=tmp_path).returncode == 0) is not bool(expected)


@pytest.mark.parametrize("seed", some(range(20), 6))
def test_whole_rows_where_no_column_tells_them_apart(tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    one = [[chance.choice("ab"), chance.choice("xy"), chance.choice(["1", ""])] for _ in range(40)]
    other = [row for row in one if chance.random() < 0.9] + [["b", "y", "2"]] * chance.randint(0, 2)
    write(tmp_path / "a.csv", one, ["p", "q", "r"])
    write(tmp_path / "b.csv", other, ["p", "q", "r"])
    counts = Counter(map(tuple, one)), Counter(map(tuple, other))
    yardcut("diff", "a.csv", "b.csv", "--out", "d.csv", cwd=tmp_path)
    _, found = differences(tmp_path / "d.csv")
    for what, rows, (mine, its) in (("only here", one, counts), ("only there", other, counts[::-1])):
        told = [int(row[1].removeprefix("row ")) - 1 for row in found if row[0] == what]
        assert Counter(tuple(rows[place]) for place in told) == mine - its
        assert told == sorted(told)


def test_a_slice_and_its_list_and_two_lists(tmp_path: Path) -> None:
    write(tmp_path / "a.csv", made(random.Random(3), 90))
    (tmp_path / "l.cut").write_text(
        'yardcut 1\nsource "a.csv"\nkeep price > 5\norder price DESC, ticket\nmake half = price / 2\n'
    )
    (tmp_path / "m.cut").write_text('yardcut 1\nsource "a.csv"\nkeep price > 6\norder price DESC, ticket\n')
    assert yardcut("run", "l.cut", "--out", "s.parquet", "-q", cwd=tmp_path).returncode == 0
    same = yardcut("diff", "s.parquet", "l.cut", cwd=tmp_path)
    assert same.returncode == 0, same.stdout + same.stderr
    assert "the same" in same.stdout
    other = yardcut("diff", "l.cut", "m.cut", cwd=tmp_path)
    assert other.returncode == 3
    assert "columns only in l.cut: half" in other.stdout
    with open(tmp_path / "a.csv", "a") as file:
        file.write("T999,oak,40.25,\n")
    assert "1 only in l.cut" in yardcut("diff", "s.parquet", "l.cut", cwd=tmp_path).stdout


def test_rows_without_a_key_are_compared_as_whole_rows(tmp_path: Path) -> None:
    write(
        tmp_path / "a.csv",
        [
            ["T1", "oak", "1", ""],
            ["T2", "ash", "2", ""],
            ["T3", "ash", "3", ""],
            ["", "total", "6", ""],
            ["", "all", "6", ""],
        ],
    )
    write(
        tmp_path / "b.csv",
        [
            ["T1", "oak", "1", ""],
            ["T2", "ash", "9", ""],
            ["T3", "ash", "3", ""],
            ["", "total", "13", ""],
            ["", "all", "6", ""],
        ],
    )
    assert yardcut("diff", "a.csv", "b.csv", "--out", "d.csv", cwd=tmp_path).returncode == 3
    _, found = differences(tmp_path / "d.csv")
    assert found == [
        ["only here", "row 4", "", "", ""],
        ["only there", "row 4", "", "", ""],
        ["changed", "T2", "price", "2", "9"],
    ]


def test_what_cannot_be_compared_is_a_sentence(tmp_path: Path) -> None:
    write(tmp_path / "a.csv", made(random.Random(1), 12))
    write(tmp_path / "b.csv", [["1"]], ["other"])
    write(tmp_path / "none.csv", [], HEADER)
    (tmp_path / "l.cut").write_text(
        'yardcut 1\nsource "a.csv"\n\ncut "one"\n  keep price > 5\n\ncut "two"\n  keep price > 9\n'
    )
    for words, code, says in (
        (["a.csv", "b.csv"], 2, "no column of one name"), (["a.csv", "gone.csv"], 1, "gone.csv"), (["a.csv", "l.cut"], 2, "has 2 cuts"),
        (["a.csv", "a.csv", "--key", "nothing"], 2, "no column of both"), (["a.csv", "a.csv", "--key", "species"], 2, "does not tell the rows apart"),
        (["a.csv", "l.cut", "--cut", "one", "--out", "a.csv", "--replace"], 1, "is the source"),
    ):  # fmt: skip
        assert_sentence(yardcut("diff", *words, cwd=tmp_path), code, says)
    assert yardcut("diff", "none.csv", "none.csv", cwd=tmp_path).returncode == 0
    assert "12 only in a.csv" in yardcut("diff", "a.csv", "none.csv", cwd=tmp_path).stdout
