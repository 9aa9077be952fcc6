"""Dataclasses whose methods are made late are those of the standard library in all that can be seen of them."""

from __future__ import annotations

import copy
import dataclasses
import operator
import pickle
import subprocess
import sys
import threading
from collections.abc import Callable
from typing import Any, Generic, TypeVar

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.quick_dataclasses import dataclass

Value = TypeVar("Value")
Decorator = Callable[[type], type]
NAN = float("nan")
VALUES = st.one_of(st.integers(), st.text(max_size=3), st.none(), st.just(NAN), st.tuples(st.integers()))


def pair(fields: list[tuple[str, Any]], **options: Any) -> tuple[type, type]:
    """Return the same class made by the standard library and by ours."""
    made = []
    for decorator in (dataclasses.dataclass, dataclass):
        body: dict[str, Any] = {"__annotations__": {name: "object" for name, _ in fields}, "__module__": __name__}
        body |= {name: usual() for name, usual in fields if usual is not None}
        made.append(decorator(**options)(type("Board", (), body)))
    return made[0], made[1]


USUALS: list[Any] = [
    None, lambda: 3, lambda: NAN, lambda: dataclasses.field(default=(1, 2)),
    lambda: dataclasses.field(default_factory=list), lambda: dataclasses.field(default=1, compare=False),
    lambda: dataclasses.field(default=1, repr=False), lambda: dataclasses.field(default=7, init=False),
    lambda: dataclasses.field(default_factory=dict, init=False), lambda: dataclasses.field(default=2, hash=False),
    lambda: dataclasses.field(default=4, kw_only=True), lambda: dataclasses.field(kw_only=True),
]  # fmt: skip


def outcome(do: Callable[[], object]) -> object:
    """Return what comes of something, or which error, in a form that can be compared."""
    try:
        found = do()
    except Exception as error:
        return type(error).__name__
    return found


@given(
    st.lists(st.sampled_from(USUALS), max_size=4), st.booleans(), st.booleans(), st.booleans(),
    st.lists(VALUES, max_size=5), st.dictionaries(st.sampled_from(["a", "b", "c", "d", "e"]), VALUES, max_size=2),
    st.lists(VALUES, max_size=5),
)  # fmt: skip
def test_a_class_is_as_the_standard_library_makes_it(
    usuals: list[Any], frozen: bool, slots: bool, eq: bool, given: list[Any], named: dict[str, Any], other: list[Any]
) -> None:
    required = [usual for usual in usuals if usual is None]
    fields = list(zip("abcd", [*required, *(usual for usual in usuals if usual is not None)], strict=False))
    theirs, ours = pair(fields, frozen=frozen, slots=slots, eq=eq)
    shown = [outcome(lambda kind=kind: repr(kind(*given, **named))) for kind in (theirs, ours)]  # type: ignore[misc]
    assert shown[0] == shown[1]
    if isinstance(shown[0], str) and not shown[0].startswith("Board("):
        return
    seen = []
    for kind in (theirs, ours):
        one, twin = kind(*given, **named), kind(*given, **named)
        another = outcome(lambda kind=kind: kind(*other))  # type: ignore[misc]
        has_values = dataclasses.is_dataclass(another)
        parts = [
            one == twin, one == one, one == another if has_values else None, one == tuple(given),
            outcome(lambda one=one, twin=twin: hash(one) == hash(twin)),
            outcome(lambda one=one: repr(dataclasses.asdict(one))), kind.__match_args__,  # type: ignore[attr-defined, misc]
            outcome(lambda one=one: repr(dataclasses.replace(one))),  # type: ignore[misc]
            # of a name that is no field, a frozen class with slots of theirs speaks of its own inner error
            outcome(lambda one=one: setattr(one, "a", 1)) if fields else None,
            outcome(lambda one=one: delattr(one, "a")) if fields else None,
            outcome(lambda one=one: repr(copy.copy(one))), hasattr(one, "__dict__"),
        ]  # fmt: skip
        seen.append(parts)
    assert seen[0] == seen[1]


@dataclass(frozen=True, slots=True)
class Timber:
    """Something with a place."""

    place: tuple[int, int] = dataclasses.field(default=(0, 0), compare=False, kw_only=True)


@dataclass(frozen=True, slots=True)
class Plank(Timber, Generic[Value]):
    """One of its kind."""

    species: str
    tags: list[Value] = dataclasses.field(default_factory=list)

    def __post_init__(self) -> None:
        object.__setattr__(self, "species", self.species.lower())

    def __str__(self) -> str:
        return self.species


def test_what_inherits_is_pickled_matched_and_told_apart() -> None:
    plank: Plank[int] = Plank[int]("Oak", [1], place=(3, 4))
    assert (plank.species, plank.tags, plank.place, str(plank)) == ("oak", [1], (3, 4), "oak")
    assert plank == Plank("OAK", [1])
    assert plank != Plank("oak", [2])
    assert Timber() != Plank("oak")
    assert pickle.loads(pickle.dumps(plank)) == plank  # which was pickled here
    assert pickle.loads(pickle.dumps(plank)).place == (3, 4)
    assert copy.deepcopy(plank).tags is not plank.tags
    assert Plank("a").tags is not Plank("b").tags
    match plank:
        case Plank(species, tags):
            assert (species, tags) == ("oak", [1])
    with pytest.raises(dataclasses.FrozenInstanceError):
        plank.species = "ash"  # type: ignore[misc] # as it must not
    with pytest.raises(TypeError, match="species"):
        Plank()  # type: ignore[call-arg] # as it must not
    with pytest.raises(TypeError, match="unexpected"):
        Plank("oak", width=3)  # type: ignore[call-arg] # as it must not


def _make_one(kind: type, found: list[object]) -> None:
    found.append(kind(1))


def test_the_first_objects_may_be_made_by_several_threads_at_once() -> None:
    for _ in range(50):
        _, ours = pair([("a", None), ("b", lambda: 2)], frozen=True, slots=True)
        found: list[object] = []
        threads = [threading.Thread(target=_make_one, args=(ours, found)) for _ in range(4)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        assert len(found) == 4
        assert all(map(operator.eq, found, [ours(1)] * 4))


def test_all_classes_of_the_package_are_made_so() -> None:
    seen = subprocess.run(
        [
            sys.executable,
            "-c",
            "import dataclasses, sys\nasked = []\nreal = dataclasses.dataclass\n"
            "def told(cls=None, /, **options):\n"
            "    if cls is None and (options.get('init', True)):\n"
            "        asked.append(sys._getframe(1).f_globals['__name__'])\n"
            "    return real(cls, **options)\n"
            "dataclasses.dataclass = told\n"
            "import yardcut.core.unattended.cutting_once, yardcut.tui.app\n"
            "print([name for name in asked if name.startswith('yardcut')])",
        ],
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert seen.stdout.strip() == "[]"
