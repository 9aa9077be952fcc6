"""Reading a Parquet file into a store, row group by row group."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.builders import NumericBuilder, SetAside, TextBuilder, numeric_parts
from yardcut.core.sources.form import column_names
from yardcut.core.table.table import TableInfo
from yardcut.core.values.kinds import Kind

MAGIC = b"PAR1"
_BATCH_ROWS = 1 << 17


def _kind_and_type(arrow_type: Any) -> tuple[Kind, Any]:
    """Return the kind a Parquet column takes, and the Arrow type its values are cast to."""
    import pyarrow as pa

    types = pa.types
    if types.is_boolean(arrow_type):
        return Kind.BOOLEAN, pa.bool_()
    if types.is_integer(arrow_type) and arrow_type != pa.uint64():
        return Kind.INTEGER, pa.int64()
    if types.is_floating(arrow_type) or types.is_decimal(arrow_type):
        return Kind.NUMBER, pa.float64()
    if types.is_date(arrow_type):
        return Kind.DATE, pa.date32()
    if types.is_timestamp(arrow_type) and arrow_type.tz is None:
        return Kind.TIMESTAMP, pa.timestamp("us")
    return Kind.TEXT, pa.string()


def read_parquet(path: Path, folder: Path, fingerprint: str, token: CancelToken, progress: Progress) -> TableInfo:
    """Read a Parquet file into column files. Raises ``SourceError`` when the file is damaged."""
    import pyarrow as pa
    from pyarrow import parquet

    try:
        with parquet.ParquetFile(path, memory_map=True) as file:
            schema = file.schema_arrow
            kinds = [_kind_and_type(field.type) for field in schema]
            builders: list[NumericBuilder | TextBuilder] = [
                TextBuilder(folder, number) if kind is Kind.TEXT else NumericBuilder(folder, number, kind)
                for number, (kind, _) in enumerate(kinds)
            ]
            progress.begin("reading", file.metadata.num_rows)
            rows = 0
            for batch in file.iter_batches(_BATCH_ROWS):
                token.check()
                for builder, (_, wanted), column in zip(builders, kinds, batch.columns, strict=True):
                    _append(builder, column, wanted)
                rows += batch.num_rows
                progress.advance(batch.num_rows)
    except (pa.ArrowInvalid, OSError) as error:
        if isinstance(error, OSError) and error.errno is not None:
            raise
        raise SourceError(
            f"{path} is not a whole Parquet file: {str(error).splitlines()[0]}",
            mend=Mend("fetch or write it again"),
        ) from error
    names = column_names([str(name) for name in schema.names])
    columns = tuple(builder.finish(name, SetAside()) for builder, name in zip(builders, names, strict=True))
    return TableInfo(str(path), fingerprint, rows, columns, {})


def _append(builder: NumericBuilder | TextBuilder, column: Any, wanted: Any) -> None:
    import pyarrow as pa

    types = pa.types
    if isinstance(builder, TextBuilder):
        if types.is_dictionary(column.type):
            column = column.dictionary_decode()
        if not types.is_string(column.type):
            column = pa.array([_as_text(item) for item in column.to_pylist()], pa.string())
        builder.append(column.dictionary_encode() if builder.coded else column)
        return
    if column.type != wanted:
        if types.is_timestamp(column.type) or types.is_date(column.type):
            column = pa.array(column.to_pylist(), wanted)
        elif types.is_decimal(column.type):
            column = pa.array([None if item is None else float(item) for item in column.to_pylist()], wanted)
    values, valid = numeric_parts(column)
    builder.append(values, valid)


def _as_text(item: Any) -> str | None:
    if item is None or isinstance(item, str):
        return item
    if isinstance(item, bytes):
        return item.decode("utf-8", "replace")
    return str(item)
