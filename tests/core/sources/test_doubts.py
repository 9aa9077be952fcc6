"""What a column of texts may be instead, or may have lost: said, with lines that settle it."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.run.explaining.source_report import sentences, settling
from yardcut.core.sources.kinds.decorated import decorated_number, marks_around
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table


def opened(path: Path, values: list[str], *lines: str) -> Table:
    path.write_text("n;v\n" + "".join(f'{n};"{value}"\n' for n, value in enumerate(values)))
    return open_table(SourceSpec((str(path),), tuple(map(parse_sub_line, lines))))


def texts(table: Table) -> list[str | None]:
    return table.columns[1].slice(0, table.rows).texts()


@pytest.mark.parametrize("count", [4, 3000])
def test_a_code_that_means_no_value_is_said_and_kept_by_its_line(tmp_path: Path, count: int) -> None:
    table = opened(tmp_path / "t.csv", ["NA", "EU", "AS", "NA"] * count)
    assert table.columns[1].info.missing == 2 * count
    assert settling(table)[0] == "no value '' in v"
    assert any("'NA' stands among its codes" in said for said in sentences(table))
    kept = opened(tmp_path / "t.csv", ["NA", "EU", "AS", "NA"] * count, settling(table)[0])
    assert (kept.columns[1].info.missing, texts(kept)[0], settling(kept)) == (0, "NA", [])


@pytest.mark.parametrize(
    "values", [["NA", "1", "2"], ["NA", "larch", "oak"], ["", "EU", "AS"], ["NA", "NA"], ["NA", "A-1"]]
)
def test_a_missing_value_among_other_things_is_no_code(tmp_path: Path, values: list[str]) -> None:
    assert settling(opened(tmp_path / "t.csv", values * 3)) == []


@pytest.mark.parametrize("count", [1, 3000])
def test_thousands_or_decimals_stay_text_and_either_meaning_has_its_line(tmp_path: Path, count: int) -> None:
    values = ["1,234", "25,500", "7,125"] + [f"{n % 90 + 1},{n % 900 + 100}" for n in range(count)]
    table = opened(tmp_path / "t.csv", values)
    assert table.columns[1].kind == "text"
    decimal, thousands = settling(table)
    assert texts(opened(tmp_path / "t.csv", values, decimal))[:3] == ["1.234", "25.5", "7.125"]
    assert texts(opened(tmp_path / "t.csv", values, thousands))[:3] == ["1234", "25500", "7125"]


@pytest.mark.parametrize(
    ("values", "numbers", "said"),
    [
        (["€ 12.50", "3 €", "-€1", "€-2.5"], ["12.5", "3", "-1", "-2.5"], "a €"),
        (["12 %", "0.5%", "-3 %"], ["12", "0.5", "-3"], "a % (12 % is 12, not 0.12)"),
        (["(1.5)", "2", "($3.25)"], ["-1.5", "2", "-3.25"], "a $, brackets for a minus"),
        (["1.5-", "2", "3-"], ["-1.5", "2", "-3"], "the minus behind"),
        (["EUR 5", "7 EUR"], ["5", "7"], "the letters of a currency"),
    ],
)
def test_numbers_as_people_write_them_are_numbers_when_declared(
    tmp_path: Path, values: list[str], numbers: list[str], said: str
) -> None:
    table = opened(tmp_path / "t.csv", values)
    assert table.columns[1].kind == "text"
    assert settling(table) == ["kind v number"]
    declared = opened(tmp_path / "t.csv", values, "kind v number")
    assert texts(declared) == numbers
    assert declared.columns[1].info.set_aside == 0
    assert f"v: its numbers are read without {said}" in declared.info.notes


@given(
    st.decimals(-10_000, 10_000, places=2),
    st.sampled_from(["{} €", "€{}", "$ {}", "{}%", "{} %", "({})", "{}-", "-{}", "-£{}", "({} €)", "EUR {}"]),
)
def test_any_number_in_any_dress(number: object, dress: str) -> None:
    bare = str(number).lstrip("-")
    below = any(mark in dress for mark in "(-")
    assert decorated_number(dress.format(bare), ".") == (-1 if below else 1) * float(bare)
    assert dress in ("-{}",) or marks_around(dress.format(bare))


@pytest.mark.parametrize(
    "text", ["", "€", "12 kg", "%5", "€€5", "(5", "--5", "-5-", "(-5)", "5 % %", "a", "()", "12€5"]
)
def test_what_is_no_number_stays_none(text: str) -> None:
    assert decorated_number(text, ".") is None
