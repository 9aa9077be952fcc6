"""What the app is opened with: a table or a list, and the first rows that can be shown at once."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.standing import fetch_files, is_to_be_fetched
from yardcut.core.sources.form.preview import Preview, read_preview
from yardcut.core.sources.formats.format_of_files import format_of_file
from yardcut.core.sources.spec import SourceSpec

if TYPE_CHECKING:
    from yardcut.core.session import Runners, Session
    from yardcut.core.sources.form.table_look import TableLook
    from yardcut.core.sources.store.rows_so_far import RowsSoFar
    from yardcut.core.table.stored_table import Table

_LIST_SUFFIX = ".cut"


class Opening:
    """Reads the first rows right away; :meth:`open` and :meth:`session` do the rest in a thread.

    Raises ``SourceError`` when there is nothing to open and ``ListError`` for a list that is wrong.
    """

    def __init__(self, source: SourceSpec) -> None:
        self.spec = source
        self.list_path: Path | None = None
        if len(source.files) == 1 and source.files[0].endswith(_LIST_SUFFIX):
            from yardcut.core.cutlist.file import load_list
            from yardcut.core.session import resolve_source

            self.list_path = Path(source.files[0])
            self.spec = resolve_source(load_list(self.list_path), self.list_path.parent)
        self.runners: Runners | None = None
        """What makes rounds over the source, where this process does not."""
        self.choices: list[tuple[str, str]] = []
        self.preview = self.look()

    def look(self) -> Preview | None:
        """Read the first rows of a delimited file; other formats show theirs when they are open."""
        if is_to_be_fetched(self.spec):
            return None
        first = self.spec.paths()[0]
        form = format_of_file(first)
        if form.tables:
            from yardcut.core.sources.formats.inside import tables_inside

            self.choices = tables_inside(first, self.spec)
        if not form.delimiter:
            return None
        return read_preview(first, self.spec)

    def fetch(self, token: CancelToken, progress: Progress) -> bool:
        """Fetch files that stand elsewhere, and look at them; tells whether there were any.

        Raises ``SourceError``, ``StoppedError``.
        """
        if not is_to_be_fetched(self.spec):
            return False
        fetch_files(self.spec, token, progress)
        self.preview = self.look()
        return True

    def check(self, token: CancelToken) -> None:
        """Fetch what stands elsewhere, and look whether files that say their rows and kinds beforehand do.

        Raises ``SourceError``, ``StoppedError``.
        """
        self.fetch(token, Progress())
        paths = self.spec.paths()
        form = format_of_file(paths[0])
        if form.says_its_rows and not form.fetch:
            from yardcut.core.sources.formats.format_of_files import open_files

            open_files(paths, self.spec, token)

    def look_inside(self, name: str, token: CancelToken) -> TableLook:
        """Look at one of the tables to choose from. Raises ``SourceError`` or ``StoppedError``."""
        from yardcut.core.sources.formats.inside import look_into

        return look_into(self.spec.paths()[0], self.spec, name, token)

    def open(self, token: CancelToken, progress: Progress, so_far: RowsSoFar | None = None) -> Table:
        """Open the source. Raises ``SourceError`` or ``StoppedError``."""
        return self.open_as(self.spec, token, progress, so_far)

    def open_as(
        self, spec: SourceSpec, token: CancelToken, progress: Progress, so_far: RowsSoFar | None = None
    ) -> Table:
        """Open a source; when it is stopped, what was read by then. Raises ``SourceError`` or ``StoppedError``."""
        from yardcut.core.sources.opening_sources import open_table

        return open_table(spec, token, progress, keep_part=True, so_far=so_far)

    def session(self, table: Table) -> Session:
        """Return the session for the table: the list, its history, and all that runs it. Raises ``ListError``."""
        from yardcut.core.session import Session

        session = Session.from_list(self.list_path) if self.list_path is not None else Session(self.spec)
        session.runners = self.runners
        session.use(table)
        return session
