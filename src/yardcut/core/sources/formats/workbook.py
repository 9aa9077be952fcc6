"""Worksheets of workbooks: xlsx, xlsm, xlsb, ods and, where it can be read, xls."""

from __future__ import annotations

import re
from collections.abc import Generator, Iterator, Sequence
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.delimited_blocks.dropped import ABOVE, BELOW, BLANK, Dropped
from yardcut.core.sources.form.delimited_form import column_names
from yardcut.core.sources.form.footers import footer_start
from yardcut.core.sources.form.headers import header_rows, joined_names
from yardcut.core.sources.form.table_layout import Row, table_start
from yardcut.core.sources.formats.records import BATCH_ROWS, Batch, RecordsFile
from yardcut.core.sources.formats.typed import cell_text
from yardcut.core.sources.formats.workbook_child import AREA, NAMES, NOTHING, SHEET
from yardcut.core.sources.formats.workbook_process import ALL_CELLS, Area, TooLargeError, ask, column_of
from yardcut.core.sources.spec import SourceSpec

_CELLS = re.compile(r"([A-Za-z]{1,3})(\d+)(?::([A-Za-z]{1,3})(\d+))?\Z")


def worksheets(path: Path, spec: SourceSpec, token: CancelToken) -> Iterator[Worksheet]:
    """Open the worksheets wanted of a workbook: those named, all, or the first that holds something."""
    wanted = spec.tables(path)
    area = _area(spec.cells(path), path)
    try:
        names, found = _asked(path, "rows", token, wanted, area)
    except TooLargeError:
        if area == ALL_CELLS or path.suffix.lower() not in _READ_AS_THEY_COME:
            raise
        names, found = _asked(path, "sparse", token, wanted, area)  # the rows of those cells, and no others
    for name in wanted or ():
        if name not in names:
            raise SourceError(
                f'{path} has no worksheet "{name}"', mend=Mend("it has " + ", ".join(f'"{known}"' for known in names))
            )
    some = False
    for name, rows in found:
        rows = rows if area[2] is not None or area == ALL_CELLS else _as_far_as_there_are_any(rows)
        if not any(any(cell not in NOTHING for cell in row) for row in rows):
            if wanted:
                raise SourceError(f'the worksheet "{name}" of {path} is empty')
            continue
        some = True
        yield Worksheet(path, spec, name, rows, names if wanted is None else [])
    if not some:
        raise SourceError(f"{path} holds no worksheet with anything in it")


_READ_AS_THEY_COME = (".xlsx", ".xlsm")
_MOST_TEXT_BYTES = 6 << 30
_CELL_BYTES = 56
"""What a cell takes besides its text while a worksheet is read."""


def _asked(
    path: Path, what: str, token: CancelToken, wanted: Sequence[str] | None, area: Area
) -> tuple[list[str], list[tuple[str, list[list[Any]]]]]:
    """Return the names of all worksheets, and the rows of those wanted. Raises ``SourceError``."""
    names: list[str] = []
    found: list[tuple[str, list[list[Any]]]] = []
    size = 0
    try:
        for word, content in ask(path, what, token, None if wanted is None else list(wanted), area):
            if word == NAMES:
                names = content
            elif word == SHEET:
                found.append((content, []))
            else:
                size += sum(_CELL_BYTES for row in content for cell in row if cell not in NOTHING) + 8 * sum(
                    map(len, content)
                )
                if size > _MOST_TEXT_BYTES:
                    raise TooLargeError(f"{path} takes more memory than a workbook may", mend=Mend("save it as .csv"))
                found[-1][1].extend(content)
    except TooLargeError:
        raise
    except SourceError as error:
        raise _unreadable(path, error.message) from error
    return names, found


def worksheets_there(path: Path, spec: SourceSpec) -> list[tuple[str, str]]:
    """Return the worksheets that hold anything, and how much; of a large workbook all, unlooked at."""
    names: list[str] = []
    areas = []
    try:
        for word, content in ask(path, "areas", CancelToken()):
            if word == NAMES:
                names = content
                if path.stat().st_size > _LOOKED_INTO_BYTES:
                    break
            elif word == AREA:
                areas.append(content)
    except TooLargeError:
        return [(name, "") for name in names]
    except SourceError as error:
        raise _unreadable(path, error.message) from error
    if len(areas) < len(names):
        return [(name, "") for name in names]
    return [
        (name, f"{end[1] - start[1] + 1:,} × {end[0] - start[0] + 1:,} cells, columns by rows")
        for name, start, end in areas
        if end is not None and start is not None
    ]


_LOOKED_INTO_BYTES = 1 << 20


def _unreadable(path: Path, said: str) -> SourceError:
    if "assword" in said or "ncrypt" in said:
        return SourceError(f"{path} is locked with a password", mend=Mend("save a copy without one"))
    held = _held(path)
    if held:
        return SourceError(
            f"{path} is no text and no workbook: it looks like a zip archive, which holds {held}",
            mend=Mend("unpack it, and name the file in it"),
        )
    return SourceError(f"{path} is no workbook that can be read: {said.splitlines()[0]}",
                       mend=Mend("save it as .xlsx or .csv"))  # fmt: skip


def _held(path: Path) -> str:
    """Name the first files of a zip archive that is no workbook; "" for anything else."""
    import zipfile

    try:
        with zipfile.ZipFile(path) as archive:
            names = archive.namelist()
    except (OSError, ValueError, zipfile.BadZipFile):
        return ""
    if any(name.startswith("xl/") or name == "content.xml" for name in names):
        return ""
    return ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "") or "nothing"


_MOST_DIGITS = 9


def _area(cells: str | None, path: Path) -> Area:
    """Return the range that ``cells`` names; rows go on to where the data end where it names a cell."""
    if cells is None:
        return ALL_CELLS
    match = _CELLS.match(cells.strip())
    if match is None or any(len(part or "") > _MOST_DIGITS for part in match.groups()):
        raise SourceError(f"{cells} names no cells of {path}", mend=Mend("write for example 'B4' or 'B4:K900'"))
    top, left = int(match[2]) - 1, column_of(match[1])
    return (top, left, int(match[4]), column_of(match[3]) + 1) if match[3] else (top, left, None, None)


def _as_far_as_there_are_any(rows: list[list[Any]]) -> list[list[Any]]:
    """Return rows up to the first that holds nothing, as wide as they hold anything."""
    found = []
    for row in rows:
        if all(cell in NOTHING for cell in row):
            break
        found.append(row)
    width = max((place + 1 for row in found for place, cell in enumerate(row) if cell not in NOTHING), default=0)
    return [row[:width] for row in found]


class Worksheet(RecordsFile):
    """One worksheet, held in memory as the package gives it."""

    def __init__(self, path: Path, spec: SourceSpec, name: str, rows: list[list[Any]], others: list[str]) -> None:
        said = spec.form_of(path)
        width = max(map(len, rows))
        texts = [[*(cell_text(cell) or "" for cell in row), *[""] * (width - len(row))] for row in rows]
        first = min(said.skip or 0, len(texts) - 1)
        filled = _filled_rows(texts, first)
        start = table_start(filled, width, ".") if said.skip is None and said.header != 0 and filled else 0
        table = filled[start:]
        header = said.header if said.header is not None else header_rows([row.cells for row in table[:60]])
        if said.footer is None:
            end = footer_start(table[header:], width, ".") + header if width > 1 else len(table)
        else:
            end = max(header, len(table) - said.footer)
        names = joined_names([row.cells for row in table[:header]]) if header else [""] * width
        form = {"format": "workbook", "worksheet": name, "worksheets": others, "header": header,
                "skip": table[0].lines_before if table else 0}  # fmt: skip
        super().__init__(path, spec, f"{path.name} / {name}", column_names(names), form)
        self._rows = [(row.lines_before + 1, row.cells) for row in table[header:end]]
        self._dropped = _dropped(texts, filled[:start], table[end:], first)
        self.size = len(self._rows)

    def batches(self) -> Generator[Batch, None, None]:
        """Yield the worksheet's rows; rows without anything, titles and notes are dropped."""
        yield [], 0, self._dropped
        for start in range(0, len(self._rows), BATCH_ROWS):
            some = self._rows[start : start + BATCH_ROWS]
            yield [cells for _, cells in some], start + len(some), []


def _filled_rows(texts: list[list[str]], first: int) -> list[Row]:
    """Return the rows that hold anything, each with the rows above it and whether one of nothing is right above."""
    return [
        Row(cells, place, place > first and not any(map(str.strip, texts[place - 1])))
        for place, cells in enumerate(texts)
        if place >= first and any(map(str.strip, cells))
    ]


def _dropped(texts: list[list[str]], above: list[Row], below: list[Row], first: int) -> list[Dropped]:
    """Say what is none of the table: titles, rows of nothing, and what stands below."""
    blank = [
        Dropped(BLANK, place + 1, "")
        for place, cells in enumerate(texts)
        if place >= first and not any(map(str.strip, cells))
    ]
    said = [
        Dropped(reason, row.lines_before + 1, ",".join(row.cells))
        for reason, rows in ((ABOVE, above), (BELOW, below))
        for row in rows
    ]
    return sorted(blank + said, key=lambda row: row.line)
