"""The list that goes with a slice: what somebody else needs to cut it again, and to see that it is the same."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from yardcut.core.cutlist.file import list_text, relocated
from yardcut.core.cutlist.model import CutList
from yardcut.core.language.lines import statement_text, wants_seed, with_seed
from yardcut.core.outgoing import Outgoing
from yardcut.core.run.executing.kinds_used import with_kinds_used
from yardcut.core.run.explaining.report import LineReport
from yardcut.core.sources.piped import plain_source
from yardcut.core.table.stored_table import Table
from yardcut.core.values.temporal import format_date
from yardcut.core.writers.formats.compressing import ENDINGS


def path_beside(path: Path) -> Path:
    """Return where the list of a slice goes: ``slice.cut`` for ``slice.csv`` and for ``slice.csv.gz``."""
    inner = path.with_suffix("") if path.suffix.lower() in ENDINGS else path
    return inner.with_suffix(".cut")


def is_the_list(path: Path, list_path: Path | None) -> bool:
    """Tell whether the list of a slice is the very one that is run, which stays as it is."""
    beside = path_beside(path)
    return list_path is not None and beside.exists() and list_path.exists() and beside.samefile(list_path)


def check_beside(out: Outgoing, list_path: Path | None) -> None:
    """Raise ``TargetError`` where the list of a slice must not be written; ``out`` is the slice."""
    if not is_the_list(out.path, list_path):
        out.at(path_beside(out.path)).check()


def text_beside(
    cut_list: CutList, index: int, table: Table, base: Path, folder: Path, lines: Sequence[LineReport],
    seed: int | None, today: int, second_tables: Sequence[dict[str, Any]] = (),
) -> str:  # fmt: skip
    """Return a list as it was run: dials and seeds as they were, and as comments what it met and left."""
    named = replace(cut_list, files=tuple(map(plain_source, cut_list.files)))
    known = with_kinds_used(relocated(named, base, folder) if named.files == cut_list.files else named, table)
    cut = known.cuts[index]
    for place, line in enumerate(cut.lines):
        statement = line.statement()
        if seed is not None and not statement.off and wants_seed(statement):
            cut = cut.with_line(place, replace(line, text=statement_text(with_seed(statement, seed))))
    head, _, rest = list_text(known.with_cut(index, cut)).partition("\n")
    return "\n".join([head, *_comments(table, cut.name, lines, today, second_tables), rest])


def _comments(
    table: Table, cut: str, lines: Sequence[LineReport], today: int, second_tables: Sequence[dict[str, Any]]
) -> list[str]:
    from importlib.metadata import version

    said = [f"-- written by Yard Cut {version('yardcut')}; CURRENT_DATE was {format_date(today)}"]
    for file in table.info.files:
        said.append(
            f"-- source {_plain(file.label)}: {file.size_bytes:,} bytes, {file.rows:,} rows{_changed(file.changed_ns)}"
        )
    said.append(f"-- content {table.fingerprint}")
    said += [
        f"-- second table {_plain(other['name'])}: {other['rows']:,} rows, content {other['fingerprint']}"
        for other in second_tables
    ]
    said.append(f"-- the cut {_plain(cut) or 'as it was run'}, line by line:")
    said += [
        f"--   {line.number}: {'off' if line.off else f'{line.rows_in:,} -> {line.rows_out:,}'}   {_plain(line.text)}"
        for line in lines
    ]
    return said


def _changed(nanoseconds: int) -> str:
    if not nanoseconds:
        return ""
    moment = datetime.datetime.fromtimestamp(nanoseconds / 1e9, datetime.UTC)
    return f", changed {moment:%Y-%m-%d %H:%M:%S} UTC"


def _plain(text: str) -> str:
    return " ".join("".join(char if char.isprintable() else " " for char in text).split())


def write_beside(out: Outgoing, text: str) -> Path:
    """Write the list of a slice beside it; ``out`` is the slice. Raises ``TargetError``."""
    beside = path_beside(out.path)
    out.at(beside).write(text.encode("utf-8", "surrogatepass"))
    return beside
