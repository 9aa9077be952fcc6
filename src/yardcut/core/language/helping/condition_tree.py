"""Conditions as trees that are edited piece by piece: the text is written from the tree, so that both always agree.

A path leads from the root of a condition to one of its nodes: the places among the children, from the top down.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from yardcut.core.language import syntax_trees as t

Path = tuple[int, ...]


def children(node: t.Expression) -> tuple[t.Expression, ...]:
    """Return the conditions within a condition; a piece has none, nor has one that is switched off."""
    match node:
        case t.And(items) | t.Or(items):
            return items
        case t.Off(inner):
            return (inner,) if children(inner) else ()
        case t.Not(inner) | t.IsTruth(condition=inner):
            return (inner,)
        case _:
            return ()


def walk(root: t.Expression, path: Path = ()) -> Iterator[tuple[Path, t.Expression]]:
    """Yield all nodes with their paths, each before what is within it, as they stand in the text."""
    waiting = [(path, root)]
    while waiting:
        at, node = waiting.pop()
        yield at, node
        waiting += reversed([((*at, place), child) for place, child in enumerate(children(node))])


def node_at(root: t.Expression, path: Path) -> t.Expression:
    """Return the node a path leads to. Raises ``IndexError``."""
    for place in path:
        root = children(root)[place]
    return root


def _with_children(node: t.Expression, items: tuple[t.Expression, ...]) -> t.Expression | None:
    """Return a node with other conditions within it; a group of one is that one, of none nothing."""
    if not items:
        return None
    if isinstance(node, t.And | t.Or):
        if len(items) == 1:
            return items[0]
        kind = type(node)
        flat = [part for item in items for part in (item.items if isinstance(item, kind) else (item,))]
        return replace(node, items=tuple(flat))
    return replace(node, condition=items[0])  # type: ignore[call-arg] # Not, IsTruth and Off have one


def _group(kind: type[t.And] | type[t.Or], items: tuple[t.Expression, ...]) -> t.Expression:
    made = _with_children(kind(items), items)
    assert made is not None
    return made


def replaced(root: t.Expression, path: Path, new: t.Expression | None) -> t.Expression | None:
    """Return a condition with another node at a path, or without it; ``None``: nothing is left."""
    if not path:
        return new
    items = list(children(root))
    inner = replaced(items[path[0]], path[1:], new)
    items[path[0] : path[0] + 1] = [] if inner is None else [inner]
    return _with_children(root, tuple(items))


def with_alternative(root: t.Expression, other: t.Expression) -> t.Expression:
    """Return a condition that is also true where another one is."""
    return _group(t.Or, (root, other))


def with_exception(root: t.Expression, other: t.Expression) -> t.Expression:
    """Return a condition that is not true where another one is."""
    return _group(t.And, (root, negated(other)))


def negated(node: t.Expression) -> t.Expression:
    """Return NOT of a condition, without a second NOT."""
    return node.condition if isinstance(node, t.Not) else t.Not(node)


def switched(node: t.Expression) -> t.Expression:
    """Return a condition switched off, or on again."""
    return node.condition if isinstance(node, t.Off) else t.Off(node)


def turned(node: t.Expression) -> t.Expression:
    """Return ALL of some conditions as ANY of them, and the other way round; a piece as it is."""
    match node:
        case t.And(items):
            return _group(t.Or, items)
        case t.Or(items):
            return _group(t.And, items)
        case _:
            return node


def added(root: t.Expression, path: Path, node: t.Expression) -> tuple[t.Expression, Path]:
    """Put one more condition into the group at a path, or behind the piece there; returns its path then.

    A piece that stands in no group gets one: ALL of both.
    """
    there = node_at(root, path)
    if not isinstance(there, t.And | t.Or) and path and isinstance(node_at(root, path[:-1]), t.And | t.Or):
        group, parent, place = node_at(root, path[:-1]), path[:-1], path[-1] + 1
    else:
        group, parent, place = there, path, len(children(there))
    if isinstance(group, t.And | t.Or):
        items = (*group.items[:place], node, *group.items[place:])
        made = _with_children(group, items)
    else:
        made = _group(t.And, (group, node))
    result = replaced(root, parent, made) or root
    return result, path_of(result, node, parent)


def moved(root: t.Expression, path: Path, by: int) -> tuple[t.Expression, Path]:
    """Move a node up (-1) or down (1) among those beside it; at the end it leaves its group.

    Returns the condition and the node's path then; both as they were when there is nowhere to go.
    """
    if not path:
        return root, path
    parent, place = path[:-1], path[-1]
    group = node_at(root, parent)
    items = list(children(group))
    to = place + by
    if 0 <= to < len(items):
        items.insert(to, items.pop(place))
        result = replaced(root, parent, _with_children(group, tuple(items))) or root
        return result, path_of(result, node_at(root, path), (*parent, to))
    return _out_of_group(root, path, by)


def _out_of_group(root: t.Expression, path: Path, by: int) -> tuple[t.Expression, Path]:
    parent, place = path[:-1], path[-1]
    if not parent or not isinstance(node_at(root, parent), t.And | t.Or):
        return root, path
    above = parent[:-1]
    if not isinstance(node_at(root, above), t.And | t.Or):
        return root, path
    moving = node_at(root, path)
    group = node_at(root, parent)
    left = _with_children(group, tuple(item for at, item in enumerate(children(group)) if at != place))
    outer = list(children(node_at(root, above)))
    beside = [left] if left is not None else []
    outer[parent[-1] : parent[-1] + 1] = [moving, *beside] if by < 0 else [*beside, moving]
    made = _with_children(node_at(root, above), tuple(outer))
    result = replaced(root, above, made) or root
    return result, path_of(result, moving, (*above, parent[-1] + (by > 0)))


def path_of(root: t.Expression, node: t.Expression, likely: Path) -> Path:
    """Return where a node stands, the very one and not one like it; where it has become part of another, near there."""
    found = next((path for path, each in walk(root) if each is node), None)
    if found is not None:
        return found
    there = {path for path, _ in walk(root)}
    while likely not in there:
        likely = likely[:-1]
    return likely


def wrapped(root: t.Expression, path: Path) -> tuple[t.Expression, Path]:
    """Put a node into a group with the one below it: ANY within ALL, ALL within ANY; the last with that above it."""
    if not path:
        return root, path
    parent, place = path[:-1], path[-1]
    group = node_at(root, parent)
    if not isinstance(group, t.And | t.Or) or len(group.items) < 2:
        return root, path
    first = min(place, len(group.items) - 2)
    pair = group.items[first : first + 2]
    inner = _group(t.Or if isinstance(group, t.And) else t.And, pair)
    items = (*group.items[:first], inner, *group.items[first + 2 :])
    result = replaced(root, parent, _with_children(group, items)) or root
    return result, path_of(result, inner, (*parent, first))


def unwrapped(root: t.Expression, path: Path) -> tuple[t.Expression, Path]:
    """Dissolve a group, or NOT: what is within stands where it stood."""
    node = node_at(root, path)
    if isinstance(node, t.Not | t.IsTruth | t.Off):
        freed = replaced(root, path, node.condition) or root
        return freed, path_of(freed, node.condition, path)
    if not isinstance(node, t.And | t.Or) or not path:
        return root, path
    parent, place = path[:-1], path[-1]
    group = node_at(root, parent)
    if not isinstance(group, t.And | t.Or):
        return root, path
    items = (*group.items[:place], *node.items, *group.items[place + 1 :])
    result = replaced(root, parent, _with_children(group, items)) or root
    return result, path_of(result, node.items[0], (*parent, place))
