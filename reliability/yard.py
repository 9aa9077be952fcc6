"""Small made-up tables of packs, and lines that are right for them."""

from __future__ import annotations

import csv
import random
from functools import cache
from pathlib import Path

SMALL, LARGE = 120, 400_000
COLUMNS = ("ticket", "species", "grade", "boards", "price", "felled_on")


def rows(count: int, seed: int) -> list[list[str]]:
    """Return made-up packs as texts."""
    rng = random.Random(seed)
    return [
        [
            f"{number:05}-31", rng.choice(("oak", "ash", "larch", "yew", "")), rng.choice("ABC"),
            rng.choice(("", *map(str, range(5, 60)))), str(rng.randrange(80, 700) * 2.5),
            f"2031-{rng.randint(1, 12):02}-{rng.randint(1, 28):02}",
        ]
        for number in range(count)
    ]  # fmt: skip


def write_packs(path: Path, count: int, seed: int, delimiter: str = ",") -> None:
    """Write packs as delimited text."""
    with open(path, "w", encoding="utf-8", newline="") as file:
        writer = csv.writer(file, delimiter=delimiter, lineterminator="\n")
        writer.writerow(COLUMNS)
        writer.writerows(rows(count, seed))


@cache
def good_lines() -> list[str]:
    """Return lines that are right: the examples of the language, and some more."""
    from yardcut.core.language.functions import FUNCTIONS
    from yardcut.core.language.verbs.all_verbs import VERBS

    functions = [f"make found = {each.example}" for each in FUNCTIONS.values()]
    return functions + [verb.example for verb in VERBS.values() if verb.word != "save"] + [
        "make class = CASE WHEN boards > 20 THEN species WHEN price IS NULL THEN 'x' ELSE NULL END",
        "make share = price / SUM(price), over = price > QUANTILE(price, 0.9)", "drop REPEATED(species, grade)",
        "keep ANY OF (kind number) > 20", "make wet = AVG OF (price, boards), n = COUNT OF (all)",
        "make due = felled_on + INTERVAL '1' MONTH, y = EXTRACT(YEAR FROM felled_on)", "keep price > AVG(price)",
        "make label = UPPER(species) || '-' || grade, b = SUBSTRING(ticket FROM 2 FOR 3), l = LN(price)",
        "keep ALL OF (all) IS NOT NULL", "make t = CAST(price AS text), i = CAST(ticket AS integer)",
        "columns s*, #-1, kind number", "make price = COALESCE(price, 0), dry = boards > 3 AND grade = 'A'",
        "keep species = 'oak'", "keep boards > 20 AND grade IN ('A', 'B')", "drop species IS NULL OR price < 300",
        "keep felled_on BETWEEN '2031-02-01' AND '2031-05-31'", "keep ticket LIKE '0001%'", "order price DESC, ticket",
        "draw first 10", "draw random 5 seed 7", "draw top 3 by price per species", "draw random 10 percent seed 3",
        "columns ticket, price AS cost", "columns all without grade", "make worth = price * boards", "draw last 4",
        "keep NOT (boards > 20 OR species = 'ash')", "order species NULLS FIRST", "draw chance 1 in 10 seed 5",
        "keep ABS(price - 500) < 100", "drop species LIKE_REGEX '^(oak|ash)$'", "off keep boards > 3",
    ]  # fmt: skip
