"""A table that was put together from others and is held in memory: its rows are no rows of the source."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path

from yardcut.core.table import bits as bit
from yardcut.core.table.array_file import Array
from yardcut.core.table.stored_column import Column, ColumnInfo
from yardcut.core.table.stored_table import FileInfo, Table, TableInfo
from yardcut.core.table.vectors import CodedVector, Dictionary, NumericVector, PlainVector, Vector, part_of, taken_from


class HeldColumn(Column):
    """A column whose values are held as one vector."""

    def __init__(self, name: str, number: int, vector: Vector) -> None:
        missing = vector.missing_mask()
        self._vector = vector
        self._gone = missing
        storage = (
            "codes" if isinstance(vector, CodedVector) else "plain" if isinstance(vector, PlainVector) else "values"
        )
        dtype = vector.values.dtype.str if isinstance(vector, NumericVector) else "<i8"
        info = ColumnInfo(
            name, vector.kind, storage, dtype, 0 if missing is None else int(missing.sum()),
            zone=vector.zone if isinstance(vector, NumericVector) else "",
            words=len(vector.dictionary) if isinstance(vector, CodedVector) else 0,
        )  # fmt: skip
        super().__init__(info, Path(), number, len(vector))

    @property
    def held(self) -> Vector:
        """All its values."""
        return self._vector

    @property
    def dictionary(self) -> Dictionary:
        """The distinct texts of a coded column."""
        assert isinstance(self._vector, CodedVector)
        return self._vector.dictionary

    def missing_bits(self, first_row: int, end_row: int) -> Array | None:
        """Return one bit for each row without a value; ``None``: nowhere."""
        return None if self._gone is None else bit.pack(self._gone[first_row:end_row])

    def slice(self, first_row: int, end_row: int) -> Vector:
        """Return rows ``first_row`` to ``end_row`` (excluded)."""
        return part_of(self._vector, first_row, min(end_row, self.rows))

    def take(self, row_ids: Array) -> Vector:
        """Return the rows with the given ids (any integer dtype), in that order."""
        return taken_from(self._vector, row_ids)


class HeldTable(Table):
    """Rows that were put together: no file has them, and no row of theirs leads to one of a source.

    ``files`` are those of the source all the same: a slice of it is written in their form.
    """

    leads_to_source = False

    def __init__(
        self, fingerprint: str, names: Sequence[str], vectors: Sequence[Vector], rows: int,
        files: tuple[FileInfo, ...] = (),
    ) -> None:  # fmt: skip
        columns = [
            HeldColumn(name, number, each) for number, (name, each) in enumerate(zip(names, vectors, strict=True))
        ]
        infos = tuple(column.info for column in columns)
        super().__init__(TableInfo(fingerprint, rows, infos, files), Path(fingerprint))
        self.columns = columns

    def segments(self, first_row: int, end_row: int) -> Iterator[tuple[int, int, int]]:
        """Yield its rows as those of one file, by which draws by chance rank them."""
        if first_row < end_row:
            yield 0, first_row, end_row

    @property
    def size_bytes(self) -> int:
        """The memory its values take, but for texts."""
        return sum(column.info.missing + 9 * column.rows for column in self.columns)
