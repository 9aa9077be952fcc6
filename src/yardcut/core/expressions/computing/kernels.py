"""What each function of the language works out, by name; the families stand in files of their own beside this one."""

from __future__ import annotations

from collections.abc import Callable

from yardcut.core.expressions.computing import numeric_functions as numbers
from yardcut.core.expressions.computing import row_functions as rows
from yardcut.core.expressions.computing import temporal_functions as temporal
from yardcut.core.expressions.computing.casting import cast
from yardcut.core.table.vectors import Vector
from yardcut.core.values.kinds import Kind

Kernel = Callable[[tuple[Vector, ...], Kind], Vector]
"""Works a result out of the arguments, all of one length, and the kind of the result."""

KERNELS: dict[str, Kernel] = {
    "ABS": numbers.absolute,
    "CEILING": numbers.ceiling,
    "EXP": numbers.to_the_power_of_e,
    "FLOOR": numbers.floor,
    "GREATEST": numbers.greatest,
    "LEAST": numbers.least,
    "LN": numbers.logarithm,
    "LOG10": numbers.decimal_log,
    "MOD": numbers.modulo,
    "POWER": numbers.raised,
    "ROUND": numbers.rounded,
    "SQRT": numbers.square_root,
    "CAST": cast,
    "DATE_FROM": temporal.date_from,
    "ADD MONTHS": temporal.add_months,
    "ADD UNITS": temporal.add_units,
    **{f"EXTRACT {field}": temporal.extracting(field) for field in (*temporal.DAY_FIELDS, *temporal.CLOCK_FIELDS)},
    "AVG OF": rows.average_of,
    "COUNT OF": rows.count_of,
    "MAX OF": rows.largest_of,
    "MIN OF": rows.smallest_of,
    "SUM OF": rows.sum_of,
}
"""Those of texts stand in ``text_functions``: they work text by text."""
