"""Twelve jobs of the yard, from the open file to the written one; each file is worked out once more by other means."""

from __future__ import annotations

import csv
import re
from collections import defaultdict
from collections.abc import Callable
from pathlib import Path

import pytest

from commands import yardcut
from terminal import Terminal

Start = Callable[..., Terminal]
Row = dict[str, str]
PAGE = Path(__file__).parents[2] / "docs" / "first-hour.md"
MISSING = ("", "NA", "n/a")
DEAREST = ["drop bay = 'ALL BAYS'", "draw top 10 by price_per_m3 per species"]

JOBS: dict[str, tuple[list[str], str]] = {
    "totals": (["drop bay = 'ALL BAYS'"], "packs.csv"),
    "driest": (
        ["keep species = 'oak' AND grade = 'A' AND sold_on IS NULL", "draw bottom 20 by moisture_pct", "columns ticket, bay, species, moisture_pct"],
        "driest.csv",
    ),
    "dearest": (DEAREST, "dearest.csv"),
    "sample": (["drop bay = 'ALL BAYS'", "draw stratified 500 per species, grade seed 7"], "sample.csv"),
    "kiln": (
        ["make lost = ROUND(moisture_d01 - moisture_d03, 1)", 'columns ticket, kiln_in AS "in", kiln_out AS out, kiln_days AS days, moisture_pct, lost'],
        "kiln.csv",
    ),
    "asked": (['keep ticket IN "asked.txt"'], "found.csv"),
    "mills": (['bring name from "mills.csv" by mill_id = id first match', "columns ticket, mill_id AS mill, name"], "mills-named.csv"),
    "sums": (
        ["keep sold_on IS NULL", "tally SUM(volume_m3) AS volume, AVG(price_per_m3) AS price per species, grade", "draw top 3 by volume"],
        "sums.csv",
    ),
    "quarters": (
        ["drop bay = 'ALL BAYS'", "make worth = volume_m3 * price_per_m3", "tally SUM(worth) AS worth per bay along EXTRACT(QUARTER FROM felled_on)"],
        "quarters.csv",
    ),
    "sequence": (["keep shift = 'night'", "order felled_on, price_per_m3 DESC", "columns ticket, felled_on, price_per_m3"], "nights.csv"),
    "files": (["keep reserved"], "{species}-{grade}.csv one file per species, grade"),
}  # fmt: skip


def rows_of(path: Path) -> list[Row]:
    with open(path, encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def number(text: str) -> float | None:
    return None if text in MISSING else float(text)


@pytest.fixture
def yard_rows(tmp_path: Path) -> list[Row]:
    return rows_of(tmp_path / "yard_2031.csv")


def packs(rows: list[Row]) -> list[Row]:
    return [row for row in rows if row["bay"] != "ALL BAYS"]


def best(rows: list[Row], key: str, count: int, *, largest: bool) -> list[Row]:
    """Sort as SQL would: rows without a value last, equal ones in the order they stood in."""
    there = [row for row in rows if number(row[key]) is not None]
    return sorted(there, key=lambda row: (-1 if largest else 1) * float(row[key]))[:count]


def dearest(rows: list[Row]) -> list[Row]:
    groups: dict[str, list[Row]] = defaultdict(list)
    for row in packs(rows):
        if number(row["price_per_m3"]) is not None:
            groups["" if row["species"] in MISSING else row["species"]].append(row)
    return [row for group in groups.values() for row in best(group, "price_per_m3", 10, largest=True)]


def check_totals(found: list[Row], rows: list[Row], folder: Path) -> None:
    assert found == packs(rows)


def check_driest(found: list[Row], rows: list[Row], folder: Path) -> None:
    unsold = [row for row in rows if (row["species"], row["grade"]) == ("oak", "A") and row["sold_on"] in MISSING]
    names = ("ticket", "bay", "species", "moisture_pct")
    assert found == [{name: row[name] for name in names} for row in best(unsold, "moisture_pct", 20, largest=False)]


def check_dearest(found: list[Row], rows: list[Row], folder: Path) -> None:
    assert found == dearest(rows)


def check_sample(found: list[Row], rows: list[Row], folder: Path) -> None:
    """Five hundred different packs; each group has its share of them, one more or less."""
    yard = packs(rows)
    assert len({row["ticket"] for row in found}) == len(found) == 500
    assert all(row in yard for row in found)
    groups: dict[tuple[str, str], list[int]] = defaultdict(lambda: [0, 0])
    for at, some in enumerate((yard, found)):
        for row in some:
            groups[row["species"], row["grade"]][at] += 1
    for whole, drawn in groups.values():
        assert abs(drawn - 500 * whole / len(yard)) < 1.01


def check_kiln(found: list[Row], rows: list[Row], folder: Path) -> None:
    assert list(found[0]) == ["ticket", "in", "out", "days", "moisture_pct", "lost"]
    assert len(found) == len(rows)
    for row, other in zip(rows, found, strict=True):
        assert [other[name] for name in ("in", "out", "days")] == [
            row[name] for name in ("kiln_in", "kiln_out", "kiln_days")
        ]
        first, third = number(row["moisture_d01"]), number(row["moisture_d03"])
        lost = None if first is None or third is None else round(first - third, 1)
        assert number(other["lost"]) == (None if lost is None else pytest.approx(lost))


def check_asked(found: list[Row], rows: list[Row], folder: Path) -> None:
    asked = set((folder / "asked.txt").read_text().split())
    assert found == [row for row in rows if row["ticket"] in asked]


def check_mills(found: list[Row], rows: list[Row], folder: Path) -> None:
    names: dict[str, str] = {}
    for mill in rows_of(folder / "mills.csv"):
        names.setdefault(mill["id"], mill["name"])
    assert [(row["ticket"], row["name"]) for row in found] == [
        (row["ticket"], names.get(row["mill_id"], "")) for row in rows
    ]


def check_sums(found: list[Row], rows: list[Row], folder: Path) -> None:
    groups: dict[tuple[str, str], list[Row]] = defaultdict(list)
    for row in rows:
        if row["sold_on"] in MISSING:
            groups[row["species"], row["grade"]].append(row)

    def figures(some: list[Row], name: str) -> list[float]:
        return [value for row in some if (value := number(row[name])) is not None]

    volumes = {key: sum(figures(some, "volume_m3")) for key, some in groups.items()}
    wanted = sorted(volumes, key=lambda key: -volumes[key])[:3]
    assert [(row["species"], row["grade"]) for row in found] == wanted
    for row, key in zip(found, wanted, strict=True):
        prices = figures(groups[key], "price_per_m3")
        assert float(row["volume"]) == pytest.approx(volumes[key])
        assert (float(row["price"]) if row["price"] else None) == (
            pytest.approx(sum(prices) / len(prices)) if prices else None
        )


def check_quarters(found: list[Row], rows: list[Row], folder: Path) -> None:
    worth: dict[tuple[str, str], float] = defaultdict(float)
    for row in packs(rows):
        volume, price = number(row["volume_m3"]), number(row["price_per_m3"])
        if volume is not None and price is not None:
            quarter = "missing" if row["felled_on"] in MISSING else str((int(row["felled_on"][5:7]) + 2) // 3)
            worth["" if row["bay"] in MISSING else row["bay"], quarter] += volume * price
    given = {
        (row["bay"], name.removeprefix("worth_")): float(value)
        for row in found for name, value in row.items() if name != "bay" and value
    }  # fmt: skip
    assert given == {key: pytest.approx(value) for key, value in worth.items()}


def check_sequence(found: list[Row], rows: list[Row], folder: Path) -> None:
    nights = [row for row in rows if row["shift"] == "night"]

    def key(row: Row) -> tuple[bool, str, bool, float]:
        price = number(row["price_per_m3"])
        day = "" if row["felled_on"] in MISSING else row["felled_on"]
        return not day, day, price is None, -(price or 0)

    assert [row["ticket"] for row in found] == [row["ticket"] for row in sorted(nights, key=key)]


def check_files(found: list[Row], rows: list[Row], folder: Path) -> None:
    groups: dict[tuple[str, str], list[Row]] = defaultdict(list)
    for row in rows:
        if row["reserved"] == "true":
            groups[row["species"], row["grade"]].append(row)
    written = [path for path in folder.glob("*-*.csv") if not path.name.startswith("yard_")]
    assert sorted(map(len, map(rows_of, written))) == sorted(map(len, groups.values()))
    for path in written:
        inside = rows_of(path)
        assert inside == groups[inside[0]["species"], inside[0]["grade"]]


class Hand:
    """A terminal, and how many keys were pressed at it."""

    def __init__(self, app: Terminal) -> None:
        self.app, self.count = app, 0

    def keys(self, *keys: str) -> None:
        self.count += len(keys)
        self.app.keys(*keys)

    def type(self, text: str) -> None:
        self.count += len(text)
        self.app.type(text)

    def line(self, text: str) -> None:
        self.keys("w")
        self.app.until("cut ▸")
        self.type(text)
        self.app.until("(as line")
        self.keys("Enter")
        self.app.until("cut ▸", gone=True)

    def save(self, words: str) -> None:
        self.keys("C-s")
        self.app.until("save slice ▸")
        self.type(words)  # what stands there gives way to what is typed
        self.app.until("writes ")
        self.keys("Enter")
        self.app.until("read back")


def said_keys(job: str) -> int:
    found = re.search(rf"^\| {job} \|.*\| (\d+) \|$", PAGE.read_text(encoding="utf-8"), re.MULTILINE)
    assert found is not None
    return int(found[1])


def prepared(start: Start, folder: Path, rows: list[Row], yard: Path) -> Terminal:
    here = folder / "terminal-0"
    app = start("yard_2031.csv")
    (here / "mills.csv").write_bytes((yard / "mills.csv").read_bytes())
    tickets = [row["ticket"] for row in packs(rows)][5:3000:10]
    (here / "asked.txt").write_text("\n".join([*tickets, *(f"9{at:04}-31" for at in range(5))]) + "\n")
    app.until("7,650 rows × 71 columns")
    return app


@pytest.mark.few(2)
@pytest.mark.parametrize("job", JOBS)
def test_a_job_is_done_and_takes_the_keys_that_are_said(
    start: Start, tmp_path: Path, yard: Path, yard_rows: list[Row], job: str
) -> None:
    hand = Hand(prepared(start, tmp_path, yard_rows, yard))
    lines, file = JOBS[job]
    for line in lines:
        hand.line(line)
    if job == "asked":
        hand.app.until("5 of 305")
    hand.save(file)
    here = tmp_path / "terminal-0"
    found = [] if job == "files" else rows_of(here / file)
    globals()[f"check_{job}"](found, yard_rows, here)
    assert hand.count == said_keys(job), f"{job} takes {hand.count} keys"


@pytest.mark.long
def test_the_same_again_for_another_year(start: Start, tmp_path: Path, yard: Path, yard_rows: list[Row]) -> None:
    hand = Hand(prepared(start, tmp_path, yard_rows, yard))
    for line in DEAREST:
        hand.line(line)
    before = hand.count
    hand.keys("F4")
    hand.app.until("save list ▸")
    hand.type("dearest.cut")
    hand.app.until("list ▸ dearest.cut")
    hand.keys("Enter")
    hand.app.until("run it again with")
    command = "yardcut run dearest.cut --source yard_2030.csv --out dearest-2030.csv"
    here = tmp_path / "terminal-0"
    (here / "yard_2030.csv").write_bytes((yard / "yard_2030.csv").read_bytes())
    done = yardcut(*command.split()[1:], cwd=here)
    assert done.returncode == 0, done.stderr
    rows = [row for row in rows_of(yard / "yard_2030.csv") if any(row.values()) and row["ticket"] != "ticket"]
    assert rows_of(here / "dearest-2030.csv") == dearest(rows)
    assert hand.count - before + len(command) + 1 == said_keys("again"), hand.count - before + len(command) + 1
