"""What the card of a draw shows: its groups, and the draw beside the whole."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING

from textual.content import Content

from yardcut.core.profile.balance import USUAL
from yardcut.tui.text import clean, fit, glance, listed
from yardcut.tui.widgets.bar_cells import SAW, SOLID

if TYPE_CHECKING:
    from yardcut.core.profile.balance import ColumnBalance, Portion
    from yardcut.core.ranking.drawing.drawn import Stratum

_MOST_GROUPS, _MOST_COLUMNS, _MOST_PORTIONS = 200, 5, 7
_COUNT, _ERROR = 11, 15
Runs = list[tuple[str, str]]


def groups_drawn(strata: Sequence[Stratum], twins: Mapping[str, str], word: str, width: int) -> Content:
    """Draw the groups with the rows there, asked and drawn; short ones and those with a twin are marked.

    Of very many groups the short ones come first. ``word`` says what the rows are that the line leaves: drawn, or left.
    """
    shown = list(strata)
    if len(shown) > _MOST_GROUPS:
        shown = sorted(shown, key=lambda each: not each.is_short)[:_MOST_GROUPS]
    largest = max((each.there for each in shown), default=1)
    name, bar = _room(width - 3 * _COUNT - 22)
    runs: Runs = [(f"{'group':<{name}}{'there':>{_COUNT}}{'asked':>{_COUNT}}{word:>{_COUNT}}", "$dim")]
    for each in shown:
        there = max(1, round(each.there / max(1, largest) * bar))
        taken = min(there, max(1 if each.drawn else 0, round(each.drawn / max(1, largest) * bar)))
        runs += [
            (f"\n{fit(listed(each.label), name)}{each.there:>{_COUNT},}", ""),
            (f"{each.asked:>{_COUNT},}", "$warning" if each.is_short else "$dim"),
            (f"{each.drawn:>{_COUNT},}", "$count"),
            ("  " + SOLID * taken, "$plank"),
            (SAW * (there - taken), "$gone"),
            (f"  ! short of {each.asked - each.there:,}" if each.is_short else "", "$warning"),
            (f"  ! {clean(twins[each.label])}" if each.label in twins else "", "$warning"),
        ]
    if len(strata) > len(shown):
        runs.append((f"\nand {len(strata) - len(shown):,} more groups", "$dim"))
    return Content.assemble(*runs)


def balance_drawn(found: Sequence[ColumnBalance], first: Sequence[str], by_chance: bool, width: int) -> Content:
    """Draw the columns asked for ``first``, and the most uneven ones, with a sentence about the largest difference."""
    named = [each for each in found if each.name in first]
    others = sorted((each for each in found if each.name not in first), key=lambda each: -each.unevenness)
    shown = [*named, *others[:_MOST_COLUMNS]]
    runs: Runs = [("balance  ", "bold $accent"), (_largest(found, by_chance), "bold")]
    runs.append(
        (f"\n{len(found):,} columns looked at; a bar is a share of the draw, {_MARK} that of the whole", "$dim")
    )
    usual = f"{'mostly within':>{_ERROR}}" if by_chance else ""
    name, bar = _room(width - 2 * _COUNT - (_ERROR if by_chance else 0) - 3)
    runs.append((f"\n\n{'':<{name}}{'the whole':>{_COUNT}}{'the draw':>{_COUNT}}{usual}", "$dim"))
    for each in shown:
        runs += _column(each, by_chance, name, bar)
    return Content.assemble(*runs)


def _room(width: int) -> tuple[int, int]:
    """Return how many cells names and bars have of what is left for both."""
    name = max(12, min(30, width * 3 // 5))
    return name, max(4, min(20, width - name))


def _column(balance: ColumnBalance, by_chance: bool, name: int, bar: int) -> Runs:
    runs: Runs = [(f"\n{fit(glance(balance.name), name)}", "bold")]
    if balance.means is not None:
        means = balance.means
        runs += [(f"{means.whole:>{_COUNT}}{means.drawn:>{_COUNT}}", "$count")]
        runs += [(f"{'±' + means.error:>{_ERROR}}" if by_chance else "", "$dim"), ("  mean", "$dim")]
    portions = sorted(balance.portions, key=lambda each: -each.whole)[:_MOST_PORTIONS]
    worst = balance.worst
    if worst is not None and worst not in portions:
        portions[-1:] = [worst]
    for portion in [each for each in balance.portions if each in portions]:
        whole, drawn = balance.shares(portion)
        is_far = by_chance and balance.distance(portion) > _FAR
        runs += [
            (f"\n  {fit(listed(portion.label), name - 2)}", "$dim"),
            (f"{whole:>{_COUNT}.1%}", ""),
            (f"{drawn:>{_COUNT}.1%}", "$warning" if is_far else "$count"),
            (f"{'±' + format(USUAL * balance.error(portion), '.1%'):>{_ERROR}}  " if by_chance else "  ", "$dim"),
            *_beside(whole, drawn, bar),
        ]
    return runs


_FAR = 2.58
"""Standard errors beyond which one draw in a hundred lies."""
_MARK, _LINE = "┃", "─"


def _beside(whole: float, drawn: float, width: int) -> Runs:
    """Draw a share of the draw as a bar, and where that of the whole is as a mark on it or before it."""
    bar, mark = round(drawn * width), round(whole * width)
    if mark < bar:
        return [(SOLID * mark, "$plank"), (_MARK, "$accent"), (SOLID * (bar - mark - 1), "$plank")]
    return [(SOLID * bar, "$plank"), (_LINE * (mark - bar), "$gone"), (_MARK, "$accent")]


def _largest(found: Sequence[ColumnBalance], by_chance: bool) -> str:
    """Say which portion of which column differs most, and whether chance alone does so."""
    uneven = [each for each in found if each.worst is not None and each.distance(each.worst) > 0]
    if not uneven:
        return "no share in the draw can be told from the whole"
    balance = max(uneven, key=lambda each: each.distance(_worst(each)))
    worst = _worst(balance)
    whole, drawn = balance.shares(worst)
    said = f"the largest difference: {clean(balance.name)} {glance(worst.label)}, "
    said += f"{drawn:.1%} of the draw and {whole:.1%} of the whole"
    if not by_chance:
        return said
    near = "as chance does" if balance.distance(worst) <= _FAR else "more than chance mostly does"
    return f"{said}, {near}"


def _worst(balance: ColumnBalance) -> Portion:
    assert balance.worst is not None
    return balance.worst
