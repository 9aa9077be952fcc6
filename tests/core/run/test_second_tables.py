"""Second tables, against sqlite3 and plain Python: values on a list, columns by key, the nearest earlier row."""

from __future__ import annotations

import csv
import random
import sqlite3
from pathlib import Path
from typing import Any

import pytest

from helpers import WriteTable, run_lines
from thoroughness import some
from yardcut.core.errors import ListError
from yardcut.core.matching import kept_index
from yardcut.core.run.executing.results import LineResult

TEXTS = ["007", "07", "oak", "Oak", "oak ", "", "ü", "日本", "a,b", "NA", 'q"q', "x" * 40]
NUMBERS = ["0", "-0.0", "7", "7.0", "7.5", "9007199254740993", "9007199254740992", "-3", "", "1e3"]
DAYS = ["2031-03-01", "2031-03-02", "2030-12-31", "", "2031-03-01"]


def cells(result: LineResult, names: list[str]) -> list[tuple[str | None, ...]]:
    """Read the rows a line leaves."""
    places = [[column.name for column in result.shown].index(name) for name in names]
    page = result.frame.page(0, result.rows.count, places)
    return list(zip(*page.cells, strict=True)) if page.cells else []


def write(path: Path, header: list[str], rows: list[list[str]]) -> str:
    with open(path, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, quoting=csv.QUOTE_ALL, lineterminator="\n")
        writer.writerows([header, *rows])
    return str(path)


def is_missing(text: str) -> bool:
    return text in ("", "NA")


def values_of(column: list[str], kind: str) -> list[Any]:
    """What the cells of a column mean; ``None`` for a missing one. A column of whole numbers holds integers."""
    if kind == "text":
        return [None if is_missing(text) else text for text in column]
    read = float if any(mark in text for text in column for mark in ".e") else int
    return [None if is_missing(text) else read(text) for text in column]


def meant(rows: list[list[str]], kinds: list[str]) -> list[list[Any]]:
    """What the keys of rows mean."""
    columns = [values_of([row[place] for row in rows], kind) for place, kind in enumerate(kinds)]
    return [list(key) for key in zip(*columns, strict=True)]


def same_rows(one: list[Any], kinds: list[str], other: list[Any]) -> bool:
    """Whether two keys are equal: nothing equals a missing value."""
    return all(a is not None and b is not None and a == b for a, b in zip(one, other, strict=True))


@pytest.mark.parametrize("seed", some(range(40), 9))
def test_random_keys_are_found_as_plain_python_finds_them(
    table_of: WriteTable, tmp_path: Path, seed: int, monkeypatch: pytest.MonkeyPatch
) -> None:
    if seed % 2:  # made once, and found in the cache by all lines below
        monkeypatch.setattr(kept_index, "KEPT_FROM", 1)
    chance = random.Random(seed)
    kinds = [chance.choice(["text", "number"]) for _ in range(chance.choice([1, 1, 2, 3]))]
    pool = {"text": TEXTS, "number": chance.choice([NUMBERS, [str(n) for n in range(-4, 9)] + [""]])}
    names = [f"k{place}" for place in range(len(kinds))]

    def made(rows: int) -> list[list[str]]:
        return [[chance.choice(pool[kind]) for kind in kinds] + [f"v{row}"] for row in range(rows)]

    ours, theirs = made(chance.choice([1, 1, 30, 200])), made(chance.choice([1, 5, 60]))
    # a column of numbers is one when a number stands in it
    for kind, place in zip(kinds, range(len(kinds)), strict=True):
        for rows in (ours, theirs):
            if rows and all(is_missing(row[place]) for row in rows):
                rows[0][place] = pool[kind][2]
    table = table_of([*names, "mine"], ours)
    other = write(tmp_path / "other.csv", [*names, "there"], theirs)
    here, there = meant(ours, kinds), meant(theirs, kinds)
    matches = [[theirs[place][-1] for place, key in enumerate(there) if same_rows(one, kinds, key)] for one in here]
    keys = ", ".join(names)
    left = f"({keys})" if len(names) > 1 else keys

    result = run_lines(table, f'keep {left} IN "{other}" column {left}', parts=chance.choice([1, 3]))[-1]
    assert cells(result, ["mine"]) == [(row[-1],) for row, found in zip(ours, matches, strict=True) if found]
    result = run_lines(table, f'keep {left} NOT IN "{other}" column {left}')[-1]
    wanted = [
        (row[-1],) for row, key, found in zip(ours, here, matches, strict=True) if not found and None not in key
    ]  # a missing value at the left is unknown
    assert cells(result, ["mine"]) == wanted
    looked = result.looked_up[0]
    different = {tuple(key) for key in there if None not in key}
    met = {tuple(key) for key, found in zip(here, matches, strict=True) if found}
    assert looked.keys == len(different)
    assert len(looked.not_met) == len(different) - len(met)

    result = run_lines(table, f'bring there AS got from "{other}" by {keys} first match')[-1]
    assert cells(result, ["mine", "got"]) == [
        (row[-1], found[0] if found else None) for row, found in zip(ours, matches, strict=True)
    ]
    for words, kept in (("matched only", True), ("unmatched only", False)):
        result = run_lines(table, f'bring there AS got from "{other}" by {keys} {words} first match')[-1]
        assert cells(result, ["mine"]) == [
            (row[-1],) for row, found in zip(ours, matches, strict=True) if bool(found) is kept
        ]
    result = run_lines(table, f'bring there AS got from "{other}" by {keys} every match', "order mine DESC")[-1]
    wanted_every = [(row[-1], one) for row, found in zip(ours, matches, strict=True) for one in (found or [None])]
    wanted_every.sort(key=lambda pair: pair[0], reverse=True)
    assert cells(result, ["mine", "got"]) == wanted_every
    several = [key for key in different if sum(other_key == list(key) for other_key in there) > 1]
    if several:
        with pytest.raises(ListError, match="several times"):
            run_lines(table, f'bring there AS got from "{other}" by {keys}')


@pytest.mark.parametrize("seed", some(range(12), 4))
def test_random_tables_are_joined_as_sqlite_joins_them(table_of: WriteTable, tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    ours = [[chance.choice(["a", "b", "c", "d", ""]), str(chance.randrange(5)), str(row)] for row in range(300)]
    theirs = [[chance.choice(["a", "b", "c", "e", ""]), str(chance.randrange(6)), f"t{row}"] for row in range(20)]
    table = table_of(["name", "size", "mine"], ours)
    other = write(tmp_path / "other.csv", ["name", "size", "there"], theirs)
    database = sqlite3.connect(":memory:")
    for name, rows in (("ours", ours), ("theirs", theirs)):
        database.execute(f"CREATE TABLE {name} (name TEXT, size INTEGER, more TEXT)")
        database.executemany(f"INSERT INTO {name} VALUES (NULLIF(?, ''), ?, ?)", rows)
    joined = database.execute(
        "SELECT ours.more, theirs.more FROM ours LEFT JOIN theirs ON ours.name = theirs.name AND ours.size = theirs.size"
        " ORDER BY ours.rowid, theirs.rowid"
    ).fetchall()
    result = run_lines(table, f'bring there from "{other}" by name, size every match')[-1]
    assert cells(result, ["mine", "there"]) == joined
    exists = database.execute(
        "SELECT more FROM ours WHERE EXISTS (SELECT 1 FROM theirs WHERE theirs.name = ours.name)"
    ).fetchall()
    assert cells(run_lines(table, f'keep name IN "{other}"')[-1], ["mine"]) == exists


@pytest.mark.parametrize("seed", some(range(20), 6))
def test_the_nearest_earlier_row_is_what_plain_python_finds(table_of: WriteTable, tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)

    def moment() -> str:
        return chance.choice(["", *[f"2031-03-{day:02} {hour:02}:00:00" for day in range(1, 5) for hour in (0, 7, 12)]])

    ours = [[chance.choice("abc"), moment(), str(row)] for row in range(80)]
    theirs, seen = [], set()
    for row in range(30):
        key = (chance.choice("abd"), moment())
        if key not in seen or not key[1]:
            theirs.append([*key, f"t{row}"])
        seen.add(key)
    table = table_of(["bay", "at", "mine"], [["a", "2031-03-01 00:00:00", "first"], *ours])
    other = write(tmp_path / "other.csv", ["bay", "set_at", "there"], [["z", "2031-01-01 00:00:00", "z"], *theirs])
    wanted = []
    for bay, at, mine in [["a", "2031-03-01 00:00:00", "first"], *ours]:
        earlier = [(set_at, there) for b, set_at, there in theirs if b == bay and set_at and at and set_at <= at]
        wanted.append((mine, max(earlier)[1] if earlier else None))
    result = run_lines(table, f'bring there from "{other}" by bay, latest set_at <= at')[-1]
    assert cells(result, ["mine", "there"]) == wanted


def test_two_rows_of_one_key_and_one_time_are_an_error(table_of: WriteTable, tmp_path: Path) -> None:
    table = table_of(["bay", "at"], [["a", "2031-03-01"]])
    other = write(tmp_path / "o.csv", ["bay", "day", "v"], [["a", "2031-02-01", "1"], ["a", "2031-02-01", "2"]])
    with pytest.raises(ListError, match="two rows of a at the same time"):
        run_lines(table, f'bring v from "{other}" by bay, latest day <= at')


def test_a_plain_list_is_read_as_the_kind_of_what_is_looked_for(table_of: WriteTable, tmp_path: Path) -> None:
    table = table_of(["ticket", "boards", "day"], [["007", "7", "2031-03-01"], ["7", "8", "2031-03-02"], ["x", "", ""]])
    asked = tmp_path / "asked.txt"
    asked.write_text("007\n8\nx\n\n2031-03-02\n")
    assert cells(run_lines(table, f'keep ticket IN "{asked}"')[-1], ["ticket"]) == [("007",), ("x",)]
    assert cells(run_lines(table, f'keep boards IN "{asked}"')[-1], ["boards"]) == [("7",), ("8",)]
    assert cells(run_lines(table, f'keep day IN "{asked}"')[-1], ["day"]) == [("2031-03-02",)]
    looked = run_lines(table, f'keep ticket IN "{asked}"')[-1].looked_up[0]
    assert looked.texts(looked.not_met) == [("8",), ("2031-03-02",)]


def test_a_first_line_is_skipped_only_if_it_is_the_columns_name(table_of: WriteTable, tmp_path: Path) -> None:
    table = table_of(["ticket"], [["ticket"], ["T-1"], ["T-2"]])
    asked = tmp_path / "asked.txt"
    for content, wanted, said in (("ticket\nT-1\n", ["T-1"], True), ("T-2\nT-1\n", ["T-1", "T-2"], False)):
        asked.write_text(content)
        result = run_lines(table, f'keep ticket IN "{asked}"')[-1]
        assert [cell for (cell,) in cells(result, ["ticket"])] == wanted
        assert any("name of the column" in note for note in result.notes) is said
    asked.write_text("\ufeffT-1\n")  # a byte-order mark is no part of the value
    assert cells(run_lines(table, f'keep ticket IN "{asked}"')[-1], ["ticket"]) == [("T-1",)]


def test_what_is_brought_is_a_value_like_any_other(table_of: WriteTable, tmp_path: Path) -> None:
    table = table_of(["mill", "n"], [["a", "1"], ["b", "2"], ["a", "3"], ["c", "4"]])
    other = write(tmp_path / "o.csv", ["id", "name"], [["a", "Alder"], ["b", "Birch"]])
    lines = [f'bring name AS who from "{other}" by mill = id', "make long = UPPER(who)", "keep who IS NOT NULL"]
    assert cells(run_lines(table, *lines)[-1], ["n", "long"]) == [("1", "ALDER"), ("2", "BIRCH"), ("3", "ALDER")]
    result = run_lines(table, *lines, "tally SUM(n) AS n per who", "order n DESC")[-1]
    assert cells(result, ["who", "n"]) == [("Alder", "4"), ("Birch", "2")]
    again = [lines[0], f'bring id AS code from "{other}" by who = name', "draw top 1 by code per who"]
    assert cells(run_lines(table, *again)[-1], ["n", "code"]) == [("1", "a"), ("2", "b")]


def test_copies_of_every_match_are_rows_of_their_own(table_of: WriteTable, tmp_path: Path) -> None:
    table = table_of(["k", "n"], [["a", "1"], ["b", "2"]])
    other = write(tmp_path / "o.csv", ["k", "v"], [["a", "x"], ["a", "y"], ["a", "z"]])
    lines = [f'bring v from "{other}" by k every match', "keep v <> 'y' OR v IS NULL", "order v DESC"]
    assert cells(run_lines(table, *lines)[-1], ["n", "v"]) == [("1", "z"), ("1", "x"), ("2", None)]
    assert cells(run_lines(table, lines[0], "tally COUNT(*), COUNT(v) per k")[-1], ["k", "count", "count_v"]) == [
        ("a", "3", "3"), ("b", "1", "0")
    ]  # fmt: skip
    drawn = [*lines[:1], "draw random 3 seed 5", f'bring v AS w from "{other}" by k first match']
    assert {row[1] for row in cells(run_lines(table, *drawn)[-1], ["n", "w"])} <= {"x", None}


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ('keep k IN "nothing.csv"', "there is no file"),
        ("keep k IN mills", "there is no further source mills"),
        ('keep k IN cut "x"', "there is no earlier cut"),
        ('keep k IN "{other}" column w', "has no column w"),
        ('keep (k, n) IN "{other}" column k', "2 values are looked for in 1 columns"),
        ('keep n IN "{other}" column v', "n is an integer and v there is a text"),
        ('keep UPPER(k) IN "{other}"', "has no name to find a column"),
        ('bring v from "{other}" by n = k', "n is an integer and k there is a text"),
        ('bring v AS n from "{other}" by k', "a column n is here already"),
        ('bring v, v from "{other}" by k', "a column v comes twice"),
        ('bring v from "{other}" by k, latest v <= k', "not a text"),
        ('bring all from "{other}" by q', "there is no column q"),
    ],
)
def test_what_is_wrong_is_said(table_of: WriteTable, tmp_path: Path, line: str, said: str) -> None:
    from yardcut.core.expressions.frame import source_frame
    from yardcut.core.run.executing.bound_lines import bind_line, first_scope

    other = write(tmp_path / "o.csv", ["k", "v"], [["a", "x"], ["b", "y"]])
    table = table_of(["k", "n"], [["a", "1"]])
    assert source_frame(table).rows.count == 1
    text = line.replace("{other}", other)
    with pytest.raises(ListError, match=said) as met:
        bind_line(text, first_scope(table, ()))
    if met.value.mend is not None and met.value.mend.text is not None:
        bind_line(met.value.mend.text, first_scope(table, ()))


@pytest.mark.parametrize(
    ("line", "there", "what", "mended"),
    [
        ('keep k IN "{other}"', ["OAK"], "capitals", 'keep k IN "{other}" IGNORING CASE'),
        ('keep k IN "{other}" column k', ["elm"], "blanks", 'keep TRIM(k) IN "{other}" column k'),
        ('keep k NOT IN "{other}"', ["7"], "leading zeros", "keep TRIM(LEADING '0' FROM k) NOT IN \"{other}\""),
        ('keep k IN "{other}"', [" oak"], "blanks", ""),
        ('bring v from "{other}" by k', ["OAK"], "capitals", 'bring v from "{other}" by UPPER(k) = UPPER(k)'),
        ('bring v from "{other}" by k', [" oak"], "blanks", 'bring v from "{other}" by TRIM(k) = TRIM(k)'),
    ],
)
def test_keys_that_nearly_match_are_said_with_the_mend(
    table_of: WriteTable, tmp_path: Path, line: str, there: list[str], what: str, mended: str
) -> None:
    from yardcut.core.progress import CancelToken
    from yardcut.core.run.executing.executor import Executor
    from yardcut.core.run.hinting.second_hints import near_misses
    from yardcut.core.scanning.local import LocalRunner

    table = table_of(["k", "n"], [["oak", "1"], ["elm ", "2"], ["007", "3"], ["yew", "4"]])
    if "bring" in line or "column" in line:
        other = write(tmp_path / "o.csv", ["k", "v"], [[text, "x"] for text in [*there, "yew"]])
    else:
        (tmp_path / "o.txt").write_text("".join(f"{text}\n" for text in [*there, "yew"]))
        other = str(tmp_path / "o.txt")
    result = run_lines(table, line.replace("{other}", other))[-1]
    (hint,) = near_misses(result, Executor(LocalRunner(table)), CancelToken())
    assert f"1 key differs in {what} only" in hint.says
    assert hint.mend == mended.replace("{other}", other)
    if hint.mend:
        again = run_lines(table, hint.mend)[-1]
        assert again.looked_up[0].matched == result.looked_up[0].matched + 1


def test_keys_are_proposed_by_names_and_by_shared_values(table_of: WriteTable, tmp_path: Path) -> None:
    from yardcut.core.expressions.frame import source_frame
    from yardcut.core.progress import CancelToken
    from yardcut.core.run.looking.key_proposals import propose_keys
    from yardcut.core.sources.opening_sources import open_table

    table = table_of(["ticket", "mill_id", "wood"], [[str(n), f"M{n % 7}", "oak"] for n in range(50)])
    other = write(tmp_path / "mills.csv", ["id", "name"], [[f"M{n}", f"Mill {n}"] for n in range(1, 10)])
    best = propose_keys(source_frame(table), source_frame(open_table(Path(other))), "mills", CancelToken())[0]
    assert (best.ours, best.theirs, best.is_whole) == ("mill_id", "id", True)
    assert (round(best.found, 3), round(best.met, 3)) == (round(6 / 7, 3), round(6 / 9, 3))


def test_doubled_keys_are_an_error_for_a_table_without_rows_too(table_of: WriteTable, tmp_path: Path) -> None:
    other = write(tmp_path / "other.csv", ["k", "v"], [["oak", "1"], ["oak", "2"]])
    for keys in ([], ["oak"], ["elm"]):
        table = table_of(["k"], [[key] for key in keys])
        with pytest.raises(ListError, match="several times"):
            run_lines(table, f'bring v from "{other}" by k')
        copies = run_lines(table, f'bring v from "{other}" by k every match')[-1]
        assert copies.rows.count == sum(2 if key == "oak" else 1 for key in keys)
