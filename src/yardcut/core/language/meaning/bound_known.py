"""Values that are known of each row of a table by the time a line is evaluated, as arrays."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from yardcut.core.values.kinds import Kind


@dataclass(frozen=True, slots=True)
class Flags:
    """One boolean for each row of a table; ``mark`` tells them from all others, ``bits`` are one bit a row.

    ``table`` is the fingerprint of the table whose rows they are.
    """

    mark: str
    bits: Any = field(compare=False, repr=False)
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
    numbers: Any = field(compare=False, repr=False)
    values: Any = field(compare=False, repr=False)
    table: str = field(compare=False, repr=False)

    @property
    def nbytes(self) -> int:
        """The memory it takes."""
        return int(self.numbers.nbytes) + 16 * len(self.values)
