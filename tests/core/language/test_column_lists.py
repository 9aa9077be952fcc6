"""Edits of column lists: what the list says is what was asked for, and patterns stay patterns where they can."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from helpers import scope_of
from yardcut.core.errors import ListError
from yardcut.core.language.helping.column_lists import EVERYTHING, ColumnList
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.printing import items_text
from yardcut.core.language.verbs.columns import Columns
from yardcut.core.values.kinds import Kind

NAMES = ["ticket", "species", "bay", "moisture_d01", "moisture_d02", "moisture_d03", "price", "kiln in", "kiln_out"]
SCOPE = scope_of([(name, Kind.NUMBER if name.startswith(("m", "p")) else Kind.TEXT) for name in NAMES])


def listed(text: str, scope: Scope = SCOPE) -> ColumnList:
    body = parse_statement(f"columns {text}").body
    assert isinstance(body, Columns)
    return ColumnList(scope, body)


def said(found: ColumnList) -> str:
    return items_text(found.body.items, found.body.without)


def number(name: str) -> int:
    return NAMES.index(name) + 1


@pytest.mark.parametrize(
    ("text", "edit", "expected"),
    [
        ("all", lambda c: c.left_out([3]), "all without bay"),
        ("all without bay", lambda c: c.taken([3]), "all"),
        ("ticket, moisture_*", lambda c: c.left_out([5]), "ticket, moisture_* without moisture_d02"),
        ("ticket, moisture_*", lambda c: c.taken([2]), "ticket, moisture_*, species"),
        ("ticket, moisture_*", lambda c: c.moved(5, 0), "moisture_d02, ticket, moisture_*"),
        ("ticket, moisture_*, bay", lambda c: c.moved(3, 1), "ticket, bay, moisture_*"),
        ("moisture_*, bay", lambda c: c.moved(4, 3), "moisture_d02, moisture_d03, bay, moisture_*"),
        ("ticket, moisture_*", lambda c: c.renamed({1: "no", 5: "two"}), None),
        ("all", lambda c: c.only([2, 7]), "species, price"),
        ("ticket, kind number", lambda c: c.pinned(4), "ticket, moisture_d01, moisture_d02, moisture_d03, price"),
        ("ticket, moisture_* without moisture_d02", lambda c: c.pinned(), "ticket, moisture_d01, moisture_d03"),
        ("ticket, bay", lambda c: c.switched_off(3), "ticket, off bay"),
        ("ticket, off bay, price", lambda c: c.moved(7, 0), "price, ticket, off bay"),
        ('"kiln in" AS k, all', lambda c: c.renamed({8: "kiln in"}), '"kiln in", all'),
    ],
)
def test_an_edit_says_as_much_as_it_can_with_the_old_items(text: str, edit: object, expected: str | None) -> None:
    found = edit(listed(text))  # type: ignore[operator]
    if expected is not None:
        assert said(found) == expected
    again = listed(said(found))
    assert [each.column for each in again.chosen] == [each.column for each in found.chosen]


def test_a_pattern_that_was_searched_is_taken_as_one() -> None:
    item = parse_statement("columns moisture_*").body.items[0]  # type: ignore[attr-defined]
    assert said(listed("ticket").taken([4, 5, 6], [item])) == "ticket, moisture_*"
    assert said(listed("all").only([4, 5, 6], [item])) == "moisture_*"
    assert said(listed("ticket").taken([4, 6], [item])) == "ticket, moisture_* without moisture_d02"
    assert said(listed("all").only([1, 4, 5, 6, 7], [item])) == "ticket, moisture_*, price"
    assert said(listed("ticket, moisture_* without moisture_d02").taken([5])) == "ticket, moisture_*"


def test_hidden_and_renamed_columns_are_named_so_that_they_are_meant() -> None:
    hiding = Scope(listed("species AS ticket, price AS bay").scope.shown[:0], SCOPE.known)
    shown = tuple(each.column for each in listed("species AS ticket, price").chosen)
    scope = Scope(shown, hiding.known)
    first = ColumnList(scope, EVERYTHING)
    assert [column.name for column in first.rest][:2] == ["ticket", "bay"]
    with pytest.raises(ListError, match="two columns of the result are named ticket"):
        first.taken([1])
    taken = first.taken([3])
    assert said(taken) == "all, bay"
    assert said(first.renamed({2: "wood"}).taken([1])) == "ticket AS wood, all, #1"  # ticket is the shown one


edits = st.lists(
    st.tuples(st.sampled_from(["take", "leave", "move", "rename", "pin", "only"]), st.integers(0, 8),
              st.integers(0, 8)),
    max_size=8,
)  # fmt: skip


@given(
    start=st.sampled_from(
        ["all", "ticket, moisture_*", "kind text, price", "bay..price", "#2..#4, /kiln/ without bay"]
    ),
    steps=edits,
)
def test_any_run_of_edits_gives_what_plain_lists_give(start: str, steps: list[tuple[str, int, int]]) -> None:
    found = listed(start)
    truth = [(each.column.number, each.column.name) for each in found.chosen]
    for what, one, other in steps:
        there = [place for place, (at, _) in enumerate(truth) if at == one + 1]
        if what == "take":
            found = found.taken([one + 1, other + 1])
            fresh = {one + 1, other + 1} - {at for at, _ in truth}
            given = [(each.column.number, each.column.name) for each in found.chosen]
            assert [pair for pair in given if pair[0] not in fresh] == truth
            assert sorted(given) == sorted([*truth, *((at, NAMES[at - 1]) for at in fresh)])
            truth = given
        elif what == "leave" and len(truth) > len(there) and there:
            found = found.left_out([one + 1])
            truth = [pair for pair in truth if pair[0] != one + 1]
        elif what == "move" and there:
            found = found.moved(one + 1, other)
            pair = truth.pop(there[0])
            truth.insert(min(other, len(truth)), pair)
        elif what == "rename" and there and f"new_{one}" not in [name for _, name in truth]:
            found = found.renamed({one + 1: f"new_{one}"})
            truth[there[0]] = (one + 1, f"new_{one}")
        elif what == "pin":
            found = found.pinned(one + 1 if there else None)
        elif what == "only" and there:
            found = found.only([one + 1])
            truth = [truth[there[0]]]
        assert [(each.column.number, each.column.name) for each in found.chosen] == truth
        assert [(e.column.number, e.column.name) for e in listed(said(found)).chosen] == truth
