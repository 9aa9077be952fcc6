"""Files as programs and people make them: titles above the header, totals and notes below, rows of separators."""

from __future__ import annotations

import csv
import io
import random
from collections import Counter
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.language.syntax.source_lines import parse_sub_line, sub_line_text
from yardcut.core.sources.delimited_blocks.dropped import ABOVE, BELOW, BLANK, read_dropped
from yardcut.core.sources.form.preview import read_preview
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

ROWS = "".join(f"T-{n:05},{n % 7},{n / 4}\n" for n in range(400))


def opened(path: Path, content: str, *lines: str) -> Table:
    path.write_text(content)
    return open_table(SourceSpec((str(path),), tuple(map(parse_sub_line, lines))))


def dropped(table: Table) -> Counter[str]:
    return Counter(row.reason for _, row in read_dropped(table.folder))


def names(table: Table) -> list[str]:
    return [column.name for column in table.columns]


@pytest.mark.parametrize(
    "titles",
    [
        "Yard report 2031\nmade by hand, on Monday\n\n",
        "Yard report 2031\nmade by hand, on Monday\n",
        "Yard report 2031,,\nmade by hand,on Monday,\n,,\n",
        '"Yard report, of 2031"\n"made by hand, on Monday"\n',
        "Yard report, 2031, draft\n",
        "Yard report,2031,draft\n",
        "Yard report, of 2031, a draft\n\n",
        "a, b, c, d, e\n",
        "".join(f"line {n}, of many\n" for n in range(60)),
        "\n\n,,\nYard report\n,,\n\n",
    ],
)
def test_titles_above_the_header_are_none_of_the_table(tmp_path: Path, titles: str) -> None:
    content = titles + "ticket,grade,length\n" + ROWS
    table = opened(tmp_path / "t.csv", content)
    assert names(table) == ["ticket", "grade", "length"]
    assert table.rows == 400
    assert [column.kind for column in table.columns] == ["text", "integer", "number"]
    written = [line for line in titles.splitlines() if line.strip(",")]
    assert dropped(table)[ABOVE] == len(written)
    preview = read_preview(tmp_path / "t.csv")
    assert (preview.names, preview.rows[0]) == (names(table), ["T-00000", "0", "0.0"])


@pytest.mark.parametrize(
    "footers",
    [
        "Total,,39800\n",
        "\nTotal,1197,39800\n",
        "total,,\nend of report\n",
        "\nmade by hand, on Monday\nNotes: nothing, really, to say\n",
        ",,\nend of report,,\n",
        "* measured wet\n** measured dry\n",
        "Printed on Monday,,\n",
        "\nsome words,of a note,by hand\n",
    ],
)
def test_totals_and_notes_below_the_table_are_none_of_it(tmp_path: Path, footers: str) -> None:
    content = "ticket,grade,length\n" + ROWS + footers
    table = opened(tmp_path / "f.csv", content)
    assert table.rows == 400
    assert [column.kind for column in table.columns] == ["text", "integer", "number"]
    assert dropped(table)[BELOW] == len([line for line in footers.splitlines() if line.strip(",")])
    assert {row.line for _, row in read_dropped(table.folder)} <= set(range(402, 405))
    kept = opened(tmp_path / "f.csv", content, "form footer 0")
    assert dropped(kept)[BELOW] == 0


def test_a_short_table_loses_no_row_that_is_one(tmp_path: Path) -> None:
    for last in ("T-9,,\n", "Totals of oak,3,4.5\n", "End grain,3,4.5\n", "T-9,3,\n", "Note paper,1,1\n", ",,7\n"):
        table = opened(tmp_path / "t.csv", "ticket,grade,length\nT-1,3,4.5\nT-2,4,5.5\n" + last)
        assert table.rows == 3, last


def test_the_rows_at_the_end_can_be_counted_out(tmp_path: Path) -> None:
    assert sub_line_text(parse_sub_line("form footer 2")) == "form footer 2"
    table = opened(tmp_path / "f.csv", "a,b\n1,2\n3,4\n5,6\n\n", "form footer 2")
    assert table.rows == 1
    assert [row.line for _, row in read_dropped(table.folder)] == [3, 4, 5]


def test_footers_are_found_across_the_end_of_a_block(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", 4096)
    for size in range(3990, 4110, 7):
        content = "ticket,grade,length\n" + ROWS
        content = content[: content.rfind("\n", 0, size) + 1] + "\nTotal,,39800\nend of report\n"
        table = opened(tmp_path / f"{size}.csv", content)
        assert dropped(table)[BELOW] == 2
        assert table.rows == content.count("T-")


@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_rows_of_nothing_but_separators_are_blank(tmp_path: Path, delimiter: str) -> None:
    content = "a,b,c\n1,2,x\n,,\n3,4,y\n,,,,,\n,\n ,\n5,6,z\n,,\n\n".replace(",", delimiter)
    table = opened(tmp_path / "blank.csv", content)
    assert (table.rows, dropped(table)) == (3, Counter({BLANK: 6}))
    assert [row.line for _, row in read_dropped(table.folder)] == [3, 5, 6, 7, 9, 10]


def test_a_header_of_another_width_is_the_header(tmp_path: Path) -> None:
    rows = "".join(f"{n},w{n},{n / 2},\n" for n in range(50))
    ends = opened(tmp_path / "e.csv", "a,b,c\n" + rows)
    assert (ends.rows, names(ends)) == (50, ["a", "b", "c", "column_4"])
    more = opened(tmp_path / "m.csv", "a,b,c,\n" + rows.replace(",\n", "\n"))
    assert (more.rows, names(more)) == (50, ["a", "b", "c"])


def test_rows_that_end_with_their_last_value_are_filled(tmp_path: Path) -> None:
    rows = [[str(n), f"w{n}", "", "x" if n % 9 == 0 else ""] for n in range(200)]
    written = "".join(",".join(row).rstrip(",") + "\n" for row in rows)
    table = opened(tmp_path / "r.csv", "a,b,c,d\n" + written)
    assert (table.rows, dropped(table)) == (200, Counter())
    assert table.columns[3].slice(0, 10).texts()[::9] == ["x", "x"]
    assert len(read_preview(tmp_path / "r.csv").rows) > 100


def test_lines_of_text_with_commas_are_lines_of_text(tmp_path: Path) -> None:
    lines = ["note", *(f"tree {n}" if n % 3 else f"tree {n}, by the wall, late" for n in range(100))]
    table = opened(tmp_path / "lines.txt", "\n".join(lines) + "\n")
    assert table.rows == 100
    assert table.columns[0].slice(0, 1).texts() == ["tree 0, by the wall, late"]


WORDS = st.sampled_from(
    ["yard", "report of the yard", "oak, larch", "made on Monday, by hand", "", "2031", "a; b", "—"]
)


@settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    titles=st.lists(WORDS, max_size=6),
    gap=st.booleans(),
    width=st.integers(3, 6),
    rows=st.integers(4, 60),
    delimiter=st.sampled_from([",", ";", "\t", "|"]),
    seed=st.integers(0, 999),
)
def test_any_titles_above_any_table(
    tmp_path: Path, titles: list[str], gap: bool, width: int, rows: int, delimiter: str, seed: int
) -> None:
    chance = random.Random(seed)
    table = [
        [f"T{n:04}", str(chance.randrange(500)), *(f"{chance.random():.3f}" for _ in range(width - 2))]
        for n in range(rows)
    ]
    header = ["ticket", "grade", *(f"m{n}" for n in range(width - 2))]
    file = io.StringIO()
    csv.writer(file, delimiter=delimiter, lineterminator="\n").writerows([header, *table])
    # a title of just the table's width, without a gap, can be any header row
    titles = [title for title in titles if title.count(delimiter) != width - 1]
    above = "".join(f"{title}\n" for title in titles) + ("\n" if gap and titles else "")
    found = opened(tmp_path / "any.csv", above + file.getvalue())
    assert names(found) == header
    cells = zip(*(column.slice(0, found.rows).texts() for column in found.columns), strict=True)
    read = [[row[0], int(row[1]), *map(float, row[2:])] for row in cells]  # type: ignore[arg-type]
    assert read == [[row[0], int(row[1]), *map(float, row[2:])] for row in table]


@pytest.mark.parametrize("gap", [[], [[None]]])
@pytest.mark.parametrize("footer", [[], [["Total", None, 12.0]], [[None], ["Notes: wet"], ["end of report"]]])
def test_a_worksheet_is_judged_as_a_text_file_is(
    tmp_path: Path, gap: list[list[object]], footer: list[list[object]]
) -> None:
    import openpyxl

    book = openpyxl.Workbook()
    titles: list[list[object]] = [["Yard report 2031"], ["made by hand", "on Monday"]]
    above = [*titles, *gap, ["ticket", "grade", "length"]]
    for row in [*above, *([f"T-{n}", n, n / 2] for n in range(30)), [None], *footer]:
        book.active.append(row)
    book.save(tmp_path / "t.xlsx")
    table = open_table(tmp_path / "t.xlsx")
    assert (names(table), table.rows) == (["ticket", "grade", "length"], 30)
    found = dropped(table)
    assert found[ABOVE] == 2
    assert found[BELOW] == len([row for row in footer if row != [None]])


@settings(max_examples=examples(60), deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(seed=st.integers(0, 10**6), missing=st.sampled_from([0, 0.1, 0.5, 0.9]), blank=st.sampled_from([0, 0.1]))
def test_no_ordinary_table_loses_a_row(tmp_path: Path, seed: int, missing: float, blank: float) -> None:
    chance = random.Random(seed)
    make = [
        lambda: str(chance.randint(0, 999)),
        lambda: f"{chance.random() * 99:.2f}",
        lambda: f"T{chance.randint(0, 99)}",
        lambda: f"2031-{chance.randint(1, 12):02}-{chance.randint(1, 28):02}",
        lambda: chance.choice(["oak", "larch", "nice wood", "end grain", "A", "NA", "1 st", "x-9", "sourwood"]),
    ]
    columns = [chance.choice(make) for _ in range(chance.randint(2, 7))]
    drawn = [["" if chance.random() < missing else cell() for cell in columns] for _ in range(chance.randint(1, 40))]
    rows = [row for row in drawn if any(row)]
    header = [f"c{number}" for number in range(len(columns))]
    lines = [line for row in rows for line in (",".join(row), *[""] * (chance.random() < blank))]
    table = opened(tmp_path / "t.csv", "\n".join([",".join(header), *lines]) + "\n")
    assert names(table) == header
    assert table.rows == len(rows)
    assert set(dropped(table)) <= {BLANK}


@pytest.mark.parametrize("ending", ["\n", "\r\n", "\r"])
@pytest.mark.parametrize("encoding", ["utf-8", "utf-16", "cp1252"])
def test_line_ends_and_encodings_change_nothing(tmp_path: Path, ending: str, encoding: str) -> None:
    content = "Yard report\nmade by hand, on Monday\n\nticket,grade,length\n" + ROWS + "\nTotal,,7\n"
    (tmp_path / "t.csv").write_bytes(content.replace("\n", ending).encode(encoding))
    table = open_table(tmp_path / "t.csv")
    assert (names(table), table.rows) == (["ticket", "grade", "length"], 400)
    assert dropped(table) == Counter({ABOVE: 2, BELOW: 1, BLANK: 1})
    assert len(read_preview(tmp_path / "t.csv").rows) > 150


@pytest.mark.parametrize("above", [",,\n", "\n\n", "\n,,\n"])
def test_rows_without_a_header_below_blank_ones(tmp_path: Path, above: str) -> None:
    table = opened(tmp_path / "t.csv", above + "x,1,2\ny,2,3\nz,3,4\n")
    assert (names(table), table.rows) == (["column_1", "column_2", "column_3"], 3)
