"""What the lines of a draw are made of."""

from __future__ import annotations

from fractions import Fraction
from typing import Literal

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Amount(t.Node):
    """How many rows: a count, a percentage written exactly, or ``:name`` where a dial says it."""

    written: str
    percent: bool = False

    @property
    def dial(self) -> str:
        """The name of the dial, "" where there is none."""
        return self.written[1:] if self.written.startswith(":") else ""


Allocation = Literal["proportional", "equal", "at least", "sizes", "shares"]


@dataclass(frozen=True, slots=True)
class Share(t.Node):
    """What one stratum gives; ``key`` has one value for each group value, and none for all others."""

    key: tuple[t.Expression, ...]
    amount: Amount


@dataclass(frozen=True, slots=True)
class Strata(t.Node):
    """How a stratified draw is divided; ``least`` for ``at least``, ``shares`` where strata are named."""

    how: Allocation = "proportional"
    least: int = 0
    shares: tuple[Share, ...] = ()


@dataclass(frozen=True, slots=True)
class Draw(t.Body):
    """Takes some rows.

    ``form`` is first, last, top, bottom, random, every, rows, chance, from, stratified or part. For ``every``,
    ``amount`` is the step and ``start`` the first position; for ``rows`` they are the first and ``end`` the last
    position; for ``chance`` ``amount`` is a probability (a percentage, or ``1 in n`` as ``one_in``); for ``part`` it is
    the part's number among ``split``; for ``from`` the first row is the first of which ``reach[0]`` is true, the last
    the first one from there on of which ``reach[1]`` is. A stratified draw of named sizes has no amount. ``places`` are
    those of ``start``, ``end`` and ``seed`` that a dial gives, each with its name. ``with_replacement``
    draws each row from all of them anew.
    """

    form: str
    amount: Amount = Amount("")
    keys: tuple[t.SortKey, ...] = ()
    per: tuple[t.Expression, ...] = ()
    with_ties: bool = False
    seed: int | None = None
    start: int = 1
    end: int = 0
    one_in: bool = False
    weight: t.Expression | None = None
    strata: Strata | None = None
    split: tuple[Amount, ...] = ()
    reach: tuple[t.Expression, ...] = ()
    with_replacement: bool = False
    remainder: bool = False
    places: tuple[tuple[str, str], ...] = ()

    @property
    def dials_named(self) -> tuple[str, ...]:
        """The names of the dials its numbers come from."""
        shares = self.strata.shares if self.strata is not None else ()
        amounts = [self.amount.dial, *(share.amount.dial for share in shares)]
        return (*filter(None, amounts), *(name for _, name in self.places))

    @property
    def word(self) -> str:
        """The verb."""
        return "draw"

    @property
    def is_by_chance(self) -> bool:
        """True when which rows it takes is decided by a seed."""
        return self.form in ("random", "chance", "stratified", "part")

    @property
    def chance(self) -> Fraction:
        """The chance of each row, where the draw is ``chance``."""
        written = Fraction(self.amount.written)
        return 1 / written if self.one_in else written / 100 if self.amount.percent else written


@dataclass(frozen=True, slots=True)
class NamedShare:
    """What one stratum gives, with the values of its key as groups have them; ``None`` for all others."""

    key: tuple[object, ...] | None
    amount: Amount
    span: t.Span
    text: str


@dataclass(frozen=True, slots=True)
class BoundDraw(b.BoundBody):
    """A draw line: its tree with keys, groups, weight, named strata and ends bound.

    An end whose conditions are all switched off is ``None``: the first row, or the last.
    """

    draw: Draw
    keys: tuple[b.Key, ...]
    groups: tuple[b.BoundValue, ...]
    weight: b.BoundValue | None = None
    shares: tuple[NamedShare, ...] = ()
    reach: tuple[b.BoundCondition | None, ...] = ()

    def arranges(self) -> tuple[b.Key, ...] | None:
        """Return the keys a top or bottom puts its rows in order by, the best first; group by group, by none."""
        if not self.keys or self.draw.remainder:
            return None
        if self.groups:
            return ()
        first = self.keys[0]
        return (
            b.Key(first.value, self.draw.form == "top", first.nulls_first, first.text, first.about), *self.keys[1:],
        )  # fmt: skip
