"""Saving on the main screen: the slice to a file, the list to a ``.cut`` file."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.errors import YardcutError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.screens.asking import Question, SayCard
from yardcut.tui.screens.writing_screen import WritingScreen
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from yardcut.core.writers.saving import Written

_LIST_SUFFIX = ".cut"


class SavingScreen(WritingScreen):
    """Adds saving to writing and showing."""

    def _save_line(self) -> tuple[str, str | None] | None:
        """Return path and format of the cut's last save line that is on."""
        assert self.bench is not None
        for line in reversed(self.bench.session.cut.lines):
            if line.verb == "save" and not line.is_off:
                body = line.statement().body
                return body.path, body.format  # type: ignore[attr-defined]
        return None

    def _list_folder(self) -> Path:
        assert self.bench is not None
        path = self.bench.session.list_path
        return path.parent if path is not None else Path()

    def action_save_slice(self) -> None:
        """Ask where the slice goes, and write it as of the last line."""
        bench = self.bench
        if self._wait_for_bench(self.action_save_slice) or bench is None:
            return
        last = len(bench.session.cut.lines) - 1
        piece = bench.slice_at(last)
        if piece is None and self.tasks.is_running("results"):
            self.say("the rows are still being counted; save when they are")
            return
        if piece is None or self._wrong is not None:
            self.say("a line of the list is wrong; put it right first", "$warning")
            return
        named = self._save_line()
        if named is not None:
            start = str(self._list_folder() / named[0])
        else:
            start = f"{bench.session.cut.name or bench.session.spec.stem}-slice.csv".replace(" ", "-")

        def means(text: str) -> tuple[str, bool]:
            from yardcut.core.writers.saving import check_target, format_of

            if not text:
                return "a path ending in .csv, .tsv or .parquet", False
            path = Path(text).expanduser()
            try:
                form = format_of(path, self._format_for(path))
                check_target(path, bench.session.spec.paths(), replace=False)
            except YardcutError as error:
                said = str(error)
                return (f"{said}\nF5 replaces it" if path.is_file() and "source" not in said else said), False
            return (
                f"writes {plural(piece.rows.count, 'row')} and {plural(len(piece.columns), 'column')} as {form}",
                True,
            )

        def write(text: str, replace: bool = False) -> None:
            self._write(Path(text).expanduser(), replace)

        self.ask(Question("save slice ▸", start, means, write, lambda text: write(text, replace=True), paths_like))

    def _format_for(self, path: Path) -> str | None:
        named = self._save_line()
        return named[1] if named is not None and path.name == Path(named[0]).name else None

    def _write(self, path: Path, replace: bool) -> None:
        bench = self.bench
        assert bench is not None
        piece = bench.slice_at(len(bench.session.cut.lines) - 1)
        assert piece is not None
        named = self._format_for(path)

        def work(token: CancelToken, progress: Progress) -> Written:
            return bench.session.save(piece, path, named, replace_existing=replace, token=token, progress=progress)

        self.say(f"writing {path} …")
        self.tasks.start("save", work, self._written, self._not_written)

    def _written(self, written: Written) -> None:
        self.say(
            f"wrote {written.path}: {plural(written.rows, 'row')} read back and counted, {written.size_bytes:,} bytes"
        )

    def _not_written(self, error: YardcutError) -> None:
        self.say_error(error)
        self.app.push_screen(SayCard("not written", str(error)))

    def save_left_out(self) -> None:
        """Ask where the dropped rows and the values set aside go, and write them with their places."""
        bench = self.bench
        if bench is None:
            return
        from yardcut.core.writers.left_out import left_out, write_left_out

        table = bench.table
        rows, values = left_out(table)
        both = [plural(rows, "dropped row")] * (rows > 0) + [f"{plural(values, 'value')} set aside"] * (values > 0)
        said = " and ".join(both)

        def means(text: str) -> tuple[str, bool]:
            path = Path(text).expanduser()
            if path.suffix not in (".csv", ".txt"):
                return "a path ending in .csv (all with their places) or .txt (the rows as they stood)", False
            if path.exists():
                return f"{path} exists\nF5 replaces it", False
            return f"writes {said}", path.parent.is_dir()

        def write(text: str) -> None:
            try:
                write_left_out(table, Path(text).expanduser())
            except YardcutError as error:
                self._not_written(error)
                return
            self.say(f"wrote {text}: {said}")

        start = f"{bench.session.spec.stem}-left-out.csv"
        self.ask(Question("save what was left out ▸", start, means, write, write, paths_like))

    def action_save_list(self) -> None:
        """Ask where the list goes, and write it."""
        bench = self.bench
        if self._wait_for_bench(self.action_save_list) or bench is None:
            return
        known = bench.session.list_path
        start = str(known) if known else f"{(bench.session.cut.name or bench.session.spec.stem).replace(' ', '-')}.cut"

        def means(text: str) -> tuple[str, bool]:
            path = Path(text).expanduser()
            if path.suffix != _LIST_SUFFIX:
                return "a list's path ends in .cut", False
            if not path.parent.is_dir():
                return f"there is no directory {path.parent}", False
            if path.exists() and (known is None or path.resolve() != known.resolve()):
                return f"{path} exists\nF5 replaces it", False
            return f"writes {len(bench.session.cut.lines)} lines" + (
                ", over the list as it was" if path.exists() else ""
            ), True

        def write(text: str) -> None:
            path = Path(text).expanduser()
            try:
                moved = bench.session.save_list(path)
            except YardcutError as error:
                self._not_written(error)
                return
            also = "; the source's path is now given from the list's own directory" if moved else ""
            self.say(f"saved the list to {path}{also}; run it again with: yardcut run {path}")
            self._show_work()

        self.ask(Question("save list ▸", start, means, write, write, paths_like))


def paths_like(text: str) -> list[str]:
    """Return the paths a text is the beginning of, directories with a slash behind."""
    path = Path(text).expanduser()
    folder, begun = (path, "") if text.endswith("/") or not text else (path.parent, path.name)
    try:
        found = sorted(entry for entry in folder.iterdir() if entry.name.startswith(begun))
    except OSError:
        return []
    return [f"{entry}/" if entry.is_dir() else str(entry) for entry in found if begun or not entry.name.startswith(".")]
