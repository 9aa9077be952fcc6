"""The standard library's dataclasses, whose methods are made when they are needed.

``dataclasses`` writes six methods of each frozen class as text and compiles them when the class is made: 1.5 ms, and a
start makes three hundred classes of which it uses sixty. Here comparing, hashing and showing are done by functions that
need no text, and ``__init__`` is written at the first call. Fields, ``replace``, ``fields``, ``asdict``, slots and
patterns are those of the standard library, which makes the class.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable
from dataclasses import FrozenInstanceError
from functools import cache
from operator import attrgetter
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from dataclasses import dataclass as dataclass
else:

    def dataclass(cls=None, /, *, frozen=False, slots=False, eq=True, kw_only=False):
        """Make a dataclass, as ``dataclasses.dataclass`` does.

        >>> @dataclass(frozen=True, slots=True)
        ... class Board:
        ...     species: str
        ...     length: float = 2.5
        >>> Board("oak"), Board("oak") == Board("oak", 2.5), len({Board("oak"), Board("oak")})
        (Board(species='oak', length=2.5), True, 1)
        """
        if cls is None:
            return lambda cls: dataclass(cls, frozen=frozen, slots=slots, eq=eq, kw_only=kw_only)
        own = set(vars(cls))
        made = dataclasses.dataclass(init=False, repr=False, eq=False, slots=slots, kw_only=kw_only)(cls)
        methods = {"__init__": _made_at_first_call(made), "__repr__": _repr}
        if eq:
            methods |= _comparing(made) if frozen else {**_comparing(made), "__hash__": None}
        if frozen:
            methods |= _FROZEN
        for name, method in methods.items():
            if name not in own:
                setattr(made, name, method)
        return made


_NOT_GIVEN = object()
_set = object.__setattr__


def _made_at_first_call(made: type) -> Callable[..., None]:
    def __init__(self: object, /, *given: object, **named: object) -> None:  # noqa: N807 # it is one
        init = _init(made)
        if vars(made)["__init__"] is __init__:
            made.__init__ = init  # type: ignore[misc] # which is what this is for
        init(self, *given, **named)

    __init__.__qualname__ = f"{made.__qualname__}.__init__"
    return __init__


def _init(made: type) -> Callable[..., None]:
    """Write the method that gives an object its fields."""
    by_place: list[str] = []
    by_name: list[str] = []
    does: list[str] = []
    known: dict[str, object] = {"_set": _set, "_NOT_GIVEN": _NOT_GIVEN}
    for number, field in enumerate(dataclasses.fields(made)):
        given, value = field.name, field.name
        if field.default_factory is not dataclasses.MISSING:
            known[f"_made_{number}"] = field.default_factory
            value = f"_made_{number}()"
            if field.init:
                given, value = f"{field.name}=_NOT_GIVEN", f"{value} if {field.name} is _NOT_GIVEN else {field.name}"
        elif field.default is not dataclasses.MISSING:
            known[f"_usual_{number}"] = field.default
            given = f"{field.name}=_usual_{number}"
            value = field.name if field.init else f"_usual_{number}"
        elif not field.init:
            continue
        if field.init:
            (by_name if field.kw_only else by_place).append(given)
        does.append(f"    _set(_self, {field.name!r}, {value})")
    if hasattr(made, "__post_init__"):
        does.append("    _self.__post_init__()")
    given_all = ", ".join(["_self", *by_place, *(["*", *by_name] if by_name else [])])
    text = "\n".join([f"def __init__({given_all}):", *(does or ["    pass"])])
    exec(compile(text, f"<{made.__qualname__}>", "exec"), known)  # the names are those of the class's own text
    init: Callable[..., None] = known["__init__"]  # type: ignore[assignment] # it was written a line above
    init.__qualname__ = f"{made.__qualname__}.__init__"
    return init


def _comparing(made: type) -> dict[str, Callable[..., object]]:
    """Return what compares and hashes: as tuples of the fields that count."""
    fields = [field for field in dataclasses.fields(made) if field.compare]
    values = _values([field.name for field in fields])
    hashed = _values([field.name for field in fields if field.hash is not False])

    def __eq__(self: object, other: object) -> bool:  # noqa: N807 # it is one
        return values(self) == values(other) if other.__class__ is self.__class__ else NotImplemented

    def __hash__(self: object) -> int:  # noqa: N807 # it is one
        return hash(hashed(self))

    return {"__eq__": __eq__, "__hash__": __hash__}


def _values(names: list[str]) -> Callable[[object], tuple[object, ...]]:
    if len(names) > 1:
        return attrgetter(*names)
    if not names:
        return lambda self: ()
    only = attrgetter(names[0])
    return lambda self: (only(self),)


def _repr(self: Any) -> str:
    shown = ", ".join([f"{name}={getattr(self, name)!r}" for name in _shown(type(self))])  # type: ignore[arg-type] # classes can be told apart
    return f"{type(self).__qualname__}({shown})"


@cache
def _shown(kind: Any) -> tuple[str, ...]:
    return tuple(field.name for field in dataclasses.fields(kind) if field.repr)


def _not_set(self: object, name: str, value: object) -> None:
    raise FrozenInstanceError(f"cannot assign to field {name!r}")


def _not_deleted(self: object, name: str) -> None:
    raise FrozenInstanceError(f"cannot delete field {name!r}")


def _state(self: Any) -> list[object]:
    return [getattr(self, field.name) for field in dataclasses.fields(self)]


def _take_state(self: Any, state: list[object]) -> None:
    for field, value in zip(dataclasses.fields(self), state, strict=True):
        _set(self, field.name, value)


_FROZEN = {
    "__setattr__": _not_set, "__delattr__": _not_deleted, "__getstate__": _state, "__setstate__": _take_state,
}  # fmt: skip
