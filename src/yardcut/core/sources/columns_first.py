"""Some columns of a source for all of its rows, while the rest is still to be read: what a line needs to be counted."""

from __future__ import annotations

from dataclasses import replace

from yardcut.core import litter
from yardcut.core.errors import SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.formats.format_of_files import format_of_file
from yardcut.core.sources.growing_files import growing
from yardcut.core.sources.opening_sources import LARGE_BYTES, open_columns
from yardcut.core.sources.some_columns import NeverRead
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.streams import is_compressed
from yardcut.core.table.stored_table import Table

_LARGEST_PART = 0.4
"""Where a line looks at more of the columns, they are hardly there before all are."""
_LATEST = 0.5
"""Where more of the source is read, the rest is as soon there."""


@dataclass(frozen=True, slots=True, eq=False)
class ColumnsFirst:
    """The columns with some ``names`` of all rows. ``table`` raises ``NotReadError`` where another is looked at."""

    spec: SourceSpec
    names: frozenset[str]
    table: Table
    folders: tuple[Table, ...] = ()

    def drop(self) -> None:
        """Remove the files: the whole source is there."""
        for table in self.folders:
            litter.drop(table.folder)


def is_worth_reading_first(spec: SourceSpec, table: Table, names: frozenset[str]) -> bool:
    """Tell whether some columns of a source are there much sooner when they are read before the others.

    ``table`` are the rows so far. It is so of large files of delimited text that nobody has to unpack. Raises
    ``SourceError``, ``OSError``.
    """
    if not names or len(names) > _LARGEST_PART * len(table.columns) or not 0 < table.share_read < _LATEST:
        return False
    paths = spec.paths()
    return (
        not any(growing(path) is not None for path in paths)
        and sum(path.stat().st_size for path in paths) >= LARGE_BYTES
        and all(format_of_file(path).delimiter for path in paths)
        and not any(map(is_compressed, paths))
    )


def read_first(
    spec: SourceSpec, names: frozenset[str], known: ColumnsFirst | None, token: CancelToken, progress: Progress
) -> ColumnsFirst:
    """Read those of some columns that are not ``known`` already.

    Raises ``SourceError`` when they cannot be read or the source changed meanwhile, and ``StoppedError``.
    """
    if known is None or known.spec != spec:
        table = open_columns(spec, names, token, progress)
        return ColumnsFirst(spec, names, table, (table,))
    if names <= known.names:
        return known
    more = open_columns(spec, names - known.names, token, progress)
    if (more.fingerprint, more.rows) != (known.table.fingerprint, known.table.rows):
        litter.drop(more.folder)
        raise SourceError(f"{spec.label} changed while it was read")
    return ColumnsFirst(spec, known.names | names, _joined(known, more, names), (*known.folders, more))


def _joined(known: ColumnsFirst, more: Table, names: frozenset[str]) -> Table:
    """Return a table with the columns of both readings."""
    columns = [
        theirs if theirs.name in names - known.names else ours
        for ours, theirs in zip(known.table.columns, more.columns, strict=True)
    ]
    info = replace(known.table.info, columns=tuple(column.info for column in columns))
    joined = Table(info, known.table.folder, NeverRead())
    joined.columns = columns
    return joined
