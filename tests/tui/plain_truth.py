"""Lines of a cut in plain Python: what each leaves, worked out the slow and obvious way."""

from __future__ import annotations

import csv
import random
from collections.abc import Callable, Sequence
from fractions import Fraction
from pathlib import Path

from yardcut.core.ranking.hashing import chance_limit, row_rank

Row = dict[str, str | float | int | None]
COLUMNS = {"ticket": "text", "species": "text", "grade": "text", "boards": "integer", "price": "number"}


def write_packs(path: Path, count: int, seed: int) -> list[Row]:
    """Write made-up packs, and second tables beside them; return the packs, ``n`` counting from 1."""
    (path.parent / "woods.txt").write_text("yew\noak\nfir\noak\n")
    (path.parent / "grades.csv").write_text("grade,weight\nA,1\n,9\nC,5\nD,7\n")
    rng = random.Random(seed)
    rows: list[Row] = []
    for n in range(1, count + 1):
        rows.append(
            {
                "n": n,
                "ticket": f"{n:05}-31",
                "species": rng.choice(["oak", "ash", "larch", "yew"]),
                "grade": rng.choice(["A", "B", "C", None]),
                "boards": rng.choice([None, *range(5, 60)]),
                "price": rng.choice([None, *(step * 2.5 for step in range(40, 300))]),
            }
        )
    with open(path, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(COLUMNS)
        writer.writerows(["" if row[name] is None else row[name] for name in COLUMNS] for row in rows)
    return rows


def _number(row: Row, name: str) -> float:
    value = row[name]
    assert isinstance(value, int | float)
    return value


def _ordered(rows: list[Row], name: str, *, downwards: bool) -> list[Row]:
    there = [row for row in rows if row[name] is not None]
    there.sort(key=lambda row: -_number(row, name) if downwards else _number(row, name))
    return there + [row for row in rows if row[name] is None]


def _made(rows: list[Row]) -> list[Row]:
    def worth(row: Row) -> float | None:
        return None if row["price"] is None or row["boards"] is None else _number(row, "price") * _number(row, "boards")

    return [{**row, "worth": worth(row)} for row in rows]


WEIGHTS = {"A": 1, "C": 5}


def _weighed(rows: list[Row]) -> list[Row]:
    return [{**row, "weight": WEIGHTS.get(str(row["grade"]))} for row in rows]


_CHANCE = chance_limit(Fraction(1, 4))
LINES: dict[str, Callable[[list[Row]], list[Row]]] = {
    "keep grade = 'A'": lambda rows: [row for row in rows if row["grade"] == "A"],
    "drop species = 'oak'": lambda rows: [row for row in rows if row["species"] != "oak"],
    "keep NOT grade = 'B'": lambda rows: [row for row in rows if row["grade"] not in ("B", None)],
    "keep boards >= 20": lambda rows: [row for row in rows if row["boards"] is not None and _number(row, "boards") >= 20],
    "drop price IS NULL": lambda rows: [row for row in rows if row["price"] is not None],
    "keep species = 'none'": lambda rows: [],
    "order price": lambda rows: _ordered(rows, "price", downwards=False),
    "order boards DESC": lambda rows: _ordered(rows, "boards", downwards=True),
    "draw first 10": lambda rows: rows[:10],
    "draw last 25": lambda rows: rows[-25:],
    "draw every 3 from 2": lambda rows: rows[1::3],
    "draw top 7 by price": lambda rows: _ordered(
        [row for row in rows if row["price"] is not None], "price", downwards=True
    )[:7],
    "draw chance 1 in 4 seed 3": lambda rows: [
        row for row in rows if row_rank(3, 0, int(_number(row, "n")) - 1) < _CHANCE
    ],
    "make worth = price * boards": _made,
    'keep species IN "woods.txt"': lambda rows: [row for row in rows if row["species"] in ("yew", "oak")],
    'drop grade NOT IN "grades.csv"': lambda rows: [row for row in rows if row["grade"] != "B"],
    'bring weight from "grades.csv" by grade': _weighed,
    'bring weight from "grades.csv" by grade matched only': lambda rows: [
        row for row in _weighed(rows) if row["weight"] is not None
    ],
    "columns ticket, price, grade, boards": lambda rows: rows,
}  # fmt: skip


def left_by(rows: list[Row], texts: Sequence[str]) -> list[Row]:
    """Return what some lines leave; those that are off leave all."""
    for text in texts:
        if not text.startswith("off "):
            rows = LINES[text](rows) if text in LINES else _about_a_cell(text, rows)
    return rows


def _about_a_cell(text: str, rows: list[Row]) -> list[Row]:
    """Return what a line leaves that one key on a cell wrote."""
    if text.startswith("columns "):  # rows stay as they are
        return list(rows)
    verb, name, rest = text.split(None, 2)
    if rest == "IS NULL":
        hits = [row.get(name) is None for row in rows]
    else:
        written = rest.removeprefix("= ")
        value = written.strip("'") if written.startswith("'") else float(written)
        hits = [row.get(name) == value for row in rows]
    return [row for row, hit in zip(rows, hits, strict=True) if hit is (verb == "keep")]
