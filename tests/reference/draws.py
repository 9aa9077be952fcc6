"""Draws: which rows they take, and in which order."""

from __future__ import annotations

import math
from decimal import Decimal, localcontext
from fractions import Fraction
from typing import Any

from reference.kinds import Row, Table
from reference.orders import key_of
from reference.reading import Node, Reader
from reference.values import evaluate, truth

MASK = (1 << 64) - 1
GOLDEN = 0x9E3779B97F4A7C15


def mix(state: int) -> int:
    """Return the output of SplitMix64 for one state."""
    state = (state + GOLDEN) & MASK
    state = ((state ^ (state >> 30)) * 0xBF58476D1CE4E5B9) & MASK
    state = ((state ^ (state >> 27)) * 0x94D049BB133111EB) & MASK
    return state ^ (state >> 31)


def rank(seed: int, file: int, row: int) -> int:
    """Return the rank of a row of a file."""
    return mix((mix(mix(seed) ^ file) + row * GOLDEN) & MASK)


def rank_of(row: Row, seed: int) -> int:
    """Return the rank of a row; of copy k of a row that of the row, mixed with k."""
    found = rank(seed, 0, row.source_row - 1)
    for copy in row.copies:
        found = mix((found + copy * GOLDEN) & MASK) if copy else found
    return found


class Draw:
    """A draw line, read clause by clause."""

    def __init__(self, reader: Reader, table: Table) -> None:
        self.table = table
        self.form = reader.any_of(
            "FIRST", "LAST", "TOP", "BOTTOM", "RANDOM", "EVERY", "ROWS", "CHANCE", "FROM", "STRATIFIED", "PART"
        ).lower()
        self.amount: Fraction | None = None
        self.percent = False
        self.keys: tuple[Any, ...] = ()
        self.per: tuple[Node, ...] = ()
        self.seed, self.ties, self.replacement, self.remainder = 0, False, False, False
        self.weight: Node | None = None
        self.how, self.least = "proportional", 0
        self.sizes: list[tuple[Any, Fraction, bool]] = []
        self._read_form(reader)
        while not reader.is_done:
            self._clause(reader)

    def _number(self, reader: Reader) -> Fraction:
        kind, written = reader.token()
        return Fraction(str(self.table.dials[written[1:]]) if kind == "dial" else written)

    def _read_form(self, reader: Reader) -> None:
        if self.form == "every":
            self.amount = self._number(reader)
            self.start = self._number(reader) if reader.take("FROM") else Fraction(1)
        elif self.form == "rows":
            self.start = self._number(reader)
            reader.need("TO")
            self.amount = self._number(reader)
        elif self.form == "chance":
            self.amount = self._number(reader)
            if reader.take("PERCENT"):
                self.amount /= 100
            elif reader.take("IN"):
                self.amount /= self._number(reader)
        elif self.form == "from":
            self.first = reader.condition()
            reader.need("TO")
            self.second = reader.condition()
        elif self.form == "part":
            self.number = int(self._number(reader))
            reader.need("OF")
            self.shares = [self._number(reader)]
            while reader.take(","):
                self.shares.append(self._number(reader))
            reader.need("PERCENT")
        elif reader.peek()[0] in ("number", "dial"):
            self.amount = self._number(reader)
            self.percent = reader.take("PERCENT")

    def _clause(self, reader: Reader) -> None:
        if reader.take("BY"):
            from reference.orders import sort_keys

            self.keys = sort_keys(reader)
        elif reader.take("PER"):
            self.per = reader.several(reader.value)
        elif reader.take("WITH", "TIES"):
            self.ties = True
        elif reader.take("SPLIT", "TIES"):
            self.ties = False
        elif reader.take("WITH", "REPLACEMENT"):
            self.replacement = True
        elif reader.take("SEED"):
            self.seed = int(self._number(reader))
        elif reader.take("WEIGHTED", "BY"):
            self.weight = reader.value()
        elif reader.take("REMAINDER"):
            self.remainder = True
        elif word := reader.any_of("PROPORTIONAL", "EQUAL"):
            self.how = word.lower()
        elif reader.take("AT", "LEAST"):
            self.how, self.least = "at least", int(self._number(reader))
            reader.need("EACH")
        else:
            reader.any_of("SIZES", "SHARES")
            self.how = "named"
            self.sizes = list(reader.several(lambda: self._size(reader)))

    def _size(self, reader: Reader) -> tuple[Any, Fraction, bool]:
        if reader.take("OTHERS"):
            key: Any = "others"
        elif reader.take("("):
            key = tuple(node[1] for node in reader.several(reader.value))
            reader.need(")")
        else:
            key = (reader.value()[1],)
        return key, self._number(reader), reader.take("PERCENT")

    # carrying out

    def rows(self) -> list[Row]:
        """Return the rows drawn."""
        table = self.table
        if self.amount is None and self.form in ("first", "last", "top", "bottom", "random"):
            return table.rows  # its dial is empty
        taken = self._taken()
        if self.remainder:
            return [row for row in table.rows if not any(row is each for each in taken)]
        return taken

    def _taken(self) -> list[Row]:
        rows = self.table.rows
        if self.form == "from":
            start = next((at for at, row in enumerate(rows) if truth(self.first, row, self.table)), None)
            if start is None:
                return []
            end = next((at for at in range(start, len(rows)) if truth(self.second, rows[at], self.table)), None)
            return [] if end is None else rows[start : end + 1]
        if self.form == "chance":
            assert self.amount is not None
            limit = math.floor(self.amount * 2**64)
            return [row for row in rows if rank_of(row, self.seed) < limit]
        groups = self._groups()
        if self.form in ("every", "rows"):
            kept = [row for members in groups.values() for at, row in enumerate(members, 1) if self._is_at(at)]
            return self._in_order(kept)
        if self.replacement:
            return self._with_replacement(groups)
        quotas = self._quotas(groups)
        found: list[Row] = []
        for key, members in groups.items():
            found += self._best(members, *quotas[key])
        return found if self.form in ("top", "bottom") else self._in_order(found)

    def _is_at(self, at: int) -> bool:
        assert self.amount is not None
        return at >= self.start and (
            (at - self.start) % self.amount == 0 if self.form == "every" else at <= self.amount
        )

    def _in_order(self, some: list[Row]) -> list[Row]:
        return [row for row in self.table.rows if any(row is each for each in some)]

    def _groups(self) -> dict[tuple[Any, ...], list[Row]]:
        """Return the rows that can be drawn by group, in order of first appearance."""
        found: dict[tuple[Any, ...], list[Row]] = {}
        for row in self.table.rows:
            if self.keys and evaluate(self.keys[0].value, row, self.table) is None:
                continue
            if self.weight is not None and not evaluate(self.weight, row, self.table):
                continue
            found.setdefault(tuple(evaluate(each, row, self.table) for each in self.per), []).append(row)
        return found if self.per or found else {(): []}

    def _best(self, members: list[Row], before: int, quota: int) -> list[Row]:
        """Return the rows of a group from one place of its ranking to another."""
        if self.form == "first":
            return members[:quota]
        if self.form == "last":
            return members[max(0, len(members) - quota) :]
        if self.form in ("top", "bottom"):
            keys = [key_of(key, self.table, form=self.form if at == 0 else "") for at, key in enumerate(self.keys)]
            ordered = members
            for key in reversed(keys):
                ordered = sorted(ordered, key=key)
            if self.ties and 0 < quota < len(ordered):
                edge = [key(ordered[quota - 1]) for key in keys]
                return [row for at, row in enumerate(ordered) if at < quota or [key(row) for key in keys] == edge]
            return ordered[:quota]
        ordered = sorted(members, key=self._chance)
        return ordered[before:quota]

    def _chance(self, row: Row) -> Any:
        own = rank_of(row, self.seed)
        if self.weight is None:
            return own
        with localcontext() as context:
            context.prec = 50
            u = (Decimal(own >> 11) + Decimal("0.5")) / Decimal(2**53)
            return -float(u.ln()) / float(evaluate(self.weight, row, self.table))

    def _quotas(self, groups: dict[tuple[Any, ...], list[Row]]) -> dict[tuple[Any, ...], tuple[int, int]]:
        sizes = {key: len(members) for key, members in groups.items()}
        if self.form == "part":
            sums = [sum(self.shares[:upto], Fraction(0)) for upto in (self.number - 1, self.number)]
            return {key: (share_of(size, sums[0]), share_of(size, sums[1])) for key, size in sizes.items()}
        if self.form == "stratified":
            return {key: (0, quota) for key, quota in self._stratified(sizes).items()}
        assert self.amount is not None
        return {
            key: (0, share_of(size, self.amount) if self.percent else int(self.amount)) for key, size in sizes.items()
        }

    def _stratified(self, sizes: dict[tuple[Any, ...], int]) -> dict[tuple[Any, ...], int]:
        if self.how == "named":
            named = {key: (amount, percent) for key, amount, percent in self.sizes}
            found = {}
            for key, size in sizes.items():
                amount, percent = named.get(key, named.get("others", (Fraction(0), False)))
                found[key] = share_of(size, amount) if percent else int(amount)
            return found
        total = int(self.amount or 0)
        if self.how == "equal":
            each, rest = divmod(total, max(1, len(sizes)))
            return {key: each + (at < rest) for at, key in enumerate(sizes)}
        given = {key: min(size, self.least) for key, size in sizes.items()}
        while sum(given.values()) < min(total, sum(sizes.values())):
            open_ = [key for key in sizes if given[key] < sizes[key]]
            best = max(Fraction(sizes[key], 2 * given[key] + 1) for key in open_)
            winner = next(key for key in open_ if Fraction(sizes[key], 2 * given[key] + 1) == best)
            given[winner] += 1
        return given

    def _with_replacement(self, groups: dict[tuple[Any, ...], list[Row]]) -> list[Row]:
        times: dict[int, int] = {}
        number = 0
        of_id = {id(row): row for row in self.table.rows}
        for members in groups.values():
            if not members:
                continue
            assert self.amount is not None
            ordered = sorted(members, key=lambda row: (row.source_row, row.copies))
            weights = [1.0 if self.weight is None else float(evaluate(self.weight, row, self.table)) for row in ordered]
            wanted = share_of(len(members), self.amount) if self.percent else int(self.amount)
            for _ in range(wanted):
                u = rank(self.seed, MASK, number)
                number += 1
                if self.weight is None:
                    place = u * len(ordered) >> 64
                else:
                    place = _by_weight(weights, (u >> 11) / 2**53)
                times[id(ordered[place])] = times.get(id(ordered[place]), 0) + 1
        if self.remainder:
            return [of_id[each] for each in times]
        return [
            Row(row.values, row.source_row, (*row.copies, copy))
            for row in self.table.rows
            for copy in range(times.get(id(row), 0))
        ]


def _by_weight(weights: list[float], part: float) -> int:
    total = 0.0
    for weight in weights:
        total += weight
    reached, sum_ = part * total, 0.0
    for place, weight in enumerate(weights):
        sum_ += weight
        if sum_ > reached:
            return place
    return len(weights) - 1


def share_of(rows: int, percent: Fraction) -> int:
    """Return a percentage of some rows, to the nearest row, halves up."""
    return math.floor(rows * percent / 100 + Fraction(1, 2))
