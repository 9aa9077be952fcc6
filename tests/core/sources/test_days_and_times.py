"""Days, moments, instants and times of day as files write them, against the datetime module."""

from __future__ import annotations

import datetime
from pathlib import Path

import pyarrow as pa
import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pyarrow import parquet

from helpers import run_lines
from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

DAY = datetime.date(2031, 3, 14)


def opened(path: Path, values: list[str], *lines: str) -> Table:
    path.write_text("n;at\n" + "".join(f'{n};"{value}"\n' for n, value in enumerate(values)))
    return open_table(SourceSpec((str(path),), tuple(map(parse_sub_line, ("form delimiter ';'", *lines)))))


def texts(table: Table) -> list[str | None]:
    return table.columns[1].slice(0, table.rows).texts()


def moments(count: int) -> list[datetime.datetime]:
    start = datetime.datetime(2031, 3, 14, 13, 5, 9)
    return [start + datetime.timedelta(days=n, hours=n, seconds=n) for n in range(count)]


@pytest.mark.few(18)
@pytest.mark.parametrize("count", [40, 3000])
@pytest.mark.parametrize(
    ("written", "kind"),
    [
        ("%Y-%m-%d", Kind.DATE), ("%-d.%-m.%Y", Kind.DATE), ("%Y-%-m-%-d", Kind.DATE), ("%d.%m.%y", Kind.DATE),
        ("%-d %b %Y", Kind.DATE), ("%d-%b-%Y", Kind.DATE), ("%B %-d, %Y", Kind.DATE), ("%d. %B %Y", Kind.DATE),
        ("%d-%b-%y", Kind.DATE), ("%m/%d/%Y", Kind.DATE), ("%Y.%m.%d", Kind.DATE),
        ("%Y-%m-%d %H:%M", Kind.TIMESTAMP), ("%Y-%m-%dT%H:%M:%S", Kind.TIMESTAMP), ("%d.%m.%Y %H:%M:%S", Kind.TIMESTAMP),
        ("%Y%m%dT%H%M%S", Kind.TIMESTAMP), ("%b %d %Y %H:%M", Kind.TIMESTAMP), ("%Y-%m-%dT%H:%M:%S.250", Kind.TIMESTAMP),
        ("%d/%m/%Y %H:%M:%S,5", Kind.TIMESTAMP), ("%Y-%m-%dT%H:%M:%S.123456000", Kind.TIMESTAMP),
        ("%Y-%m-%dT%H:%M:%SZ", Kind.INSTANT), ("%Y-%m-%d %H:%M:%S.5+02:00", Kind.INSTANT),
        ("%Y-%m-%dT%H:%M-0500", Kind.INSTANT), ("%H:%M", Kind.TIME), ("%-H:%M:%S", Kind.TIME), ("%H:%M:%S.125", Kind.TIME),
        ("%H:%M h", Kind.TEXT), ("KW %V", Kind.TEXT),
    ],
)  # fmt: skip
def test_a_column_that_fits_one_form_takes_its_kind(tmp_path: Path, written: str, kind: Kind, count: int) -> None:
    some = moments(count)
    table = opened(tmp_path / "t.csv", [moment.strftime(written) for moment in some])
    if written == "%d.%m.%y":
        assert table.info.notes == ("at: read as date 'DD.MM.YY'",)
    assert table.columns[1].kind is kind
    plain = {
        Kind.DATE: "%Y-%m-%d",
        Kind.TIMESTAMP: "%Y-%m-%d %H:%M",
        Kind.INSTANT: "%Y-%m-%d %H:%M",
        Kind.TIME: "%H:%M",
    }
    if kind in plain:
        shown = [
            str(text)[: len(moment.strftime(plain[kind]))] for text, moment in zip(texts(table), some, strict=True)
        ]
        assert shown == [moment.strftime(plain[kind]) for moment in some]
        assert table.columns[1].info.set_aside == 0


def test_offsets_that_differ_are_shown_in_utc_and_said(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", ["2031-03-01 10:00:00+02:00", "2031-03-01T10:00:00Z", "2031-03-01 10:00-01:30"])
    assert table.columns[1].kind is Kind.INSTANT
    assert texts(table) == ["2031-03-01 08:00:00+00:00", "2031-03-01 10:00:00+00:00", "2031-03-01 11:30:00+00:00"]
    assert "different offsets from UTC (+02:00, -01:30, UTC)" in " ".join(table.info.notes)


def test_one_offset_is_the_clock_of_the_column(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", ["2031-03-01 10:00:00+02:00", "2031-12-01 10:00:00+02:00"])
    assert texts(table) == ["2031-03-01 10:00:00+02:00", "2031-12-01 10:00:00+02:00"]
    assert len(run_lines(table, "keep at > TIMESTAMP '2031-03-01 08:00:00Z'")) == 1
    assert run_lines(table, "keep at > '2031-03-01T08:00:00Z'")[-1].rows.count == 1


@pytest.mark.parametrize(
    ("values", "said"),
    [
        (["2031-03-01 10:00", "2031-03-01 24:00"], "24:00 is 00:00 of the next day"),
        (["2031-03-01 10:00:00", "2031-03-01 23:59:60"], "leap second"),
        (["2031-03-01", "0000-03-01"], "no year 0"),
        (["2031-03-01", "2031-02-30"], "no day 30 in 2031-02"),
        (["14:05", "24:00"], "24:00 is 00:00 of the next day"),
        (["2031-03-01 10:00:00Z", "2031-03-01 10:00:00"], "look like instant and timestamp"),
        (["2031-03-01 10:00:00.123456789", "2031-03-01 10:00:00"], "finer than a microsecond"),
    ],
)
def test_what_no_calendar_and_no_clock_has_is_refused_by_name(tmp_path: Path, values: list[str], said: str) -> None:
    table = opened(tmp_path / "t.csv", values * 3)
    assert table.columns[1].kind is Kind.TEXT
    assert said in table.columns[1].info.doubt


def test_a_few_impossible_values_are_set_aside(tmp_path: Path) -> None:
    table = opened(tmp_path / "t.csv", ["14:05"] * 3000 + ["24:00"])
    assert table.columns[1].kind is Kind.TIME
    assert table.columns[1].info.set_aside_texts == (("24:00", 1),)


@pytest.mark.long
@settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(clocks=st.lists(st.times() | st.none(), min_size=1, max_size=30), bound=st.times())
def test_times_of_day_compare_and_come_back(
    tmp_path: Path, clocks: list[datetime.time | None], bound: datetime.time
) -> None:
    parquet.write_table(
        pa.table({"n": range(len(clocks)), "at": pa.array(clocks, pa.time64("us"))}), tmp_path / "t.parquet"
    )
    of_type = open_table(tmp_path / "t.parquet")
    of_text = opened(tmp_path / "t.csv", ["" if clock is None else clock.isoformat() for clock in clocks])
    wanted = [row for row, clock in enumerate(clocks) if clock is not None and clock > bound]
    for table in (of_type, of_text):
        if any(clocks) or table is of_type:
            rows = run_lines(table, f"keep at > '{bound.isoformat()}'")[-1].rows
            assert [int(row) for row in rows.ids(0, rows.count)] == wanted
            assert run_lines(table, f"drop at > TIME '{bound.isoformat()}'")[-1].rows.count == len(clocks) - len(wanted)
    assert of_type.columns[1].kind is Kind.TIME
    assert of_type.columns[1].take([0]).texts() == [None if clocks[0] is None else clocks[0].isoformat()]  # type: ignore[arg-type]


@pytest.mark.parametrize("kind", ["instant", "time"])
def test_the_kinds_can_be_declared(tmp_path: Path, kind: str) -> None:
    values = {"instant": "2031-03-01 10:00:00+02:00", "time": "14:05:00"}
    table = opened(tmp_path / "t.csv", ["?"] * 10 + [values[kind]] * 10, f"kind at {kind}", "no value '?'")
    assert table.columns[1].kind == kind
    assert texts(table)[9:11] == [None, values[kind]]


@pytest.mark.parametrize("count", [9, 3000])
def test_a_form_that_may_mean_two_days_stays_text_and_asks(tmp_path: Path, count: int) -> None:
    for values in (["01.02.2031", "03.04.2031"], ["01.02.03", "04.05.06"], ["1/2/31", "12/11/31"]):
        table = opened(
            tmp_path / "t.csv", [f"{values[n % 2]}{'' if count < 10 else f' 10:{n % 60:02}'}" for n in range(count)]
        )
        assert table.columns[1].kind is Kind.TEXT
        assert "say kind at" in table.columns[1].info.doubt
        for line in table.columns[1].info.settled_by:
            assert opened(tmp_path / "t.csv", [values[0]], line).columns[1].kind is not Kind.TEXT
