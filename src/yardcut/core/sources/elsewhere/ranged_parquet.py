"""A Parquet file read where it stands: of its row groups and columns only those come that are looked at."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Any

from yardcut.core.errors import SourceError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.elsewhere.ranged_files import file_there
from yardcut.core.sources.formats.parquet import ParquetTable
from yardcut.core.sources.spec import SourceSpec

_PIECE_BYTES = 1 << 23
"""What is asked for at once: an answer takes long, whatever it brings."""


class RangedParquet(ParquetTable):
    """One Parquet file elsewhere."""

    piece_bytes = _PIECE_BYTES

    def _where(self) -> Any:
        return file_there(self.path)

    def _batches(self, roots: list[str]) -> Iterator[Any]:
        for group in range(len(self.group_rows)):
            yield from self._group(group, roots or self._roots)

    def _damaged(self, error: Exception) -> SourceError:
        if isinstance(error, OSError):
            return SourceError(
                f"{self.label} cannot be read where it stands: {(str(error).splitlines() or [''])[0][:300]}"
            )
        return super()._damaged(error)


def parquet_there(path: Path, spec: SourceSpec, token: CancelToken) -> list[RangedParquet]:
    """Open what a file stands for as the table it is. Raises ``SourceError``."""
    return [RangedParquet(path, spec)]
