"""A cut told in plain sentences: the counts are those of the rows, and nothing from data or names is more than text."""

from __future__ import annotations

import random
import re
from pathlib import Path
from xml.etree import ElementTree

import pytest

from helpers import WriteTable
from judging import make_sources
from reference.generating import Generator
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.filter_parts import Keep
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.telling.conditions_in_words import in_words
from yardcut.core.run.telling.explanation import Explanation, explain
from yardcut.core.run.telling.written import FORMS, as_html, as_markdown, as_text
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.table.stored_table import Table

SAID = {
    "a = 1 AND b <> 'x'": "a is 1 and b is not 'x'",
    "a > 1 OR b <= 2 AND c >= 3": "a is above 1 or (b is at most 2 and c is at least 3)",
    "(a = 1 OR b = 2) AND off (c = 3)": "a is 1 or b is 2",
    "off (a = 1)": "",
    "day >= DATE '2031-03-01' AND day < CURRENT_DATE": "day is not before 2031-03-01 and day is before the day of the run",
    "a NOT BETWEEN 1 AND 2": "a does not lie between 1 and 2",
    "a IN (1, 2, 3)": "a is one of 1, 2 or 3",
    "a NOT IN ('x') IGNORING CASE": "a is not 'x', whatever the capitals",
    "NOT a CONTAINS 'x'": "a does not contain 'x'",
    "NOT (a = 1 AND b = 2)": "it is not so that (a is 1 and b is 2)",
    "a IS NULL OR b IS NOT NULL": "a has no value or b has a value",
    "a STARTS WITH 'x' AND b NOT LIKE '%y' AND c LIKE_REGEX '^z' FLAG 'i'": "a begins with 'x' and b does not look like '%y' and c matches the pattern '^z', whatever the capitals",
    "a IS DISTINCT FROM b": "a and b are different",
    "ANY OF (a, b) > 5": "any of a, b is above 5",
    'ticket IN "asked.txt"': 'ticket stands in "asked.txt"',
    "(a = 1) IS UNKNOWN": "it is unknown that a is 1",
}  # fmt: skip


@pytest.mark.parametrize("condition", SAID)
def test_conditions_are_said(condition: str) -> None:
    body = parse_statement(f"keep {condition}").body
    assert isinstance(body, Keep)
    assert in_words(body.condition) == SAID[condition]


def told(table: Table, lines: list[str], name: str = "dear oak") -> Explanation:
    executor = Executor(LocalRunner(table))
    cut = Cut(name, tuple(map(Line, lines)))
    results = list(executor.run(cut, default_seed=0))
    if len(results) < len(lines):
        raise ListError("refused")
    return explain(cut, results, (), executor, "packs.csv", CancelToken())


@pytest.mark.long
def test_random_cuts_are_told_with_their_counts(tmp_path: Path) -> None:
    _, table = make_sources(tmp_path, 60, 2)
    said = 0
    for seed in range(150):
        generator = Generator(seed)
        lines = [generator.line() for _ in range(generator.pick(1, 2, 3))]
        try:
            found = told(table, lines)
        except ListError:
            continue
        said += 1
        assert len(found.steps) == len(lines)
        for step, line in zip(found.steps, lines, strict=True):
            assert step.text == line.strip()
            assert re.search(r"[.:]", step.sentence), step
            if (
                not line.startswith("off")
                and line.split()[0] in ("keep", "draw")
                and "is switched off" not in step.sentence
            ):
                assert step.sentence.startswith(f"Of {step.before:,} rows {step.left:,} are "), step
        for form in FORMS.values():
            text = form(found)
            assert f"{found.steps[-1].left:,} row" in text
    assert said > 100


def test_reasons_add_up_to_the_rows_that_are_gone(table_of: WriteTable) -> None:
    chance = random.Random(3)
    rows = [[n, chance.choice(["oak", "ash", ""]), chance.choice([1, 2, ""])] for n in range(200)]
    found = told(table_of(["id", "species", "boards"], rows), ["keep species = 'oak' AND boards > 1", "drop id < 20"])
    first, second = found.steps
    counts = [int(doubt.split(" rows:")[0].replace(",", "")) for doubt in first.doubts if " rows: " in doubt]
    assert sum(counts) == first.before - first.left == 200 - sum(row[1] == "oak" and row[2] == 2 for row in rows)
    assert second.sentence.startswith(
        f"Of {first.left} rows {first.left - second.left} are dropped: those where id is below 20."
    )


def test_names_and_cells_are_text_and_nothing_more(table_of: WriteTable) -> None:
    odd = '<b onload="x()">\x1b[31m *very* [a](b)'
    rows = [[odd, 1], ["</svg><script>x</script>", 2]]
    found = told(
        table_of([odd, "n"], rows),
        ["keep n = 1", f'''keep "{odd.replace('"', '""')}" <> '<script>' '''],
        name=f"cut {odd}",
    )
    page = as_html(found)
    assert "<script>" not in page
    assert "\x1b" not in page + as_text(found) + as_markdown(found)
    ElementTree.fromstring(
        page.replace("<!DOCTYPE html>", "").replace('<meta charset="utf-8">', "")
    )  # every tag is closed
    assert "onload" in page
    assert "<b onload" not in page
    assert "\\[a\\](b)" in as_markdown(found)
    assert max(map(len, as_text(found).splitlines())) <= 130


def test_a_cut_without_lines_and_a_table_without_rows(table_of: WriteTable) -> None:
    assert "3 rows and 1 column are left" in as_text(told(table_of(["a"], [[1], [2], [3]]), []))
    assert "Of 0 rows 0 are kept" in as_text(told(table_of(["a"], []), ["keep a = '1'"]))


def test_a_cut_with_a_wrong_line_is_not_told_by_halves(table_of: WriteTable) -> None:
    executor = Executor(LocalRunner(table_of(["a"], [[1], [2]])))
    cut = Cut("c", tuple(map(Line, ["keep a > 0", "keep b > 1", "draw first 1"])))
    with pytest.raises(ListError, match="line 2 is wrong"):
        explain(cut, list(executor.run(cut, default_seed=0)), (), executor, "a.csv", CancelToken())
