"""A cut run on its server's rows gives what it gives here: the same rows, the same counts, whatever was sent."""

from __future__ import annotations

import json
import random
import re
from collections.abc import Iterator
from pathlib import Path

import pytest

from commands import yardcut
from postgres_server import PostgresServer, a_server
from thoroughness import examples
from yardcut.core.sql import counts_there
from yardcut.core.unattended import running_there

pytest.importorskip("psycopg")
WORDS = ["oak", "Oak", "ash", "élan", "end shake", "a%b", "a_b", "it's", "", " oak ", "NA", "Zebra", "zebra"]


@pytest.fixture(scope="module")
def server() -> Iterator[PostgresServer]:
    chance = random.Random(11)

    def some(*cells: str) -> str:
        return "NULL" if chance.random() < 0.15 else chance.choice(cells)

    words = ["'" + word.replace("'", "''") + "'" for word in WORDS]
    rows = ", ".join(
        f"({number * 37 % 600}, {some(*words)}, {some('-3', '0', '7', '2147483647')}, {some('0.1', '0.3', '24.1', '1e15')}, "
        f"{some('0.1', '0.2', '0.3', '1.5', '1e30')}, {some('0.10', '24.10', '-7.25')}, {some('0.1', '16777217', '3.4e38')}, "
        f"{some(chr(39) + '2031-03-01' + chr(39), chr(39) + '1999-12-31' + chr(39))}, "
        f"{some(chr(39) + '2031-03-01 10:00:00.5' + chr(39))}, {some('true', 'false')})"
        for number in range(600)
    )
    with a_server() as found:
        found.rows(
            "CREATE SCHEMA kiln; CREATE TABLE kiln.packs (id int PRIMARY KEY, word text, whole bigint, free numeric, real float8, fixed "
            "numeric(9,2), short real, day date, moment timestamp, flag bool);"
            f"INSERT INTO kiln.packs VALUES {rows}; CREATE TABLE other (a int, b text)"
        )
        yield found


CONDITIONS = [
    "word = 'oak'", "word > 'a'", "word LIKE '%o%'", "word IN ('oak', 'ash', '')", "word IS NULL", "NOT (word = 'oak')", "word <> 'oak'",
    "whole > 0", "whole BETWEEN -5 AND 7", "whole = 2147483647", "whole + 1 > 7", "free > 0.1", "free = 0.3", "free + 0.1 > 0.4",
    "real + 0.1 > 0.3", "real = 0.1", "real >= 0.3", "fixed = 24.1", "fixed * 3 > 72.3", "short = 0.1", "short > 0.1", "short = 16777217",
    "day > DATE '2000-01-01'", "EXTRACT(YEAR FROM day) = 2031", "moment < TIMESTAMP '2031-03-01 11:00:00'", "flag", "NOT flag",
    "flag IS NOT TRUE", "whole > 0 AND (word = 'oak' OR real < 0.3)", "CHAR_LENGTH(word) = 3", "UPPER(word) = 'OAK'",
    "word = 'oak' IGNORING CASE", "word LIKE_REGEX '^o'", "real > AVG(real)", "id IN \"asked.txt\"", "SOURCE_ROW > 100",
]  # fmt: skip
BEHIND = [
    "order word, id DESC", "draw top 5 by real", "draw first 30", "draw random 20 seed 4", "draw every 3", "draw last 9",
    "tally COUNT(*), SUM(real) AS total per word", "make more = whole * 2", "draw random 2 per word seed 1", "columns id, word, fixed, flag, real, whole",
    "order real NULLS FIRST", "draw bottom 4 by fixed per flag", "columns word, whole", "columns flag AS sound, id",
    "columns all without real, free, day", "columns w*, id", "columns #2, #5", "columns fixed..moment",
    "tally MAX(day) AS last per flag", 'bring b AS found from "other.csv" by whole = a first match',
]  # fmt: skip


_OF_SIZES = re.compile(r"\b(stratified|part \d)\b")


def notes_of(line: dict[str, object]) -> list[str] | None:
    """Return what is said of a line, but for hints; what is said of groups only a run here says."""
    if re.search(r"^(off )?(tally|make)|\bper\b", str(line["text"])) and not _OF_SIZES.search(str(line["text"])):
        return None
    notes: list[str] = line["notes"]  # type: ignore[assignment] # a report is JSON
    return [note for note in notes if not note.startswith("hint") and note != "ran on the server"]


def both_ways(
    server: PostgresServer, folder: Path, lines: list[str], table: str = "kiln.packs"
) -> list[dict[str, object]]:
    """Run a cut here and there; returns what its lines did, which is the same."""
    text = f'yardcut 1\nsource "{server.address()}"\n  table \'{table}\'\ncut "x"\n' + "".join(
        f"  {line}\n" for line in lines
    )
    (folder / "a.cut").write_text(text)
    (folder / "asked.txt").write_text("3\n37\n99\n")
    (folder / "other.csv").write_text("a,b\n0,x\n7,y\n")
    done: list[object] = []
    report = None
    for more in ([], ["--there"]):
        found = yardcut("run", "a.cut", "--report", "r.json", "--replace", *more, cwd=folder)
        if any(" sizes " in line for line in lines) and found.returncode == 2:  # a group it names may not be left
            done.append((found.stdout, found.stderr.splitlines()[-3:]))
            continue
        assert found.returncode == 0, (lines, found.stderr)
        report = json.loads((folder / "r.json").read_text())
        done.append(
            (
                found.stdout,
                report["rows"],
                report["columns"],
                [(line["rows_in"], line["rows_out"], line["taken_unknown"]) for line in report["lines"]],
                [notes_of(line) for line in report["lines"]],
                [line["groups"] for line in report["lines"] if _OF_SIZES.search(line["text"])],
            )
        )
    assert done[0] == done[1], lines
    return list(report["lines"]) if report else []


@pytest.mark.few(4)
@pytest.mark.parametrize("seed", range(examples(270)))
def test_rows_and_counts_are_the_same(server: PostgresServer, tmp_path: Path, seed: int) -> None:
    chance = random.Random(seed)
    lines = [
        f"{chance.choice(['keep', 'keep', 'drop'])} {each}" for each in chance.sample(CONDITIONS, chance.randint(1, 3))
    ]
    if chance.random() < 0.3:
        lines = lines[:0]
    behind = sorted(chance.sample(BEHIND, chance.randint(0, 2)), key=lambda line: line.startswith(("tally", "columns")))
    behind = behind[:1] if behind and behind[0].startswith(("tally", "columns")) else behind
    both_ways(server, tmp_path, [*lines, *behind] or ["draw first 3"])


@pytest.mark.few(9)
@pytest.mark.parametrize("condition", CONDITIONS)
def test_each_condition_alone(server: PostgresServer, tmp_path: Path, condition: str) -> None:
    ran = both_ways(server, tmp_path, [f"keep {condition}", f"drop {condition}"])
    stays = ("IGNORING", "LIKE_REGEX", "AVG", "asked", "SOURCE_ROW", "UPPER")
    was_sent = "ran on the server" in ran[0]["notes"]  # type: ignore[operator] # a list of texts
    assert was_sent is not any(word in condition for word in stays) or "UPPER" in condition


SHAPING = [
    *(f"keep {each}" for each in CONDITIONS[:26]), "drop word = 'oak'", "make more = whole * 2, w = word", "columns id, word, whole, real, flag, day, fixed",
    "order word, real DESC", "order real NULLS FIRST, word DESC", "order as read", "order flag, fixed", "order whole + 1 DESC", "order day DESC, flag",
    "keep SOURCE_ROW > 100", "make share = real / SUM(real)", "order word IGNORING CASE", "order at random seed 3",
]  # fmt: skip
DRAWS = [
    "first 40", "first 10 percent", "first 3 per word", "last 30", "last 12 percent", "last 2 per flag, word", "every 3", "every 7 from 5", "every 2 per word", "rows 11 to 60", "rows 2 to 3 per word",
    "top 20 by real", "top 20 by real with ties", "top 9 by whole, word", "bottom 15 by fixed", "bottom 2 by day, real per word", "top 3 by word per flag", "top 2 by whole per word with ties",
    "top 500 by short", "bottom 12 by word", "random 50 seed 7", "random 3 per word seed 9", "random 15 percent seed 1", "random 20 percent per flag seed 9223372036854775807",
    "chance 0.3 seed 8", "chance 1 in 7 seed 5", "chance 12.5 percent seed 5", "chance 1 seed 5", "random 1000 seed 0", "stratified 60 per word seed 3",
    "part 2 of 60, 40 percent seed 4", "random 7.5 percent per flag seed 3", "random 33.3 percent seed 12", "stratified 40 per flag, word equal seed 5", "stratified 90 per day at least 3 each seed 8",
    "stratified 45 per whole seed 2", "part 1 of 25.5, 74.5 percent per flag seed 6", "part 3 of 20, 30, 50 percent per word, flag seed 1", "stratified 30 per flag, real seed 9",
    "stratified per word sizes 'oak' 5, NULL 2, others 1 seed 4", "stratified per flag, whole shares (TRUE, 7) 50 percent, others 5 percent seed 7",
    "stratified per real sizes 0.1 9, others 2 seed 4", "stratified 12 per moment seed 3", "random 50 weighted by real seed 3", "random 30 with replacement seed 6", "from id = 30 to id = 200",
]  # fmt: skip
TALLIES = [
    "COUNT(*) AS n, MAX(real) AS big per word", "COUNT(*) AS n, COUNT(real) AS r, COUNT(DISTINCT fixed) AS d per flag, word", "COUNT(*) AS n, SUM(whole) AS s, MIN(word) AS least per day",
    "COUNT(*) AS n, COUNT(*) FILTER (WHERE real > 0.15) AS some per real", "COUNT(*) AS n, MIN(day) AS since, MAX(moment) AS until per EXTRACT(YEAR FROM day) AS year",
    "COUNT(*) AS n, MAX(fixed) AS f, MIN(free) AS g, MAX(short) AS h per short", "COUNT(*) AS n, MAX(whole)", "COUNT(*) AS n, MAX(day) AS last per flag along word IN SEQUENCE ('oak', 'ash')",
    "SUM(whole) / COUNT(*) AS each, COUNT(*) AS n per word", "SUM(real) AS total, COUNT(*) AS n per word", "MEDIAN(real) AS mid, COUNT(*) AS n per flag", "COUNT(*) AS n per whole * 2 AS twice, -real AS less",
]  # fmt: skip
AFTER = [
    "order n DESC",
    "draw top 2 by n",
    "keep n > 3",
    "draw random 3 seed 2",
    "draw every 2",
    "make m = n * 2",
    "draw first 3",
    "tally COUNT(*) AS n, MAX(n) AS top",
]


def some_lines(chance: random.Random) -> list[str]:
    """Return some lines of a cut: what shapes the rows, draws among it, and perhaps a tally with lines behind it."""
    draws = [f"draw {each}{' remainder' if chance.random() < 0.15 and 'replace' not in each else ''}" for each in DRAWS]
    lines = [chance.choice(SHAPING if chance.random() < 0.6 else draws) for _ in range(chance.randint(0, 4))]
    lines = [f"off {line}" if chance.random() < 0.1 else line for line in lines]
    if not lines or chance.random() < 0.4:
        lines.append(f"tally {chance.choice(TALLIES)}")
        if "along" not in lines[-1]:
            lines += chance.sample(AFTER, chance.randint(0, 2))
    return lines


@pytest.mark.few(9)
@pytest.mark.parametrize("seed", range(examples(600)))
def test_whole_cuts_are_the_same(server: PostgresServer, tmp_path: Path, seed: int) -> None:
    both_ways(server, tmp_path, some_lines(random.Random(seed)))


@pytest.mark.few(6)
@pytest.mark.parametrize("draw", DRAWS)
def test_each_draw_of_some_rows_in_an_order(server: PostgresServer, tmp_path: Path, draw: str) -> None:
    ran = both_ways(server, tmp_path, ["keep whole >= 0", "order word DESC, real", f"draw {draw}", "columns id, word"])
    stays = ("weighted", "replacement", "moment", "from id")
    was_sent = "ran on the server" in ran[2]["notes"]  # type: ignore[operator] # a list of texts
    assert was_sent is not any(word in draw for word in stays)


@pytest.mark.parametrize(
    "draw", ["stratified per word sizes 'elm' 5, others 1 seed 4", "stratified 4 per word at least 3 each seed 4"]
)
def test_sizes_that_cannot_be_given_are_told_as_here(server: PostgresServer, tmp_path: Path, draw: str) -> None:
    (tmp_path / "a.cut").write_text(
        f'yardcut 1\nsource "{server.address()}"\n  table \'kiln.packs\'\ncut "x"\n  keep whole > 0\n  draw {draw}\n'
    )
    here, there = (yardcut("run", "a.cut", *more, cwd=tmp_path) for more in ([], ["--there"]))
    assert (here.returncode, here.stderr.splitlines()[-3:]) == (there.returncode, there.stderr.splitlines()[-3:])
    assert here.returncode == 2


@pytest.mark.few(5)
@pytest.mark.parametrize("tally", TALLIES)
def test_each_tally(server: PostgresServer, tmp_path: Path, tally: str) -> None:
    ran = both_ways(server, tmp_path, ["keep whole >= 0", "order word DESC, real", f"tally {tally}"])
    was_sent = "ran on the server" in ran[2]["notes"]  # type: ignore[operator] # a list of texts
    assert was_sent is not tally.startswith(("SUM(real)", "MEDIAN"))


ODD = [
    "keep x > 1", "drop x > 1", "keep x <> 0", "order x, k DESC", "draw top 3 by x", "draw bottom 4 by x with ties", "draw first 2 per x", "draw top 1 by k per x",
    "tally COUNT(*) AS n per x", "tally MIN(x) AS a, MAX(x) AS b, COUNT(x) AS c, COUNT(DISTINCT x) AS d", "tally SUM(big) AS s per x", "tally SUM(big) AS s",
    "keep big + 1 > 5", "tally MAX(big + 1) AS m", "keep small + 1 > 5", "tally COUNT(*) AS n per small * 2 AS twice", "tally COUNT(*) AS n, MAX(flag) AS f",
    "draw top 2 by s", "draw bottom 2 by s per x", "tally MIN(s) AS a, MAX(s) AS b per s", "keep s > 'a'",
]  # fmt: skip


@pytest.mark.few(6)
@pytest.mark.parametrize("line", ODD)
def test_values_that_mean_something_else_there(server: PostgresServer, tmp_path: Path, line: str) -> None:
    server.rows(
        'CREATE TABLE IF NOT EXISTS kiln.odd (k text COLLATE "C" PRIMARY KEY, x float8, big bigint, small int, flag bool, s text COLLATE "und-x-icu");'
        "INSERT INTO kiln.odd VALUES ('a', 'NaN', 9223372036854775807, 2147483647, true, 'b'), ('B', -0.0, 1, 1, false, 'B'), "
        "('c', 0, NULL, 2, NULL, ''), ('D', 'Infinity', 5, 3, true, 'é'), ('e', '-Infinity', 6, 4, true, 'z'), ('é', NULL, 7, 5, true, NULL), "
        "('z', 'NaN', 8, 5, true, 'Z'), ('Z', 2.5, 9, 5, true, 'a b'), ('zz', 2.5, 9, 5, true, 'a-b') ON CONFLICT DO NOTHING"
    )
    both_ways(
        server, tmp_path, [line] if " MAX(flag)" not in line else [line.replace("MAX(flag)", "COUNT(flag)")], "kiln.odd"
    )


def test_the_order_as_read_is_that_of_the_source_behind_a_draw_by_groups(
    server: PostgresServer, tmp_path: Path
) -> None:
    both_ways(server, tmp_path, ["draw top 2 by real per word", "order as read"])
    both_ways(server, tmp_path, ["draw top 2 by real per word", "keep word <> 'OAK' IGNORING CASE", "order as read"])


def test_columns_and_draws_may_be_called_as_they_like(server: PostgresServer, tmp_path: Path) -> None:
    names = (
        "low",
        "high",
        "near",
        "reach",
        "edge",
        "turn",
        "there",
        "valued",
        "few",
        "g",
        "e",
        "first",
        "at",
        "n",
        "w",
        "t",
        "a",
        "b",
    )
    columns = ", ".join(f'id % {number + 2} AS "{name}"' for number, name in enumerate(names))
    server.rows(
        f"CREATE TABLE kiln.named AS SELECT id, word, flag, {columns} FROM kiln.packs; ALTER TABLE kiln.named ADD PRIMARY KEY (id)"
    )
    for lines in (
        ["draw stratified 90 per flag seed 1", "draw stratified 40 per near, low seed 2", "draw random 2 per edge seed 3"],
        ["draw top 9 by turn per flag", "draw bottom 3 by low per g", "draw first 1 per e"],
        ["draw part 1 of 60, 40 percent per high seed 4", "draw part 2 of 30, 70 percent seed 5", "draw top 5 by near"],
        ["draw stratified 50 per there seed 6 remainder", "draw last 2 per flag"],
    ):  # fmt: skip
        for line in both_ways(server, tmp_path, lines, "kiln.named"):
            assert "ran on the server" in line["notes"], line  # type: ignore[operator] # a list of texts


def test_rows_without_a_key_stand_in_no_order_there(server: PostgresServer, tmp_path: Path) -> None:
    server.rows("CREATE TABLE kiln.plain AS SELECT id, word FROM kiln.packs ORDER BY id")
    for lines, said in (
        (["keep id > 5", "draw first 3"], "line 2 ran here: a draw cannot be said in SQL: rows without a key"),
        (["tally COUNT(*) AS n per word"], "no line ran on the server"),
    ):
        body = "".join(f"  {line}\n" for line in lines)
        text = f'yardcut 1\nsource "{server.address()}"\n  table \'kiln.plain\'\ncut "x"\n{body}'
        (tmp_path / "a.cut").write_text(text)
        assert said in yardcut("run", "a.cut", "--there", cwd=tmp_path).stderr
        (tmp_path / "a.cut").write_text(text.replace("'kiln.plain'", "'kiln.plain'\n  key id"))
        there = yardcut("run", "a.cut", "--there", cwd=tmp_path)
        assert "ran here" not in there.stderr
        assert there.stdout == yardcut("run", "a.cut", cwd=tmp_path).stdout
        (tmp_path / "a.cut").write_text(text.replace("'kiln.plain'", "'kiln.plain'\n  key word"))
        assert "word is no key" in yardcut("run", "a.cut", "--there", cwd=tmp_path).stderr


def test_a_slice_saved_between_lines_holds_what_stood_there(server: PostgresServer, tmp_path: Path) -> None:
    lines = ["keep whole > 0", 'save "a.csv" replace', "draw first 3", 'save "b.csv" replace with list']
    body = "".join(f"  {line}\n" for line in lines)
    (tmp_path / "a.cut").write_text(f'yardcut 1\nsource "{server.address()}"\n  table \'kiln.packs\'\ncut "x"\n{body}')
    found = []
    for more in ([], ["--there"]):
        done = yardcut("run", "a.cut", *more, cwd=tmp_path)
        assert done.returncode == 0, done.stderr
        found.append([(tmp_path / name).read_bytes() for name in ("a.csv", "b.csv")])
    assert found[0] == found[1]
    assert "off" not in (tmp_path / "b.cut").read_text()


def test_the_list_of_a_slice_that_a_server_put_together_is_the_list_that_ran(
    server: PostgresServer, tmp_path: Path
) -> None:
    body = '  keep whole > 0\n  tally COUNT(*) AS n per word\n  save "b.csv" replace with list\n'
    (tmp_path / "a.cut").write_text(f'yardcut 1\nsource "{server.address()}"\n  table \'kiln.packs\'\ncut "x"\n{body}')
    assert "made of 600" in yardcut("run", "a.cut", "--there", cwd=tmp_path).stderr
    first, beside = (tmp_path / "b.csv").read_bytes(), (tmp_path / "b.cut").read_text()
    assert "keep whole > 0\n" in beside
    assert "kind" not in beside
    again = yardcut("run", "b.cut", "--replace", cwd=tmp_path)
    assert again.returncode == 0, again.stderr
    assert (tmp_path / "b.csv").read_bytes() == first


def test_what_was_sent_is_said_and_fewer_rows_come(server: PostgresServer, tmp_path: Path) -> None:
    (tmp_path / "a.cut").write_text(
        f"yardcut 1\nsource \"{server.address()}\"\n  table 'kiln.packs'\ncut \"x\"\n  keep whole > 0\n  drop word = 'oak' IGNORING CASE\n"
    )
    done = yardcut("run", "a.cut", "--there", cwd=tmp_path)
    rows = server.rows("SELECT count(*) FROM kiln.packs WHERE whole > 0")[0][0]
    assert (
        f"line 1 ran on the server, which sent {rows} of 600 rows; line 2 ran here: IGNORING CASE cannot be said"
        in done.stderr
    )
    assert "hint" not in done.stderr.split("drop word")[0]


@pytest.mark.parametrize(
    ("lines", "said"),
    [
        (["keep whole > 0", "columns word, fixed"], "rows, 4 of 10 columns"),
        (["columns word, fixed"], "no line ran on the server, which sent 3 of 10 columns"),
        (["draw random 9 per flag seed 3", "columns day"], "line 1 ran on the server, which sent 27 of 600 rows, 3 of"),
        (["tally COUNT(*), SUM(real) AS total per word"], "which sent 3 of 10 columns"),
        (["make m = whole * 2", "columns m"], "which sent 2 of 10 columns"),
        (["keep real > 0", "columns w*"], ""),
        (["keep real > 0"], ""),
        (["columns #2"], ""),
    ],
)
def test_columns_nobody_looks_at_do_not_come(
    server: PostgresServer, tmp_path: Path, lines: list[str], said: str
) -> None:
    body = "".join(f"  {line}\n" for line in lines)
    (tmp_path / "a.cut").write_text(f'yardcut 1\nsource "{server.address()}"\n  table \'kiln.packs\'\ncut "x"\n{body}')
    done = yardcut("run", "a.cut", "--there", cwd=tmp_path)
    assert said in done.stderr
    assert (" columns" in done.stderr.split("on the server")[-1]) is bool(said)


def test_a_line_that_takes_what_the_server_let_through_ends_it(
    server: PostgresServer, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(counts_there.Writer, "condition", lambda self, condition: "(TRUE)")
    (tmp_path / "a.cut").write_text(
        f'yardcut 1\nsource "{server.address()}"\n  table \'kiln.packs\'\ncut "x"\n  keep whole > 0\n'
    )
    done = yardcut("run", "a.cut", "--there", cwd=tmp_path)
    assert (done.returncode, done.stdout) == (1, "")
    assert "rows that the server let through; run it without --there" in done.stderr


def test_a_table_that_changes_between_its_counts_and_its_rows_is_said(
    server: PostgresServer, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    real, calls = running_there.open_table, []

    def changing(*given: object) -> object:
        calls.append(given)
        if len(calls) == 2:  # the first is the outline
            server.rows("INSERT INTO kiln.packs VALUES (9999, 'oak', 5)")
        return real(*given)  # type: ignore[arg-type] # handed on

    monkeypatch.setattr(running_there, "open_table", changing)
    (tmp_path / "a.cut").write_text(
        f'yardcut 1\nsource "{server.address()}"\n  table \'kiln.packs\'\ncut "x"\n  keep whole > 0\n'
    )
    done = yardcut("run", "a.cut", "--there", cwd=tmp_path)
    calls.append(())  # from here on nothing changes
    server.rows("DELETE FROM kiln.packs WHERE id = 9999")
    assert (done.returncode, done.stdout) == (1, "")
    assert "changed while it was asked; run it again" in done.stderr
    for rows in (1, 0):  # each run asks anew, in one process too
        server.rows(
            "INSERT INTO kiln.packs VALUES (9998, 'oak', 5)" if rows else "DELETE FROM kiln.packs WHERE id = 9998"
        )
        again = yardcut("run", "a.cut", "--there", cwd=tmp_path)
        assert again.stdout.count("\n9998,") == rows, again.stderr


def test_what_is_for_no_server_is_refused(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("a\n1\n")
    (tmp_path / "a.cut").write_text('yardcut 1\nsource "a.csv"\ncut "x"\n  keep a = 1\ncut "y"\n  keep a = 2\n')
    assert "stands on no server" in yardcut("run", "a.cut", "--cut", "x", "--there", cwd=tmp_path).stderr
