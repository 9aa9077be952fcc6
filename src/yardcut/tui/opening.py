"""What the app is opened with: a table or a list, and the first rows that can be shown at once."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.form import read_head
from yardcut.core.sources.preview import Preview, read_preview

if TYPE_CHECKING:
    from yardcut.core.table.table import Table
    from yardcut.tui.bench import Bench

_PARQUET = b"PAR1"
_LIST_SUFFIX = ".cut"


class Opening:
    """Reads the first rows right away; :meth:`open` and :meth:`bench` do the rest in a thread.

    Raises ``SourceError`` when there is nothing to open and ``ListError`` for a list that is wrong.
    """

    def __init__(self, path: Path) -> None:
        self.path = path
        self.source = path
        if path.suffix == _LIST_SUFFIX:
            from yardcut.core.cutlist.file import load_list
            from yardcut.core.session import resolve_source

            self.source = resolve_source(load_list(path), path.parent)
        head = read_head(self.source, 4)
        self.preview: Preview | None = None if head == _PARQUET else read_preview(self.source)

    def open(self, token: CancelToken, progress: Progress) -> Table:
        """Open the source. Raises ``SourceError`` or ``StoppedError``."""
        from yardcut.core.sources.opening import open_table

        table = open_table(self.source, token, progress)
        import yardcut.tui.table_source  # noqa: F401 - loaded here rather than on the event loop

        return table

    def bench(self, table: Table) -> Bench:
        """Return the bench for the table: the list, the language and all that runs it. Raises ``ListError``."""
        from yardcut.tui.bench import Bench

        bench = Bench(self.path)
        bench.session.use(table)
        return bench
