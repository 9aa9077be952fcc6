"""Random hostile files in every form we read, cell for cell against the standard library's csv module."""

from __future__ import annotations

import csv
import gzip
import io
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from thoroughness import examples
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.sources.delimited_blocks.dropped import BLANK, TOO_FEW, TOO_MANY, read_dropped
from yardcut.core.sources.formats import delimited
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table

CELLS = st.text(st.sampled_from("ab1 é木,;|\t\"\n\r'-"), max_size=6)
FORMS = st.fixed_dictionaries(
    {
        "delimiter": st.sampled_from([",", ";", "\t", "|"]),
        "quote": st.sampled_from(['"', "'"]),
        "encoding": st.sampled_from(["utf-8", "utf-8-sig", "utf-16"]),
        "ending": st.sampled_from(["\n", "\r\n"]),
        "packed": st.booleans(),
        "block": st.sampled_from([64, 1000, 1 << 21]),
    }
)


def text_of(rows: list[list[str]], form: dict[str, object]) -> str:
    file = io.StringIO(newline="")
    writer = csv.writer(
        file, delimiter=str(form["delimiter"]), quotechar=str(form["quote"]), lineterminator=str(form["ending"]),
        quoting=csv.QUOTE_ALL,
    )  # fmt: skip
    writer.writerows(rows)
    return file.getvalue()


def opened(path: Path, text: str, form: dict[str, object], *lines: str) -> Table:
    data = text.encode(str(form["encoding"]))
    path.write_bytes(gzip.compress(data) if form["packed"] else data)
    said = [
        "form delimiter " + ("'\\t'" if form["delimiter"] == "\t" else f"'{form['delimiter']}'"),
        "form quote '''' " if form["quote"] == "'" else "form quote '\"'",
        f"form encoding '{form['encoding']}' header yes skip 0 comment '' footer 0",
        "kind * text",
        "no value ''",
    ]
    return open_table(SourceSpec((str(path),), tuple(map(parse_sub_line, (*said, *lines)))))


def cells(table: Table) -> list[list[str | None]]:
    columns = [column.slice(0, table.rows).texts() for column in table.columns]
    return [list(row) for row in zip(*columns, strict=True)]


@settings(max_examples=examples(80), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(form=FORMS, data=st.data())
def test_every_cell_of_every_form_is_what_the_csv_module_reads(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, form: dict[str, object], data: st.DataObject
) -> None:
    width = data.draw(st.integers(2, 4))
    rows = data.draw(st.lists(st.lists(CELLS, min_size=width, max_size=width), min_size=1, max_size=12))
    rows = [row for row in rows if row != [f"c{place}" for place in range(width)]]
    text = text_of([[f"c{place}" for place in range(width)], *rows], form)
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", form["block"])
    monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 1)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=str(form["delimiter"]), quotechar=str(form["quote"]))
    expected = [[cell or None for cell in row] for row in list(reader)[1:]]
    assert cells(opened(tmp_path / "any", text, form)) == expected


@settings(max_examples=examples(60), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    lines=st.lists(st.sampled_from(["1,a", "2,b,c", "3", "", "4,d", '5,"x\ny"', ",", "6,e,f,g"]), max_size=25),
    block=st.sampled_from([32, 1 << 21]),
    ending=st.sampled_from(["\n", "\r\n"]),
)
def test_every_line_is_a_row_or_a_dropped_row_with_its_place(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, lines: list[str], block: int, ending: str
) -> None:
    monkeypatch.setattr(delimited, "_BLOCK_BYTES", block)
    monkeypatch.setattr(delimited, "_BLOCK_BYTES_PER_COLUMN", 1)
    path = tmp_path / "rows.csv"
    lines = ["7,g"] * (len(lines) + 1) + lines  # most rows are rows
    path.write_bytes(("n,w" + ending + "".join(line + ending for line in lines)).encode())
    said = tuple(map(parse_sub_line, ("kind * text", "form delimiter ',' header yes skip 0 comment '' footer 0")))
    table = open_table(SourceSpec((str(path),), said))
    kept, expected, at = [], [], 2
    for line in lines:
        cells_there = line.count(",") + 1
        if line in ("", ","):
            expected.append((BLANK, at))
        elif cells_there != 2:
            expected.append((TOO_MANY if cells_there > 2 else TOO_FEW, at))
        else:
            kept.append(line.split(",", 1)[0] or None)
        at += 1 + line.count("\n")
    assert [row[0] for row in cells(table)] == kept
    assert [(row.reason, row.line) for _, row in read_dropped(table.folder)] == expected


@settings(max_examples=examples(40), suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(
    columns=st.lists(st.sets(st.sampled_from("abcde"), min_size=1), min_size=1, max_size=4),
    rows=st.integers(0, 5),
    orders=st.randoms(use_true_random=False),
)
def test_a_stack_is_what_dictionaries_by_name_give(
    tmp_path: Path, columns: list[set[str]], rows: int, orders: object
) -> None:
    expected: list[dict[str, str]] = []
    names: list[str] = []
    files = []
    for number, some in enumerate(columns):
        header = sorted(some)
        orders.shuffle(header)  # type: ignore[attr-defined]
        path = tmp_path / f"{number}.csv"
        body = [{name: f"{name}{number}{row}" for name in header} for row in range(rows)]
        path.write_text("\n".join([",".join(header), *(",".join(row.values()) for row in body)]) + "\n")
        expected += body
        names += [name for name in header if name not in names]
        files.append(str(path))
    table = open_table(SourceSpec(tuple(files), (parse_sub_line("kind * text"), parse_sub_line("form header yes"))))
    assert [column.name for column in table.columns] == names
    assert cells(table) == [[row.get(name) for name in names] for row in expected]
