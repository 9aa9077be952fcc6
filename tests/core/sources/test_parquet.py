"""Parquet against what pyarrow wrote."""

import datetime
import decimal
from pathlib import Path

import pyarrow as pa
from pyarrow import parquet

from yardcut.core.sources.opening_sources import open_table
from yardcut.core.values.kinds import Kind


def test_kinds_and_cells_of_a_parquet_file(tmp_path: Path) -> None:
    day = datetime.date(2031, 3, 1)
    instant = datetime.datetime(2031, 3, 1, 14, 30)
    table = pa.table(
        {
            "text": pa.array(["oak", None, "é"]),
            "coded": pa.array(["a", "b", None]).dictionary_encode(),
            "whole": pa.array([1, None, 2**62], pa.int64()),
            "small": pa.array([1, 2, None], pa.uint8()),
            "real": pa.array([1.5, float("nan"), None]),
            "exact": pa.array([decimal.Decimal("1.25"), None, decimal.Decimal("3.00")]),
            "flag": pa.array([True, None, False]),
            "day": pa.array([day, None, day]),
            "instant": pa.array([instant, None, instant], pa.timestamp("ms")),
            "listed": pa.array([[1, 2], None, []]),
        }
    )
    parquet.write_table(table, tmp_path / "t.parquet", row_group_size=2)
    opened = open_table(tmp_path / "t.parquet")
    found = {column.name: (column.kind, column.slice(0, 3).texts()) for column in opened.columns}
    assert found == {
        "text": (Kind.TEXT, ["oak", None, "é"]),
        "coded": (Kind.TEXT, ["a", "b", None]),
        "whole": (Kind.INTEGER, ["1", None, str(2**62)]),
        "small": (Kind.INTEGER, ["1", "2", None]),
        "real": (Kind.NUMBER, ["1.5", None, None]),
        "exact": (Kind.NUMBER, ["1.25", None, "3"]),
        "flag": (Kind.BOOLEAN, ["true", None, "false"]),
        "day": (Kind.DATE, ["2031-03-01", None, "2031-03-01"]),
        "instant": (Kind.TIMESTAMP, ["2031-03-01 14:30:00", None, "2031-03-01 14:30:00"]),
        "listed": (Kind.TEXT, ["[1, 2]", None, "[]"]),
    }
