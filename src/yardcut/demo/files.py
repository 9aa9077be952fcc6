"""The yard's files, troubles included: three years and a table of mills."""

from __future__ import annotations

import csv
import lzma
import shutil
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor, as_completed
from importlib.resources import files
from multiprocessing import get_context
from pathlib import Path
from typing import TextIO

from yardcut.core.outgoing import Outgoing, writing_to
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.settings.folders import cache_folder
from yardcut.demo import vocabulary as words
from yardcut.demo.packs import COLUMNS, EXTRA_2031, WORKING_DAYS, Cells, YearPlan, make_day

READY_ROWS = 20_000
ALL_BAYS = "ALL BAYS"
YEARS = {2029: 0.30, 2030: 0.33, 2031: 0.37}
REPEATED_HEADER_DAY = 125
BLANK_ROWS = 120
DASHED_READINGS = 3
"""Cells ``--`` in moisture_d07, all in the last twentieth of the 2031 file."""
FORMAT = 1
FILES = (*(f"yard_{year}.csv" for year in YEARS), "mills.csv")
_SUMMED = ("boards", "volume_m3", "weight_kg", "list_price")
_ODD_WEIGHT = "heavy"


def plans(rows: int) -> list[YearPlan]:
    """Split a number of packs over the three years."""
    found = [YearPlan(year, int(rows * share)) for year, share in YEARS.items()]
    found[-1] = YearPlan(2031, rows - sum(plan.packs for plan in found[:-1]))
    return found


def columns_of(year: int) -> list[str]:
    """Return the columns of a year's file: 2031 has two more, one renamed, and another sequence."""
    if year != 2031:
        return list(COLUMNS)
    moved = [*COLUMNS[:1], *COLUMNS[4:10], *COLUMNS[1:4], *COLUMNS[10:]]
    return [*("size_class" if name == "nominal_size" else name for name in moved), *EXTRA_2031]


def _total_row(cells: Cells, day: str) -> Cells:
    """Return the row that adds up a day's packs and stands among them."""
    row: Cells = {name: [""] for name in cells}
    row["bay"] = [ALL_BAYS]
    row["inspected_at"] = [f"{day} 23:59:00"]
    for name in _SUMMED:
        numbers = [float(cell) for cell in cells[name] if _is_number(cell)]
        row[name] = [str(round(sum(numbers), 3)) if name != "boards" else str(int(sum(numbers)))]
    return row


def _is_number(cell: str) -> bool:
    return cell.replace(".", "", 1).replace("-", "", 1).isdigit()


def _spoil_2031(cells: Cells, day: int) -> None:
    """Put the late troubles in: dashes in a probe column, one word among the weights."""
    late = WORKING_DAYS * 19 // 20
    if late <= day < late + DASHED_READINGS:
        for place, cell in enumerate(cells["moisture_d07"]):
            if cell:
                cells["moisture_d07"][place] = "--"
                break
    if day == WORKING_DAYS - 10 and cells["weight_kg"]:
        cells["weight_kg"][0] = _ODD_WEIGHT


def year_rows(plan: YearPlan, token: CancelToken, progress: Progress) -> Iterator[list[Sequence[str]]]:
    """Yield the rows of a year's file day by day, the header first."""
    names = columns_of(plan.year)
    sources = ["nominal_size" if name == "size_class" else name for name in names]
    yield [names]
    for day in range(WORKING_DAYS):
        token.check()
        cells = make_day(plan, day)
        if plan.year == 2031:
            _spoil_2031(cells, day)
        count = len(cells["ticket"])
        total = _total_row(cells, plan.day(day).isoformat())
        rows: list[Sequence[str]] = list(zip(*(cells[name] + total[name] for name in sources), strict=True))
        if plan.year == 2030 and day == REPEATED_HEADER_DAY:
            rows += [names, *([[]] * BLANK_ROWS)]
        yield rows
        progress.advance(count)


def write_year(plan: YearPlan, path: Path, token: CancelToken, progress: Progress) -> None:
    """Write one year's file; 2029 is semicolon-separated, Windows-1252, with a decimal comma."""
    old = plan.year == 2029
    with open(path, "w", encoding="cp1252" if old else "utf-8", newline="") as file:
        writer = csv.writer(file, delimiter=";" if old else ",", lineterminator="\n")
        for rows in year_rows(plan, token, progress):
            if old:
                rows = [[_comma(cell) for cell in row] for row in rows]
            writer.writerows(rows)


def _write_year_apart(plan: YearPlan, path: Path) -> None:
    write_year(plan, path, CancelToken(), Progress())


def _comma(cell: str) -> str:
    return cell.replace(".", ",") if "." in cell and _is_number(cell) else cell


def write_mills(file: TextIO) -> None:
    """Write the 40 mills: M17 is missing, M05 stands twice."""
    writer = csv.writer(file, lineterminator="\n")
    writer.writerow(["id", "name", "region"])
    numbers = [number for number in range(1, 41) if number != 17]
    for number in sorted([*numbers, 5]):
        name = words.MILL_NAMES[number % 10] + (" Upper" if number >= 20 else " Lower") + f" {number}"
        writer.writerow([f"M{number:02d}", name, words.MILL_REGIONS[number % 4]])


def write_yard(
    folder: Path, rows: int | None, token: CancelToken, progress: Progress, *, replace: bool = False
) -> None:
    """Write the yard's four files into a folder: the ready set, or a new one of ``rows`` packs. Streaming.

    Raises ``TargetError`` where one of them is there already and nobody said it may be replaced.
    """
    with writing_to(folder):
        folder.mkdir(parents=True, exist_ok=True)
    for name in FILES:
        Outgoing(folder / name, replace=replace).check()
    with writing_to(folder):
        _write_files(folder, rows, token, progress)


def _write_files(folder: Path, rows: int | None, token: CancelToken, progress: Progress) -> None:
    if rows is None:
        for packed in FILES:
            content = (files("yardcut.demo") / "ready" / f"{packed}.xz").read_bytes()
            (folder / packed).write_bytes(lzma.decompress(content))
        return
    progress.begin("making the yard", rows)
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as processes:  # a year takes one processor half a minute
        years = {
            processes.submit(_write_year_apart, plan, folder / f"yard_{plan.year}.csv"): plan
            for plan in sorted(plans(rows), key=lambda plan: -plan.packs)
        }
        for done in as_completed(years):
            done.result()
            progress.advance(years[done].packs)
            token.check()
    with open(folder / "mills.csv", "w", encoding="utf-8", newline="") as file:
        write_mills(file)


def demo_folder(rows: int | None, token: CancelToken, progress: Progress) -> Path:
    """Return the folder of the demo yard in the user's cache directory, made when it is not there."""
    folder = cache_folder("demo", f"{FORMAT}-{rows or 'ready'}")
    if (folder / "mills.csv").exists():
        return folder
    building = folder.with_name(folder.name + ".building")
    shutil.rmtree(building, ignore_errors=True)
    write_yard(building, rows, token, progress)
    shutil.rmtree(folder, ignore_errors=True)
    building.rename(folder)
    return folder
