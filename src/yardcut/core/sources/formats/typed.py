"""Columns that come with types of their own: from Arrow arrays to what the store keeps."""

from __future__ import annotations

import datetime
from typing import Any

import numpy as np

from yardcut.core.sources.delimited_blocks.parsing_blocks import ColumnChunk, ColumnTask, convert_chunk
from yardcut.core.sources.kinds.decimals import decimal_parts
from yardcut.core.sources.kinds.far_days import days_and_instants, far_texts
from yardcut.core.sources.kinds.narrow_floats import as_doubles
from yardcut.core.sources.store.builders import numeric_parts, plain_parts
from yardcut.core.values.formatting import formatter
from yardcut.core.values.kinds import Kind


def kind_of(arrow_type: Any) -> Kind:
    """Return the kind a column of an Arrow type takes; what no kind holds exactly is text."""
    import pyarrow as pa

    types = pa.types
    if types.is_dictionary(arrow_type):
        return kind_of(arrow_type.value_type)
    if types.is_boolean(arrow_type):
        return Kind.BOOLEAN
    if types.is_integer(arrow_type) and arrow_type != pa.uint64():
        return Kind.INTEGER
    if types.is_floating(arrow_type) or types.is_decimal(arrow_type):
        return Kind.NUMBER
    if types.is_date(arrow_type):
        return Kind.DATE
    if types.is_timestamp(arrow_type):
        return Kind.TIMESTAMP if arrow_type.tz is None else Kind.INSTANT
    if types.is_time(arrow_type):
        return Kind.TIME
    return Kind.TEXT


def flat_column(name: str, array: Any) -> tuple[list[str], list[Any]]:
    """Return a column as itself, or a column of structures as the dotted columns it holds."""
    import pyarrow as pa

    table = pa.Table.from_arrays([array], [name])
    while any(pa.types.is_struct(field.type) for field in table.schema):
        table = table.flatten()
    arrays = [_one_array(column) for column in table.columns]
    return list(table.column_names), arrays


def _one_array(column: Any) -> Any:
    return column.chunk(0) if column.num_chunks == 1 else column.combine_chunks()


def typed_chunk(task: ColumnTask, column: Any, marks: str) -> ColumnChunk:
    """Return an Arrow array as a chunk of the kind the column takes."""
    import pyarrow as pa

    chunk = ColumnChunk(task)
    if pa.types.is_dictionary(column.type):
        if task.coded and task.kind is Kind.TEXT and pa.types.is_string(column.type.value_type):
            chunk.texts = column
            return chunk
        column = column.dictionary_decode()
    own = kind_of(column.type)
    if task.kind is None or task.kind is Kind.TEXT:
        texts = column if pa.types.is_string(column.type) else pa.array(_texts(column, own), pa.string())
        chunk.texts = texts
        if task.kind is Kind.TEXT and not task.coded:
            chunk.plain = plain_parts(texts)
        return chunk
    if own is not task.kind and {own, task.kind} != {Kind.INTEGER, Kind.NUMBER}:
        convert_chunk(chunk, _texts(column, own), task.kind, marks)
        return chunk
    wanted = _arrow_type(task.kind)
    if task.kind.is_temporal or task.kind in (Kind.INSTANT, Kind.TIME):
        chunk.values, chunk.valid, chunk.unfit = days_and_instants(column)
    elif column.type == wanted or pa.types.is_floating(column.type) or own is task.kind is Kind.INTEGER:
        chunk.values, chunk.valid = numeric_parts(column)
    elif pa.types.is_decimal128(column.type):
        chunk.values, chunk.valid = decimal_parts(column)
    else:
        column = pa.array([_plain(item) for item in column.to_pylist()], wanted)
        chunk.values, chunk.valid = numeric_parts(column)
    if task.kind is Kind.NUMBER:
        chunk.values = as_doubles(chunk.values)
        infinite = np.isinf(chunk.values)
        if infinite.any():
            chunk.values = np.where(infinite, np.nan, chunk.values)
            chunk.unfit = [(int(row), str(column[int(row)])) for row in np.flatnonzero(infinite)]
    return chunk


def _arrow_type(kind: Kind) -> Any:
    import pyarrow as pa

    return {
        Kind.BOOLEAN: pa.bool_(), Kind.INTEGER: pa.int64(), Kind.NUMBER: pa.float64(), Kind.DATE: pa.date32(),
        Kind.TIMESTAMP: pa.timestamp("us"), Kind.INSTANT: pa.timestamp("us", "UTC"), Kind.TIME: pa.time64("us"),
    }[kind]  # fmt: skip


def _plain(item: Any) -> Any:
    return float(item) if item is not None and type(item).__name__ == "Decimal" else item


def _texts(column: Any, kind: Kind) -> list[str | None]:
    far = far_texts(column, kind)
    if far:
        return [far[row] if row in far else cell_text(column[row].as_py()) for row in range(len(column))]
    try:
        items = column.to_pylist()
    except (OverflowError, ValueError):  # a list or a structure with days of no calendar in it
        items = [_item_or_words(column, row) for row in range(len(column))]
    if kind in (Kind.INTEGER, Kind.BOOLEAN):
        write = formatter(kind)
        return [None if item is None else write(item) for item in items]
    return [cell_text(item) for item in items]


def _item_or_words(column: Any, row: int) -> Any:
    try:
        return column[row].as_py()
    except (OverflowError, ValueError):
        return "holds a day before the year 1 or after 9999"


def cell_text(item: Any) -> str | None:
    """Return a Python value as the text a delimited file would hold; lists and structures as JSON."""
    if item is None or isinstance(item, str):
        return item
    if isinstance(item, bool):
        return "true" if item else "false"
    if isinstance(item, float):
        return None if item != item else formatter(Kind.NUMBER)(item)
    if isinstance(item, bytes):
        return item.decode("utf-8", "replace")
    if isinstance(item, datetime.datetime):
        return item.isoformat(sep=" ")
    if isinstance(item, list | dict):
        import json

        return json.dumps(item, ensure_ascii=False, default=cell_text)
    return str(item)
