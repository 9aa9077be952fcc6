"""Several slices in one file: the worksheets of a workbook, or the tables of a database."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from yardcut.core.errors import TargetError
from yardcut.core.expressions.frame import Frame
from yardcut.core.formats import function
from yardcut.core.language.save_options import TABLE
from yardcut.core.outgoing import Outgoing
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.writers.plans import Plan
from yardcut.core.writers.saving_slices import Written


@dataclass(frozen=True, slots=True)
class Sheet:
    """A slice and the name of its worksheet or table."""

    name: str
    frame: Frame


def save_together(
    sheets: Sequence[Sheet], out: Outgoing, plan: Plan, *, token: CancelToken, progress: Progress, carries: str = ""
) -> Written:  # fmt: skip
    """Write slices into one file, with the list it carries, and read each back.

    Raises as ``save_slice``; nothing half-written is left.
    """
    path = out.path
    named = distinct_names(sheets, plan.format.most_name_characters)
    form = plan.format
    with out.opened() as beside:
        function(form.write_several)(
            [(each.name, each.frame) for each in named], beside, token, progress, carries=carries
        )
        for each in named:
            rows = function(form.count)(beside, _plan_for(plan, each.name))
            if rows != each.frame.rows.count:
                raise TargetError(f"{path}, {each.name}: {each.frame.rows.count:,} rows written, {rows:,} read back")
    said = ", ".join(f"{each.name} {each.frame.rows.count:,}" for each in named)
    total = sum(each.frame.rows.count for each in named)
    return Written(path, total, path.stat().st_size, also=(f"{len(named)} {form.several}: {said}",))


def _plan_for(plan: Plan, name: str) -> Plan:
    return replace(plan, options=plan.options.with_value(TABLE, name))


def distinct_names(sheets: Sequence[Sheet], most: int) -> list[Sheet]:
    """Return slices under names that differ otherwise than by capitals, none longer than ``most`` characters."""
    taken: set[str] = set()
    found = []
    for sheet in sheets:
        name, number = sheet.name[:most], 2
        while name.casefold() in taken:
            tail = f" {number}"
            name, number = sheet.name[: most - len(tail)] + tail, number + 1
        taken.add(name.casefold())
        found.append(Sheet(name, sheet.frame))
    return found
