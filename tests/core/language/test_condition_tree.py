"""Edits of a condition's tree: its text parsed again is the tree, and what it means is what the edit says."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from strategies import conditions
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping import condition_tree as edit
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.filter_parts import Keep

_NAMES = ["a", "b", "c", "d"]
_pieces = st.sampled_from([t.Name(name) for name in _NAMES])
_plain = st.recursive(
    _pieces,
    lambda inner: (
        st.builds(t.Not, inner)
        | st.lists(inner, min_size=2, max_size=3).map(lambda items: t.And(tuple(items)))
        | st.lists(inner, min_size=2, max_size=3).map(lambda items: t.Or(tuple(items)))
    ),
    max_leaves=8,
)
_OPERATIONS = ("negate", "switch", "turn", "up", "down", "wrap", "unwrap", "delete", "replace")


def _edited(root: t.Expression, path: edit.Path, operation: str) -> t.Expression | None:
    node = edit.node_at(root, path)
    match operation:
        case "negate":
            return edit.replaced(root, path, edit.negated(node))
        case "switch":
            return edit.replaced(root, path, edit.switched(node))
        case "turn":
            return edit.replaced(root, path, edit.turned(node))
        case "up" | "down":
            return edit.moved(root, path, -1 if operation == "up" else 1)[0]
        case "wrap":
            return edit.wrapped(root, path)[0]
        case "unwrap":
            return edit.unwrapped(root, path)[0]
        case "delete":
            return edit.replaced(root, path, None)
        case _:
            return edit.replaced(root, path, t.Name("new"))


@pytest.mark.long
@given(conditions, st.lists(st.tuples(st.integers(0, 50), st.sampled_from(_OPERATIONS)), max_size=6))
def test_text_and_tree_agree_after_any_edits(root: t.Expression, edits: list[tuple[int, str]]) -> None:
    for place, operation in edits:
        paths = [path for path, _ in edit.walk(root)]
        after = _edited(root, paths[place % len(paths)], operation)
        if after is None:
            return
        root = after
    body = parse_statement(statement_text(t.Statement(Keep(root)))).body
    assert body == Keep(root)


def _true(node: t.Expression, world: dict[str, bool]) -> bool:
    match node:
        case t.Name(name):
            return world[name]
        case t.Not(inner):
            return not _true(inner, world)
        case t.And(items):
            return all(_true(item, world) for item in items)
        case t.Or(items):
            return any(_true(item, world) for item in items)
    raise AssertionError(node)


def _worlds() -> list[dict[str, bool]]:
    return [dict(zip(_NAMES, values, strict=True)) for values in itertools.product([True, False], repeat=len(_NAMES))]


@given(_plain, st.data())
def test_moving_within_a_group_and_negating_twice_change_nothing(root: t.Expression, data: st.DataObject) -> None:
    path = data.draw(st.sampled_from([path for path, _ in edit.walk(root)]))
    again, _ = edit.moved(root, path, 1)
    if path and path[-1] + 1 < len(edit.children(edit.node_at(root, path[:-1]))):
        assert [_true(again, world) for world in _worlds()] == [_true(root, world) for world in _worlds()]
    twice = edit.replaced(root, path, edit.negated(edit.negated(edit.node_at(root, path))))
    assert twice is not None
    assert [_true(twice, world) for world in _worlds()] == [_true(root, world) for world in _worlds()]


@given(_plain, _plain)
def test_an_alternative_and_an_exception_mean_what_they_say(one: t.Expression, other: t.Expression) -> None:
    either, but = edit.with_alternative(one, other), edit.with_exception(one, other)
    for world in _worlds():
        assert _true(either, world) is (_true(one, world) or _true(other, world))
        assert _true(but, world) is (_true(one, world) and not _true(other, world))


def test_a_piece_is_grouped_with_the_one_below_it_and_freed_again() -> None:
    body = parse_statement("keep a AND b AND c").body
    assert isinstance(body, Keep)
    grouped, path = edit.wrapped(body.condition, (1,))
    assert statement_text(t.Statement(Keep(grouped))) == "keep a AND (b OR c)"
    assert path == (1,)
    freed, _ = edit.unwrapped(grouped, path)
    assert freed == body.condition
    last, _ = edit.wrapped(body.condition, (2,))
    assert last == grouped


def test_a_piece_leaves_its_group_at_either_end() -> None:
    body = parse_statement("keep a AND (b OR c) AND d").body
    assert isinstance(body, Keep)
    up, path = edit.moved(body.condition, (1, 0), -1)
    assert (statement_text(t.Statement(Keep(up))), path) == ("keep a AND b AND c AND d", (1,))
    down, path = edit.moved(body.condition, (1, 1), 1)
    assert (statement_text(t.Statement(Keep(down))), path) == ("keep a AND b AND c AND d", (2,))


@given(_plain, st.lists(st.tuples(st.integers(0, 50), st.sampled_from(["up", "down", "wrap", "unwrap"])), max_size=6))
def test_every_edit_leads_to_a_node_that_is_there(root: t.Expression, edits: list[tuple[int, str]]) -> None:
    work = {
        "up": lambda root, path: edit.moved(root, path, -1),
        "down": lambda root, path: edit.moved(root, path, 1),
        "wrap": edit.wrapped,
        "unwrap": edit.unwrapped,
    }
    for place, operation in edits:
        paths = [path for path, _ in edit.walk(root)]
        root, path = work[operation](root, paths[place % len(paths)])
        edit.node_at(root, path)
