"""Files of typed columns in which several have one name: each is read as itself."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardcut.core.sources.opening_sources import open_table


@pytest.mark.parametrize("ending", ["arrow", "parquet"])
def test_columns_of_one_name_are_each_themselves(tmp_path: Path, ending: str) -> None:
    import pyarrow as pa
    from pyarrow import parquet

    path = tmp_path / f"packs.{ending}"
    table = pa.table([pa.array([1, 2]), pa.array(["x", "y"]), pa.array([3, 4])], names=["a", "a", "b"])
    if ending == "parquet":
        parquet.write_table(table, path)
    else:
        with pa.ipc.new_file(str(path), table.schema) as writer:
            writer.write_table(table)
    opened = open_table(path)
    assert [column.name for column in opened.columns] == ["a", "a_2", "b"]
    assert [column.slice(0, 2).texts() for column in opened.columns] == [["1", "2"], ["x", "y"], ["3", "4"]]
