"""What the command line says: every hint the prompt would, wrong source lines with their place, and no endless line."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from commands import assert_sentence, yardcut


@pytest.fixture
def place(tmp_path: Path) -> Path:
    (tmp_path / "a.csv").write_text(
        "n,g,w,p\n" + "".join(f"{n},{'AB'[n % 2]},{['oak', 'Oak', 'ash'][n % 3]},{n}.5\n" for n in range(40))
    )
    return tmp_path


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("keep w = 'Oak'", "'Oak' 13; also 'oak' 14"), ("keep n BETWEEN 9 AND 3", "runs from high to low"), ("keep w = 'elm'", "no row that reaches the line has 'elm'"),
        ("keep w <> 'oak' AND p > 1000", "true of no row"), ("draw random 9 per UPPER(w) seed 1", ""), ("draw random 2 per w seed 1", "differ only in capitals"),
    ],
)  # fmt: skip
def test_hints_of_the_prompt_are_said(place: Path, line: str, says: str) -> None:
    done = yardcut("cut", "a.csv", "-l", line, cwd=place)
    assert ("hint: " in done.stderr) is bool(says), done.stderr
    assert says in done.stderr
    assert "hint: " not in yardcut("cut", "a.csv", "-l", line, "-q", cwd=place).stderr


@pytest.mark.long
def test_no_line_is_endless(place: Path) -> None:
    items = ", ".join(f"'x{n}'" for n in range(9000))
    (place / "l.cut").write_text(
        f'yardcut 1\nsource "a.csv"\ncut "c"\n  keep w IN ({items})\ncut "d"\n  keep v IN ({items})\n'
    )
    done = yardcut("run", "l.cut", "--cut", "c", cwd=place)
    assert "characters …" in done.stderr
    assert "9,000 of these values stand in no row" in done.stderr
    for name, code in (("c", 0), ("d", 2)):
        done = yardcut("run", "l.cut", "--cut", name, cwd=place)
        assert done.returncode == code
        assert max(map(len, done.stderr.splitlines())) < 800
        assert len(done.stderr.splitlines()) < 12
    assert "^" in done.stderr.splitlines()[-1]


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("query 'select 1'", "the query line cannot apply to a.csv, which is delimited text"),
        ("table 'x'", "the table line"),
        ("cells 'B2'", "the cells line"),
    ],
)
def test_source_lines_that_cannot_apply_are_wrong_whatever_the_source(place: Path, line: str, says: str) -> None:
    assert_sentence(yardcut("cut", "a.csv", "-l", line, cwd=place), 2, says)
    (place / "l.cut").write_text(f'yardcut 1\nsource "a.csv"\n  kind n integer\n  {line}\ncut "c"\n  keep n > 1\n')
    for command in ("run", "check"):
        assert_sentence(yardcut(command, "l.cut", cwd=place), 2, "l.cut, line 4, column 3", says)


def test_a_file_that_is_named_must_be_there_and_one_of_a_pattern_may_not_be_readable(place: Path) -> None:
    assert_sentence(yardcut("cut", "a.csv", "b.csv", cwd=place), 1, "there is no file b.csv")
    (place / "a2.csv").write_bytes(b"")
    assert_sentence(yardcut("cut", "a.csv", "a2.csv", cwd=place), 1, "a2.csv is empty")
    done = yardcut("cut", "a*.csv", cwd=place)
    assert done.returncode == 0
    assert "left out a2.csv" in done.stderr


def test_codes_lost_as_missing_are_said_with_the_line_that_settles_it(place: Path) -> None:
    (place / "c.csv").write_text(
        "origin_code,n\n" + "".join(f"{code},{n}\n" for n, code in enumerate(["NCB", "TAHI", "NA", "NA", "NCB"] * 4))
    )
    done = yardcut("cut", "c.csv", "-l", "keep origin_code = 'NA'", cwd=place)
    assert (
        "'NA' stands among its codes and is read as no value; to keep it as a code: no value '' in origin_code"
        in done.stderr
    )
    assert "'NA' is read as no value: 8 cells of origin_code say so or nothing" in done.stderr
    done = yardcut("cut", "c.csv", "-l", "no value '' in origin_code", "-l", "keep origin_code = 'NA'", cwd=place)
    assert "read as no value" not in done.stderr
    assert done.stdout.count("NA,") == 8


def test_a_stratum_smaller_than_the_least_is_named(place: Path) -> None:
    (place / "s.csv").write_text("n,w\n" + "".join(f"{n},{'yew' if n < 3 else 'oak'}\n" for n in range(60)))
    done = yardcut("cut", "s.csv", "-l", "draw stratified 30 per w at least 20 each seed 1", cwd=place)
    assert "1 group is smaller than 20: yew has 3" in done.stderr


@pytest.mark.parametrize(
    ("written", "mended"),
    [
        ('g = "A"', "g = 'A'"),
        ('"A" = g', "'A' = g"),
        ('w LIKE "o%"', "w LIKE 'o%'"),
        ('w CONTAINS "a"', "w CONTAINS 'a'"),
    ],
)
def test_texts_in_double_quotes_are_mended_and_no_column_is_compared_with_itself(
    place: Path, written: str, mended: str
) -> None:
    assert_sentence(yardcut("cut", "a.csv", "-l", f"keep {written}", cwd=place), 2, f"keep {mended}")
    done = yardcut("cut", "a.csv", "-l", "keep n = nn", cwd=place)
    assert "n = n" not in done.stderr.replace("n = nn", "")


@pytest.mark.parametrize(
    "lines",
    [
        ("keep p - AVG(p) > 0",),
        ("order p - AVG(p)", "draw top 5 by p * SUM(n)"),
        ("make d = p / MAX(p)", "keep d > AVG(d)"),
    ],
)
def test_a_cut_that_begins_with_another_one_runs_where_that_has_values_of_all_rows(
    place: Path, lines: tuple[str, ...]
) -> None:
    first = "".join(f"  {line}\n" for line in lines)
    (place / "l.cut").write_text(
        f'yardcut 1\nsource "a.csv"\ncut "c"\n{first}cut "d"\n  from "c"\n  keep n > 2\n  columns n\n'
    )
    (place / "one.cut").write_text(f'yardcut 1\nsource "a.csv"\ncut "c"\n{first}  keep n > 2\n  columns n\n')
    done = yardcut("run", "l.cut", "--cut", "d", cwd=place)
    assert done.returncode == 0, done.stderr
    assert done.stdout == yardcut("run", "one.cut", cwd=place).stdout


def test_rows_of_blanks_between_separators_are_blank(place: Path) -> None:
    (place / "b.csv").write_text("a,b,c\n1,2,3\n ,  , \n4,5,6\n,,\n\t,,\n ,7, \n")
    done = yardcut("cut", "b.csv", cwd=place)
    assert "dropped 3 blank rows" in done.stderr
    assert done.stdout == "a,b,c\n1,2,3\n4,5,6\n ,7, \n"


@pytest.mark.long
def test_a_row_without_an_end_is_said_to_be_one(place: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from yardcut.core.sources.delimited_blocks import cutting as blocks

    monkeypatch.setattr(blocks, "LONGEST_ROW_BYTES", 1 << 21)
    (place / "l.csv").write_text("a,b\n" + "x" * (20 << 20) + ",1\n")
    assert_sentence(yardcut("gauge", "l.csv", cwd=place), 1, "l.csv, line 2: this row goes on for more than 2 MB")
    (place / "q.csv").write_text('a,b\n"' + "x" * (20 << 20) + ",1\n")
    assert_sentence(yardcut("gauge", "q.csv", cwd=place), 1, "line 2: a quote opens here and never closes")


def test_files_of_before_1970_are_files(place: Path) -> None:
    os.utime(place / "a.csv", (-86_400.0 * 400, -86_400.0 * 400))
    done = yardcut("cut", "a.csv", "-l", "keep n > 5", "-l", 'save "o.csv" with list', cwd=place)
    assert done.returncode == 0, done.stderr
    assert "changed 1968-" in (place / "o.cut").read_text()


def test_between_with_a_missing_bound_is_two_comparisons(place: Path) -> None:
    (place / "m.csv").write_text("x,y\n0,\n5,\n9,10\n,1\n")
    for line, left in (("keep 0 BETWEEN 3 AND y", ""), ("keep 0 NOT BETWEEN 3 AND y", "0,\n5,\n9,10\n,1\n"), ("keep x NOT BETWEEN y AND 4", "5,\n9,10\n"),
                       ("keep x BETWEEN SYMMETRIC y AND 8", "9,10\n")):  # fmt: skip
        assert yardcut("cut", "m.csv", "-l", line, "-q", cwd=place).stdout.removeprefix("x,y\n") == left, line
