"""What is written from other habits is told on the command line as at the prompt, with the line that does it."""

from __future__ import annotations

from pathlib import Path

import pytest

from commands import yardcut

ROWS = """ticket,species,grade,bay,volume,felled_on,kiln_in
1,oak,A,N-03,2.5,2031-01-05,2031-02-01
2,oak,B,N-10,1.0,2030-12-30,2031-02-02
3,ash,A,R-01,,2031-03-01,2031-04-01
4,pine,C,N-09,4.0,2031-05-01,2031-05-03
5,,B,R-02,3.0,2030-06-01,2030-07-01
"""
MENDED = {
    "keep species = 'oka'": "keep species = 'oak'",
    "keep species = 'ASH'": "keep species = 'ash'",
    "keep species = OAK": "keep species = 'oak'",
    'keep grade = "A"': "keep grade = 'A'",
    'keep species == "oak"': "keep species = 'oak'",
    "keep bay LIKE 'N*'": "keep bay LIKE 'N%'",
    "keep species LIKE 'o?k'": "keep species LIKE 'o_k'",
    "keep volume BETWEEN 3 AND 1": "keep volume BETWEEN SYMMETRIC 3 AND 1",
    "keep species <> NA": "keep species IS NOT NULL",
    "keep volume is nan": "keep volume IS NULL",
    "keep felled_on in 2031": "keep EXTRACT(YEAR FROM felled_on) = 2031",
    "keep ticket in 3": "keep ticket IN (3)",
    "columns ticket:grade": "columns ticket..grade",
    "columns #3..": "columns #3..kiln_in",
    "tally MEAN(volume) per species": "tally AVG(volume) per species",
    "tally nunique(species) per grade": "tally COUNT(DISTINCT species) per grade",
    "tally stdev(volume) per species": "tally STDDEV_SAMP(volume) per species",
    "make d = DATEDIFF(kiln_in, felled_on)": "make d = (kiln_in - felled_on)",
    "make d = IIF(volume > 2, 'large', 'small')": "make d = CASE WHEN volume > 2 THEN 'large' ELSE 'small' END",
    "make d = nvl(volume, 0)": "make d = COALESCE(volume, 0)",
    "make d = substr(species, 1, 2)": "make d = SUBSTRING(species, 1, 2)",
    "order bay natural": "order bay NUMBER AWARE",
    "order species nocase": "order species IGNORING CASE",
    "order grade sequence ('C', 'A')": "order grade IN SEQUENCE ('C', 'A')",
    "order volume desc missing first": "order volume desc NULLS first",
}


@pytest.mark.few(9)
@pytest.mark.parametrize(("written", "meant"), MENDED.items(), ids=list(MENDED))
def test_a_slip_comes_with_the_line_that_does_it(tmp_path: Path, written: str, meant: str) -> None:
    (tmp_path / "packs.csv").write_text(ROWS)
    done = yardcut("cut", "packs.csv", "-l", written, "-l", "draw first 1", cwd=tmp_path)
    assert f": {meant}\n" in done.stderr or f"write {meant}\n" in done.stderr, done.stderr
    right = yardcut("cut", "packs.csv", "-l", meant, cwd=tmp_path)
    assert right.returncode == 0, right.stderr
    assert len(right.stdout.splitlines()) > 1  # it takes rows of a table where each of these lines has some


def test_a_figure_in_a_mend_is_of_the_rows_that_reach_the_line(tmp_path: Path) -> None:
    (tmp_path / "packs.csv").write_text(ROWS)
    done = yardcut("cut", "packs.csv", "-l", "keep grade = 'A'", "-l", "keep species = oak", cwd=tmp_path)
    assert "'oak' stands in 1 row: keep species = 'oak'" in done.stderr


def test_no_mend_is_offered_that_changes_what_is_meant(tmp_path: Path) -> None:
    """A star that is a letter of the values, a word that is a value, a column of that name."""
    (tmp_path / "packs.csv").write_text("mark,na\na*,1\nNA,2\n")
    assert "% is any text" not in yardcut("cut", "packs.csv", "-l", "keep mark LIKE 'a*'", cwd=tmp_path).stderr
    assert "IS NULL" not in yardcut("cut", "packs.csv", "-l", "keep mark = na", cwd=tmp_path).stderr
