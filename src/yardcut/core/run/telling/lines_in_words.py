"""A line of a cut in one sentence, with its counts."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.dials_put_in import DialSetting, put_in_line
from yardcut.core.language.save_options import TABLE
from yardcut.core.language.syntax.printing import expression_text, keys_text, second_text
from yardcut.core.language.verbs.all_verbs import VERBS
from yardcut.core.language.verbs.bring_parts import Bring, Match, Only
from yardcut.core.language.verbs.draw_parts import Amount, BoundDraw, Draw
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.language.verbs.make import Make
from yardcut.core.language.verbs.order import Order
from yardcut.core.language.verbs.save import Save
from yardcut.core.language.verbs.tally import Tally
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.telling.conditions_in_words import in_words
from yardcut.core.sources.elsewhere.addresses import is_address

_MOST_COLUMNS = 12


def line_in_words(result: LineResult, dials: Sequence[DialSetting]) -> str:
    """Say what a line did: a sentence with its counts. A line that is switched off is said to be so."""
    statement = result.line.statement
    if statement is None or result.line.off:
        return f"Switched off: {result.line.line.text.strip()}"
    put, _ = put_in_line(statement, dials)
    if put is None:
        return f"All {result.rows.count:,} rows stay: the dial of this line is empty."
    say = _SAYS.get(put.verb)
    return say(put.body, result) if say is not None else f"{result.line.line.text.strip()}."


def _kept(body: t.Body, result: LineResult) -> str:
    assert isinstance(body, Keep | Drop)
    before, left = result.before.rows.count, result.rows.count
    said = in_words(body.condition)
    if not said:
        return f"All {before:,} rows stay: every piece of this line is switched off."
    if isinstance(body, Drop):
        return f"Of {before:,} rows {before - left:,} are dropped: those where {said}. {left:,} are left."
    return f"Of {before:,} rows {left:,} are kept: those where {said}."


def _made(body: t.Body, result: LineResult) -> str:
    assert isinstance(body, Make)
    items = [f"{item.name}, as {expression_text(item.value)}" for item in body.items]
    return f"{'A column is' if len(items) == 1 else f'{len(items)} columns are'} computed: {'; '.join(items)}."


def _ordered(body: t.Body, result: LineResult) -> str:
    assert isinstance(body, Order)
    if body.at_random:
        return "The rows are put in an order of chance."
    return (
        f"The rows are put in order: {VERBS['order'].said(body)}." if body.keys else "The rows stand as they were read."
    )


def _drawn(body: t.Body, result: LineResult) -> str:
    assert isinstance(body, Draw)
    before, left = result.before.rows.count, result.rows.count
    which = _FORMS[body.form](body)
    if body.per and body.form == "stratified":
        which = f"{which}, the groups told by {' and '.join(map(expression_text, body.per))}"
    elif body.per:
        which = f"of each {' and '.join(map(expression_text, body.per))} {which}"
    if body.remainder:
        which = f"all but {which}"
    weighted = f", likelier the larger {expression_text(body.weight)} is" if body.weight is not None else ""
    bound = result.line.bound.body if result.line.bound is not None else None
    again = ""
    if body.is_by_chance and isinstance(bound, BoundDraw):
        again = f" Which ones chance took goes by the seed {bound.draw.seed}: they are the same again."
    return f"Of {before:,} rows {left:,} are taken: {which}{weighted}.{again}"


def _amount(amount: Amount) -> str:
    return f"{amount.written} percent" if amount.percent else f"{amount.written}"


def _first_keys(body: Draw) -> str:
    direction = "largest" if body.form == "top" else "smallest"
    first, *more = body.keys
    then = f", among equals by {keys_text(tuple(more))}" if more else ""
    ties = ", with all that are equal to the last" if body.with_ties else ""
    return f"the {_amount(body.amount)} with the {direction} {expression_text(first.value)}{then}{ties}"


_ANEW = ", each anew from all of them"
_FORMS: dict[str, Callable[[Draw], str]] = {
    "first": lambda body: f"the first {_amount(body.amount)}",
    "last": lambda body: f"the last {_amount(body.amount)}",
    "top": _first_keys,
    "bottom": _first_keys,
    "random": lambda body: f"{_amount(body.amount)} by chance" + _ANEW * body.with_replacement,
    "every": lambda body: f"one in every {_amount(body.amount)}, from row {body.start} on",
    "rows": lambda body: f"those from place {_amount(body.amount)} to {body.end:,}",
    "chance": lambda body: f"each with a chance of {'1 in ' if body.one_in else ''}{_amount(body.amount)}",
    "from": lambda body: f"from the first where {in_words(body.reach[0])} to the next where {in_words(body.reach[1])}",
    "stratified": lambda body: (f"{_amount(body.amount)} by chance, each group with its share" if body.amount.written
                                else "by chance, of each group the number named"),
    "part": lambda body: f"part {body.amount.written} of {len(body.split)}, parted by chance",
}  # fmt: skip


def _chosen(body: t.Body, result: LineResult) -> str:
    names = [column.name for column in result.shown]
    more = f" and {len(names) - _MOST_COLUMNS:,} more" if len(names) > _MOST_COLUMNS else ""
    columns = "1 column is" if len(names) == 1 else f"{len(names):,} columns are"
    return f"{columns} shown, in this order: {', '.join(names[:_MOST_COLUMNS])}{more}."


def _tallied(body: t.Body, result: LineResult) -> str:
    assert isinstance(body, Tally)
    measures = ", ".join(f"{expression_text(item.value)}" for item in body.measures)
    if not body.per and body.along is None:
        return f"All {result.before.rows.count:,} rows are put together: {measures}."
    groups = " and ".join(expression_text(item.value) for item in body.per) or "one group"
    along = f", a column for each {expression_text(body.along)}" if body.along is not None else ""
    rows = "1 row" if result.rows.count == 1 else f"{result.rows.count:,} rows"
    return f"{result.before.rows.count:,} rows are put together by {groups}{along}, {rows} in all: {measures}."


def _brought(body: t.Body, result: LineResult) -> str:
    assert isinstance(body, Bring)
    before = {column.name for column in result.before.columns}
    names = [column.name for column in result.shown if column.name not in before]
    found = ", ".join(f"{each.matched:,} rows find one there, {each.unmatched:,} none" for each in result.looked_up)
    only = {Only.MATCHED: "; only those that do are kept", Only.UNMATCHED: "; only those that do not are kept"}
    each = "; one row for every match" if body.match is Match.EVERY else ""
    what = f"{', '.join(names) or 'Nothing'} is brought from {second_text(body.second)}"
    return f"{what}: {found}{only.get(body.only, '')}{each}."


def _saved(body: t.Body, result: LineResult) -> str:
    assert isinstance(body, Save)
    count, table = result.rows.count, body.options[TABLE]
    rows = "The one row is" if count == 1 else f"The {count:,} rows are"
    named = f"the table {table} on " if table and is_address(body.path) else ""
    return f"{rows} written to {named}{body.path}."


_SAYS: dict[str, Callable[[t.Body, LineResult], str]] = {
    "keep": _kept, "drop": _kept, "make": _made, "order": _ordered, "draw": _drawn, "columns": _chosen,
    "tally": _tallied, "bring": _brought, "save": _saved,
}  # fmt: skip
