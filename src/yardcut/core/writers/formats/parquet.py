"""Writing Parquet: each kind as the format's own type, missing values as nulls."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from yardcut.core.expressions.frame import Frame, rows_at_once
from yardcut.core.expressions.zones import zone_of
from yardcut.core.formats import CARRIED
from yardcut.core.language.save_options import COMPRESSION, GROUP_ROWS
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.vectors import CodedVector, NumericVector, Vector
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind
from yardcut.core.writers.plans import Plan

_ROW_GROUP_ROWS = 1 << 18
_ROW_GROUP_CELLS = 1 << 24


def _arrow_type(kind: Kind, zone: str = "") -> Any:
    import pyarrow as pa

    return {
        Kind.TEXT: pa.string(),
        Kind.INTEGER: pa.int64(),
        Kind.NUMBER: pa.float64(),
        Kind.BOOLEAN: pa.bool_(),
        Kind.DATE: pa.date32(),
        Kind.TIMESTAMP: pa.timestamp("us"),
        Kind.TIME: pa.time64("us"),
        Kind.INSTANT: pa.timestamp("us", zone or "UTC"),
    }[kind]


def write_parquet(piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress) -> None:
    """Write a slice as one Parquet file."""
    import pyarrow as pa
    from pyarrow import parquet

    schema = arrow_schema(piece, plan.carries)
    usual = rows_at_once(len(piece.columns), _ROW_GROUP_ROWS, _ROW_GROUP_CELLS)
    rows = min(piece.rows.count or 1, plan.options[GROUP_ROWS] or usual)
    with parquet.ParquetWriter(path, schema, compression=plan.options[COMPRESSION] or "zstd") as writer:
        for _, vectors in piece.blocks(token, progress, rows):
            batch = pa.record_batch(arrow_arrays(vectors), schema=schema)
            writer.write_batch(batch, row_group_size=rows)


def arrow_schema(piece: Frame, carries: str = "") -> Any:
    """Return the schema of a slice: names, each kind as Arrow's own type, and the list it carries as metadata."""
    import pyarrow as pa

    zones = [zone_of(column.value, piece.table) for column in piece.columns]
    pairs = zip(piece.columns, zones, strict=True)
    fields = [pa.field(column.name, _arrow_type(column.kind, zone)) for column, zone in pairs]
    return pa.schema(fields, {CARRIED: carries.encode("utf-8", "surrogatepass")} if carries else None)


def arrow_arrays(vectors: Sequence[Vector]) -> list[Any]:
    """Return vectors as Arrow arrays, missing values as nulls."""
    return [_array(vector) for vector in vectors]


def _array(vector: Vector) -> Any:
    import pyarrow as pa

    wanted = _arrow_type(vector.kind, vector.zone if isinstance(vector, NumericVector) else "")
    vector = vector.in_use() if isinstance(vector, CodedVector) else vector
    mask = vector.missing_mask()
    if isinstance(vector, CodedVector):
        codes = pa.array(vector.codes.astype(np.int32), mask=mask)
        return pa.DictionaryArray.from_arrays(codes, pa.array(vector.dictionary.texts, pa.string())).dictionary_decode()
    if isinstance(vector, NumericVector):
        if vector.kind is Kind.BOOLEAN:
            return pa.array(vector.values != 0, wanted, mask=mask)
        return pa.array(vector.values.astype(STORAGE_DTYPE[vector.kind]), wanted, mask=mask)
    return pa.array(vector.texts(), wanted)


def list_in(schema: Any) -> str | None:
    """Return the list that a schema carries."""
    found = (schema.metadata or {}).get(CARRIED.encode())
    return None if found is None else str(found.decode("utf-8", "surrogatepass"))


def carried_list(path: Path) -> str | None:
    """Return the list that a Parquet file carries."""
    from pyarrow import parquet

    return list_in(parquet.read_schema(path))


def count_rows(path: Path, plan: Plan) -> int:
    """Read a Parquet file's footer back and count its rows."""
    from pyarrow import parquet

    return int(parquet.read_metadata(path).num_rows)
