"""What each function of the language works out, by name; the families stand in files of their own beside this one."""

from __future__ import annotations

from collections.abc import Callable

from yardcut.core.expressions import numeric_functions as numbers
from yardcut.core.table.vectors import Vector
from yardcut.core.values.kinds import Kind

Kernel = Callable[[tuple[Vector, ...], Kind], Vector]
"""Works a result out of the arguments, all of one length, and the kind of the result."""

KERNELS: dict[str, Kernel] = {
    "ABS": numbers.absolute,
    "CEILING": numbers.ceiling,
    "FLOOR": numbers.floor,
    "GREATEST": numbers.greatest,
    "LEAST": numbers.least,
    "MOD": numbers.modulo,
    "ROUND": numbers.rounded,
    "SQRT": numbers.square_root,
}
