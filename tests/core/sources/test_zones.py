"""Times with a zone: read, shown, compared, written and read again, against the standard library's clock."""

from __future__ import annotations

import datetime
from pathlib import Path
from zoneinfo import ZoneInfo

import pyarrow as pa
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pyarrow import parquet

from helpers import run_lines
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError
from yardcut.core.expressions.frame import Frame, source_frame, source_scope
from yardcut.core.profile.summary import summarise
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.rowset import RowSet
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import format_instant, format_offset, parse_instant
from yardcut.core.writers.formats.parquet import write_parquet
from yardcut.core.writers.plans import plan_of

ZONE = "Europe/Berlin"
# the clock goes back in the second night: the same hour comes twice
FIRST = datetime.datetime(2031, 10, 25, 22, 30, tzinfo=datetime.UTC)
INSTANTS = [FIRST + datetime.timedelta(minutes=30 * step) for step in range(8)]


def write(path: Path, zone: str = ZONE, unit: str = "us") -> Path:
    table = pa.table({"n": list(range(9)), "at": pa.array([*INSTANTS, None], pa.timestamp(unit, zone))})
    parquet.write_table(table, path)
    return path


@pytest.fixture
def table(tmp_path: Path) -> Table:
    return open_table(write(tmp_path / "z.parquet"))


def first_answer(table: Table, line: str) -> RowSet:
    """Return the rows of a line over columns that were not read yet."""
    return list(Executor(LocalRunner(table)).run(Cut("", (Line(line),)), CancelToken()))[-1].rows


def local(zone: str) -> list[str]:
    return [moment.astimezone(ZoneInfo(zone)).isoformat(sep=" ") for moment in INSTANTS]


def test_instants_are_shown_on_the_clock_of_their_zone(table: Table) -> None:
    column = table.columns[1]
    assert column.kind is Kind.INSTANT
    expected = (*local(ZONE), None)
    assert source_frame(table).page(0, 9, [1]).cells == (expected,)
    column.load()
    assert tuple(column.slice(0, 9).texts()) == expected
    assert column.info.zone == ZONE
    found = summarise(source_frame(table).columns[1], RowSet(9), LocalRunner(table), CancelToken())
    assert (found.least, found.most, found.missing) == (expected[0], expected[7], 1)


@pytest.mark.parametrize("unit", ["s", "ms", "ns"])
def test_any_unit_and_a_fixed_offset(tmp_path: Path, unit: str) -> None:
    column = open_table(write(tmp_path / "z.parquet", "+05:30", unit)).columns[1]
    assert column.slice(0, 1).texts() == ["2031-10-26 04:00:00+05:30"]


def test_comparing_and_ordering_go_by_the_instant(table: Table) -> None:
    def ids(*lines: str) -> list[int]:
        rows = run_lines(table, *lines)[-1].rows
        return rows.ids(0, rows.count).tolist()

    shown = local(ZONE)
    assert shown[3][:16] == shown[5][:16]  # the hour that comes twice
    assert ids(f"keep at = '{shown[5]}'") == [5]
    assert ids(f"keep at < TIMESTAMP '{shown[5]}'") == [0, 1, 2, 3, 4]
    assert ids("keep at >= TIMESTAMP '2031-10-26T01:00:00Z'") == [5, 6, 7]
    assert ids(f"keep at BETWEEN '{shown[1]}' AND TIMESTAMP '{shown[2]}'") == [1, 2]
    assert ids("order at DESC NULLS FIRST") == [8, 7, 6, 5, 4, 3, 2, 1, 0]
    assert ids("draw bottom 2 by at") == [0, 1]


@pytest.mark.parametrize(
    "expression",
    [
        "EXTRACT(HOUR FROM at)",
        "EXTRACT(HOUR FROM COALESCE(at, at))",
        "EXTRACT(HOUR FROM CASE WHEN n > 3 THEN at END)",
        "EXTRACT(HOUR FROM NULLIF(at, TIMESTAMP '2031-10-25 22:30:00Z'))",
        "EXTRACT(HOUR FROM at + INTERVAL '90' MINUTE)",
        "EXTRACT(HOUR FROM GREATEST(at, at + INTERVAL '1' DAY))",
        "CAST(at AS text)",
        "CAST(CASE WHEN n > 3 THEN at END AS text)",
    ],
)
def test_a_clock_is_the_same_wherever_it_is_read(tmp_path: Path, expression: str) -> None:
    table = open_table(write(tmp_path / "z.parquet"))
    made = run_lines(table, f"make found = {expression}")[-1].frame
    # read from the page, from the stored column and, in a condition, straight from the file
    (page,) = made.page(0, 9, [2]).cells
    for found in {cell for cell in page if cell is not None}:
        wanted = [row for row, cell in enumerate(page) if cell == found]
        constant = f"'{found}'" if expression.startswith("CAST") else found
        unread = open_table(write(tmp_path / f"{wanted[0]}.parquet"))
        rows = first_answer(unread, f"keep {expression} = {constant}")
        assert rows.ids(0, rows.count).tolist() == wanted
    table.columns[1].load()
    assert run_lines(table, f"make found = {expression}")[-1].frame.page(0, 9, [2]).cells == (page,)
    at = [None if moment is None else moment.astimezone(ZoneInfo(ZONE)) for moment in [*INSTANTS, None]]
    if expression == "EXTRACT(HOUR FROM at)":
        assert page == tuple(None if moment is None else str(moment.hour) for moment in at)
    if expression == "CAST(at AS text)":
        assert page == (*local(ZONE), None)


def test_a_value_chosen_of_one_zone_is_shown_and_written_in_it(table: Table, tmp_path: Path) -> None:
    lines = ("make some = CASE WHEN n > 3 THEN at END, later = GREATEST(at, at + INTERVAL '1' HOUR)",)
    frame = run_lines(table, *lines)[-1].frame
    shown = local(ZONE)
    assert frame.page(0, 9, [2]).cells == ((None, None, None, None, *shown[4:], None),)
    write_parquet(frame, tmp_path / "out.parquet", plan_of(Path("x.parquet")), CancelToken(), Progress())
    found = parquet.read_table(tmp_path / "out.parquet")
    assert found.schema.field("some").type == found.schema.field("later").type == pa.timestamp("us", ZONE)


@pytest.mark.parametrize(
    "line",
    [
        "keep at > '2031-10-26'",
        "keep at > TIMESTAMP '2031-10-26 00:00:00'",
        "keep at = 5",
        "keep at > DATE '2031-10-26'",
    ],
)
def test_a_time_without_an_offset_is_not_compared_with_one(table: Table, line: str) -> None:
    with pytest.raises(ListError, match="instant"):
        bind_line(line, source_scope(table))


def test_a_slice_keeps_the_zone(table: Table, tmp_path: Path) -> None:
    columns = source_scope(table).shown
    plan = plan_of(Path("x.parquet"))
    write_parquet(Frame(table, RowSet(9), columns), tmp_path / "out.parquet", plan, CancelToken(), Progress())
    found = parquet.read_table(tmp_path / "out.parquet")
    assert found.schema.field("at").type == pa.timestamp("us", ZONE)
    written = [None if moment is None else moment.timestamp() for moment in found.column("at").to_pylist()]
    assert written == [*(moment.timestamp() for moment in INSTANTS), None]


def test_files_of_different_zones_are_shown_in_utc(tmp_path: Path) -> None:
    spec = SourceSpec.of(write(tmp_path / "a.parquet"), write(tmp_path / "b.parquet", "America/New_York"))
    column = open_table(spec).columns[1]
    assert column.slice(0, 1).texts() == column.slice(9, 10).texts() == ["2031-10-25 22:30:00+00:00"]
    column.load()
    assert column.info.zone == "UTC"


@given(st.datetimes(datetime.datetime(1900, 1, 1), datetime.datetime(2200, 1, 1)), st.integers(-840, 840))
def test_text_and_instant_come_back(moment: datetime.datetime, minutes: int) -> None:
    zone = datetime.timezone(datetime.timedelta(minutes=minutes))
    micros = (moment - datetime.datetime(1970, 1, 1)) // datetime.timedelta(microseconds=1)
    text = moment.replace(tzinfo=datetime.UTC).astimezone(zone).isoformat(sep=" ")
    assert parse_instant(text) == (micros, minutes)
    assert format_offset(micros, minutes) == text
    assert format_instant(micros, text[-6:]) == text
    assert format_instant(micros, "Nowhere/Nothing") == moment.replace(tzinfo=datetime.UTC).isoformat(sep=" ")
