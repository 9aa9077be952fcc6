"""What each form of a draw takes, and what the grammar cannot see of it."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

from lark import Token

from yardcut.core.errors import ListError, Mend
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.syntax.limits import check_count
from yardcut.core.language.verbs.draw_parts import Amount, Draw, Share

CLAUSES: dict[str, tuple[str, ...]] = {
    "first": ("per",),
    "last": ("per",),
    "every": ("per",),
    "rows": ("per",),
    "from": (),
    "top": ("keys", "per", "with_ties"),
    "bottom": ("keys", "per", "with_ties"),
    "random": ("per", "seed", "weight", "with_replacement"),
    "chance": ("seed",),
    "stratified": ("per", "strata", "seed"),
    "part": ("per", "seed"),
}
CLAUSE_WORDS = {
    "keys": "by", "with_ties": "with ties", "weight": "weighted by", "with_replacement": "with replacement",
    "strata": "proportional, equal, at least n each, sizes or shares",
}  # fmt: skip


def token_span(token: Token) -> t.Span:
    """Return the offsets of a token."""
    return (token.start_pos or 0, token.end_pos or 0)


def whole(token: Token) -> int:
    """Read a whole number. Raises ``ListError``."""
    if not str(token).isdigit():
        start, end = token_span(token)
        raise ListError(f"a whole number stands here, not {token}", start=start, end=end)
    return int(token)


def place_of_row(token: Token) -> int:
    """Read the number of a row, from 1; a dial counts as 1 until it is known. Raises ``ListError``."""
    if token.type == "DIAL":
        return 1
    check_count(token, *token_span(token))
    return whole(token)


def whole_amount(token: Token) -> Amount:
    """Read a whole number of rows, or a dial. Raises ``ListError``."""
    written = str(token) if token.type == "DIAL" else str(place_of_row(token))
    return Amount(written, span=token_span(token))


def check(draw: Draw) -> None:
    """Raise ``ListError`` when a draw makes no sense, whatever its dials may hold."""
    if draw.dials_named:
        amount = replace(draw.amount, written="1") if draw.amount.dial else draw.amount
        strata = draw.strata and replace(draw.strata, shares=tuple(map(_probe, draw.strata.shares)))
        draw = replace(draw, amount=amount, strata=strata, places=(), start=1, end=max(1, draw.end))
    if draw.form in ("top", "bottom"):
        _check_ranked(draw)
    if draw.form == "stratified":
        _check_strata(draw)
    elif draw.form == "part":
        _check_split(draw)
    elif draw.form != "from":
        _check_amount(draw)


def _probe(share: Share) -> Share:
    return replace(share, amount=replace(share.amount, written="1")) if share.amount.dial else share


def _check_amount(draw: Draw) -> None:
    amount = draw.amount
    start, end = amount.span
    check_count(amount.written, start, end)
    if draw.form in ("every", "rows") or draw.one_in:
        if int(amount.written) < 1 or draw.start < 1:
            raise ListError("rows are counted from 1", start=start, end=end)
        if draw.form == "rows" and draw.end < draw.start:
            raise ListError(f"rows {draw.start} to {draw.end} runs backwards and takes nothing", start=start, end=end)
        return
    if draw.with_replacement and amount.percent:
        return
    if draw.form != "chance":
        _check_rows(amount)
    elif not amount.percent and t.Number(amount.written).value > 1:
        raise ListError("a chance lies between 0 and 1", start=start, end=end, mend=Mend("write 10 percent, or 0.1"))
    else:
        _check_percent(amount)


def _check_rows(amount: Amount) -> None:
    start, end = amount.span
    check_count(amount.written, start, end)
    if not amount.percent and not amount.written.isdigit():
        raise ListError(f"a number of rows is whole, not {amount.written}", start=start, end=end)
    _check_percent(amount)


def _check_percent(amount: Amount) -> None:
    if amount.percent and t.Number(amount.written).value > 100:
        start, end = amount.span
        raise ListError("no more than 100 percent can be drawn", start=start, end=end)


def _check_ranked(draw: Draw) -> None:
    if not draw.keys:
        raise ListError(f"draw {draw.form} needs what to rank by: draw {draw.form} 12 by price_per_m3",
                        start=draw.span[0], end=draw.span[1])  # fmt: skip
    first = draw.keys[0]
    if first.descending or first.nulls_first:
        raise ListError(
            f"{draw.form} already says which end comes first: the first key takes no DESC and no NULLS",
            start=first.span[0], end=first.span[1],
        )  # fmt: skip


def _check_strata(draw: Draw) -> None:
    """Raise ``ListError`` for strata without groups, without sizes, or with both a total and sizes."""
    strata, (start, end) = draw.strata, draw.span
    if not draw.per:
        raise ListError("draw stratified needs its groups: draw stratified 500 per species", start=start, end=end)
    named = strata is not None and bool(strata.shares)
    if not named:
        if not draw.amount.written:
            raise ListError(
                "draw stratified needs how many rows: a total, draw stratified 500 per species, or sizes of each group",
                start=start, end=end,
            )  # fmt: skip
        _check_rows(draw.amount)
        return
    assert strata is not None
    if draw.amount.written:
        raise ListError(f"{strata.how} say how many rows each group gives, and so there is no total beside them",
                        start=draw.amount.span[0], end=draw.amount.span[1])  # fmt: skip
    for share in strata.shares:
        _check_share(share, strata.how, len(draw.per))
    if len([share for share in strata.shares if not share.key]) > 1:
        raise ListError("others stands twice in this draw", start=start, end=end)


def _check_share(share: Share, how: str, width: int) -> None:
    start, end = share.span
    _check_rows(share.amount)
    if share.amount.percent != (how == "shares"):
        says = "shares are percentages of each group: 'oak' 50 percent"
        raise ListError(says if how == "shares" else "sizes are numbers of rows: 'oak' 300", start=start, end=end)
    if share.key and len(share.key) != width:
        plural = "one value" if width == 1 else f"{width} values in brackets"
        raise ListError(f"a group is named here by {plural}", start=start, end=end)


def _check_split(draw: Draw) -> None:
    """Raise ``ListError`` for parts that do not add up to the whole, or one that is not among them."""
    start, end = draw.span
    for amount in draw.split:
        check_count(amount.written, *amount.span)
    total = sum(Fraction(amount.written) for amount in draw.split)
    if total != 100:
        said = f"{float(total):g}"
        raise ListError(
            f"the parts of a split leave nothing over: they add up to 100 percent, not {said}",
            start=draw.split[0].span[0], end=draw.split[-1].span[1],
        )  # fmt: skip
    if not 1 <= int(draw.amount.written) <= len(draw.split):
        raise ListError(f"there are {len(draw.split)} parts, counted from 1", start=start, end=end)
