"""Values that are known of each row of a table by the time a line is evaluated, as arrays.

And marks of fields of a plan that hold something for each row: whoever makes a plan work elsewhere sends what belongs
to some rows of such a field, and of other fields everything.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field
from functools import cached_property
from types import MappingProxyType
from typing import Any

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind

ROWS_AN_ITEM = "rows an item of an array stands for"
PLACES_AN_ITEM = "places in a slice that an item of an array stands for"
BIT_A_ROW: Mapping[str, int] = MappingProxyType({ROWS_AN_ITEM: 8})
"""The metadata of a field with one bit a row, as bytes."""
ONE_A_ROW: Mapping[str, int] = MappingProxyType({ROWS_AN_ITEM: 1})
"""The metadata of a field with one item a row."""
ONE_A_PLACE: Mapping[str, int] = MappingProxyType({PLACES_AN_ITEM: 1})
"""The metadata of a field with one item for each row of a slice, in its order."""


@dataclass(frozen=True, slots=True)
class Flags:
    """One boolean for each row of a table; ``mark`` tells them from all others, ``bits`` are one bit a row.

    ``table`` is the fingerprint of the table whose rows they are.
    """

    mark: str
    bits: Any = field(compare=False, repr=False, metadata=BIT_A_ROW)
    table: str = field(compare=False, repr=False)
    kind: Kind = Kind.BOOLEAN

    @property
    def nbytes(self) -> int:
        """The memory it takes."""
        return int(self.bits.nbytes)


@dataclass(frozen=True, slots=True)
class Spread:
    """One value for each group of a table's rows, spread over them; ``mark`` tells it from all others.

    ``numbers`` are those of each row's group (uint32), ``values`` a vector with one value a group.
    ``table`` is the fingerprint of the table whose rows they are.
    """

    mark: str
    kind: Kind
    numbers: Any = field(compare=False, repr=False, metadata=ONE_A_ROW)
    values: Any = field(compare=False, repr=False)
    table: str = field(compare=False, repr=False)

    @property
    def nbytes(self) -> int:
        """The memory it takes."""
        return int(self.numbers.nbytes) + 16 * len(self.values)


class Constants(tuple[Any, ...]):
    """The constants of a list, of which there may be many thousands; equal to any other tuple of the same ones.

    A plan that holds it is hashed, and written to tell it from others, again and again: that is worked out once.
    """

    @cached_property
    def _hash(self) -> int:
        return tuple.__hash__(self)

    @cached_property
    def _written(self) -> str:
        return f"Constants({', '.join(f'{constant.kind.value} {constant.value!r}' for constant in self)})"

    @cached_property
    def texts(self) -> tuple[str, ...]:
        """Their values as texts."""
        return tuple(str(constant.value) for constant in self)

    def __hash__(self) -> int:
        return self._hash

    def __repr__(self) -> str:
        return self._written

    def __reduce__(self) -> tuple[type[Constants], tuple[tuple[Any, ...]]]:
        return Constants, (tuple(self),)  # hashes of texts are another process's own
