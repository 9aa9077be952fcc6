"""A cut run on its server's rows gives what it gives here: the same rows, the same counts, whatever was sent."""

from __future__ import annotations

import json
import random
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
    done = []
    for more in ([], ["--there"]):
        found = yardcut("run", "a.cut", "--report", "r.json", "--replace", *more, cwd=folder)
        assert found.returncode == 0, (lines, found.stderr)
        report = json.loads((folder / "r.json").read_text())
        done.append(
            (
                found.stdout,
                report["rows"],
                report["columns"],
                [(line["rows_in"], line["rows_out"], line["taken_unknown"]) for line in report["lines"]],
            )
        )
    assert done[0] == done[1], lines
    return list(report["lines"])


@pytest.mark.few(7)
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
        (["draw random 9 per flag seed 3", "columns day"], "which sent 3 of 10 columns"),
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
