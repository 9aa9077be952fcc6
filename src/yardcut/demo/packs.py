"""Packs of one year in blocks of whole working days: a list of cells for each column."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from typing import Any

import numpy as np
import numpy.typing as npt

from yardcut.core.quick_dataclasses import dataclass
from yardcut.demo import vocabulary as words

Array = npt.NDArray[Any]
PROBE_DAYS = 28
WORKING_DAYS = 250
_PROBES = tuple(f"moisture_d{day:02d}" for day in range(1, PROBE_DAYS + 1))
COLUMNS = (
    "ticket", "bay", "rack_slot", "mill_id", "species", "origin", "grade", "inspector", "shift", "nominal_size",
    "felled_on", "sawn_on", "kiln_in", "kiln_out", "inspected_at", "sold_on",
    "thickness_mm", "width_mm", "length_mm", "boards", "volume_m3", "weight_kg", "density_kg_m3",
    "knots", "knot_max_mm", "bow_mm", "cup_mm", "twist_mm", "wane_pct", "resin_pct", "moisture_pct", "kiln_days",
    *_PROBES,
    "price_per_m3", "list_price", "discount_pct", "buyer", "invoice_no",
    "reserved", "certified", "defect_note", "remark",
)  # fmt: skip
EXTRA_2031 = ("stack_height_mm", "label_colour")

Cells = dict[str, list[str]]


@dataclass(frozen=True, slots=True)
class YearPlan:
    """One year of the yard: how many packs, and from which seed."""

    year: int
    packs: int
    seed: int = 2031

    def day(self, number: int) -> datetime.date:
        """Return working day ``number``, from 0: five days a week from the first Monday on."""
        start = datetime.date(self.year, 1, 1)
        start += datetime.timedelta(days=(7 - start.weekday()) % 7)
        return start + datetime.timedelta(days=number // 5 * 7 + number % 5)

    def packs_before(self, day: int) -> int:
        """Return the packs that came in before working day ``day``."""
        return self.packs * day // WORKING_DAYS


def make_day(plan: YearPlan, day: int, missing: Sequence[str] = ("", "NA", "n/a")) -> Cells:
    """Return the packs of one working day, deterministic from the plan's seed."""
    packs = _Packs(plan, day, missing)
    return {**packs.origins(), **packs.measures(), **packs.sales(), **packs.probes()}


class _Packs:
    """The packs of a day: what several columns have in common. All is drawn in one sequence, which the seed fixes."""

    def __init__(self, plan: YearPlan, day: int, missing: Sequence[str]) -> None:
        self.plan = plan
        self.first, self.end = plan.packs_before(day), plan.packs_before(day + 1)
        self.count = self.end - self.first
        self.random = np.random.default_rng([plan.seed, plan.year, day])
        self.pick = _Picker(self.random, self.count, missing)
        random, count = self.random, self.count
        self.date = plan.day(day)
        self.species = np.array(words.SPECIES)[random.choice(len(words.SPECIES), count, p=words.SPECIES_SHARES)]
        self.grade_rank = random.choice(4, count, p=words.GRADE_SHARES)
        self.inspector = np.array(words.INSPECTORS)[random.integers(0, len(words.INSPECTORS), count)]
        self.size = random.integers(0, len(words.SIZES), count)
        self.thickness = np.array([t for t, _ in words.SIZES])[self.size]
        self.width = np.array([w for _, w in words.SIZES])[self.size]
        self.length = 1800 + 300 * np.minimum(14, random.gamma(1.6, 2.2, count).astype(np.int64))
        self.boards = random.integers(6, 90, count)
        self.volume = np.round(self.thickness * self.width * self.length * self.boards / 1e9, 3)
        self.density = np.round(
            np.array([words.DENSITY[name] for name in self.species.tolist()]) * random.normal(1, 0.05, count)
        )
        self.kiln_days = random.integers(4, PROBE_DAYS + 1, count)
        self.start = random.uniform(28, 62, count)
        self.final = np.round(np.clip(random.normal(14.5, 4.2, count), 6.1, 34), 1)
        self.base = np.array([words.BASE_PRICE[name] for name in self.species.tolist()])
        self.price = np.round(self.base * (1.25 - 0.16 * self.grade_rank) * random.normal(1, 0.08, count) / 5) * 5
        self.discount = random.choice([0, 0, 0, 2.5, 5, 7.5, 10], count)
        self.sold = random.random(count) < 0.55
        self.age = random.integers(20, 300, count)
        self.sawn = random.integers(3, 15, count)
        self.kiln_in = np.datetime64(self.date) - self.kiln_days
        self.minute = random.integers(0, 1440, count)
        self.note_words = words.DEFECT_NOTES if plan.year != 2029 else words.PLAIN_DEFECT_NOTES
        self.tickets = range(self.first, self.end)

    def origins(self) -> Cells:
        """Return what a pack is, where it comes from, and when."""
        random, count, pick = self.random, self.count, self.pick
        day = np.datetime64(self.date)
        return {
            "ticket": [f"{number:05d}-{self.plan.year % 100}" for number in self.tickets],
            "bay": [
                f"{words.BAY_AISLES[bay % 4]}-{bay // 4 + 1:02d}" for bay in random.integers(0, 48, count).tolist()
            ],
            "rack_slot": [f"R{slot}" for slot in random.integers(1, 25, count).tolist()],
            "mill_id": [f"M{mill:02d}" for mill in random.integers(1, 42, count).tolist()],
            "species": _spelt(self.species, random),
            "origin": pick.one_of(words.ORIGINS),
            "grade": _graded(self.grade_rank, self.inspector),
            "inspector": self.inspector.tolist(),
            "shift": pick.one_of(words.SHIFTS),
            "nominal_size": [f"{words.SIZES[index][0]} x {words.SIZES[index][1]}" for index in self.size.tolist()],
            "felled_on": pick.days(day - self.age - self.sawn, 0.01),
            "sawn_on": pick.days(day - self.age, 0.0),
            "kiln_in": pick.moments(self.kiln_in, self.minute),
            "kiln_out": pick.moments(self.kiln_in + self.kiln_days, (self.minute + 37) % 1440),
            "inspected_at": pick.moments(np.full(count, day), np.sort(random.integers(360, 1320, count))),
            "sold_on": pick.kept(self.sold, pick.days(day + random.integers(1, 60, count), 0.0)),
        }  # fmt: skip

    def measures(self) -> Cells:
        """Return what was measured."""
        random, count, pick = self.random, self.count, self.pick
        return {
            "thickness_mm": pick.numbers(self.thickness),
            "width_mm": pick.numbers(self.width),
            "length_mm": pick.numbers(self.length, 0.02),
            "boards": pick.numbers(self.boards),
            "volume_m3": pick.numbers(self.volume),
            "weight_kg": pick.numbers(np.round(self.volume * self.density, 1), 0.03),
            "density_kg_m3": pick.numbers(self.density.astype(np.int64)),
            "knots": pick.numbers(random.poisson(6, count)),
            "knot_max_mm": pick.numbers(np.round(random.gamma(2, 6, count)).astype(np.int64), 0.05),
            "bow_mm": pick.numbers(np.round(random.gamma(2, 1.4, count), 1)),
            "cup_mm": pick.numbers(np.round(random.gamma(1.5, 0.8, count), 1)),
            "twist_mm": pick.numbers(np.round(random.gamma(1.2, 1.1, count), 1)),
            "wane_pct": pick.numbers(np.round(random.exponential(3, count), 1)),
            "resin_pct": pick.numbers(np.round(random.exponential(1.2, count), 2), 0.1),
            "moisture_pct": pick.numbers(self.final, 0.04),
            "kiln_days": pick.numbers(self.kiln_days),
        }  # fmt: skip

    def sales(self) -> Cells:
        """Return prices, buyers, flags and notes."""
        random, count, pick = self.random, self.count, self.pick
        numbers = [4_100_000_000_000_000_000 + self.plan.year * 10**12 + number * 37 for number in self.tickets]
        return {
            "price_per_m3": pick.numbers(self.price.astype(np.int64)),
            "list_price": pick.numbers(np.round(self.price * self.volume, 2)),
            "discount_pct": pick.numbers(self.discount, 0.02),
            "buyer": pick.kept(self.sold, pick.one_of(words.BUYERS)),
            "invoice_no": pick.kept(self.sold, list(map(str, numbers))),
            "reserved": pick.flags(0.12, 0.06),
            "certified": pick.flags(0.64, 0.09),
            "defect_note": pick.kept(random.random(count) < 0.22, pick.one_of(self.note_words)),
            "remark": pick.one_of(words.REMARKS),
            "stack_height_mm": pick.numbers(self.thickness * ((self.boards + 5) // 6) + 40),
            "label_colour": pick.one_of(words.LABEL_COLOURS),
        }  # fmt: skip

    def probes(self) -> Cells:
        """Return the readings of the kiln, a column a day."""
        random, count, pick = self.random, self.count, self.pick
        cells: Cells = {}
        span = self.start - self.final
        decay = span / self.start
        for number, name in enumerate(_PROBES, 1):
            drying = span * np.exp(-number / (self.kiln_days * 0.35))
            reading = np.round(self.final + drying + random.normal(0, 0.3, count) * decay, 1)
            cells[name] = pick.kept(self.kiln_days >= number, pick.numbers(reading, 0.01))
        return cells


def _spelt(species: Array, random: np.random.Generator) -> list[str]:
    """Write about one oak in twenty as ``Oak`` or ``oak ``: two packs in a hundred."""
    spelt = species.astype(object)
    chance = random.random(len(species))
    is_oak = species == "oak"
    spelt[is_oak & (chance < 0.025)] = "Oak"
    spelt[is_oak & (chance >= 0.025) & (chance < 0.05)] = "oak "
    found: list[str] = spelt.tolist()
    return found


def _graded(rank: Array, inspector: Array) -> list[str]:
    small = set(words.LOWER_CASE_INSPECTORS)
    return [
        words.GRADES[index].lower() if name in small and index == 0 else words.GRADES[index]
        for index, name in zip(rank.tolist(), inspector.tolist(), strict=True)
    ]


class _NumberTexts(dict[float, str]):
    """The texts of numbers: most readings come again and again, and writing a float out is what takes the time."""

    most = 100_000

    def __missing__(self, value: float) -> str:
        text = str(value)
        if len(self) < self.most:
            self[value] = text
        return text


_CLOCK = tuple(f"{minute // 60:02d}:{minute % 60:02d}:00" for minute in range(1440))
_NUMBER_TEXTS, _WHOLE_TEXTS = _NumberTexts(), _NumberTexts()


class _Picker:
    """Draws cells for the packs of one day."""

    def __init__(self, random: np.random.Generator, count: int, missing: Sequence[str]) -> None:
        self._random = random
        self._count = count
        self._missing = missing

    def one_of(self, choices: Sequence[str]) -> list[str]:
        return [choices[index] for index in self._random.integers(0, len(choices), self._count).tolist()]

    def _holes(self, texts: list[str], share: float) -> list[str]:
        if not share:
            return texts
        gone = self._random.random(self._count) < share
        how = self._random.integers(0, len(self._missing), self._count)
        for place in np.flatnonzero(gone).tolist():
            texts[place] = self._missing[how[place]]
        return texts

    def numbers(self, values: Array, missing: float = 0.0) -> list[str]:
        texts = _WHOLE_TEXTS if values.dtype.kind == "i" else _NUMBER_TEXTS  # 1 and 1.0 are one key of a dictionary
        return self._holes([texts[value] for value in values.tolist()], missing)

    def days(self, values: Array, missing: float) -> list[str]:
        return self._holes([str(value) for value in values], missing)

    def moments(self, days: Array, minutes: Array) -> list[str]:
        return [
            f"{day} {_CLOCK[minute]}" for day, minute in zip(days.astype(str).tolist(), minutes.tolist(), strict=True)
        ]

    def flags(self, share: float, missing: float) -> list[str]:
        yes = self._random.random(self._count) < share
        return self._holes(["true" if flag else "false" for flag in yes.tolist()], missing)

    def kept(self, present: Array, texts: list[str]) -> list[str]:
        return [text if there else "" for there, text in zip(present.tolist(), texts, strict=True)]
