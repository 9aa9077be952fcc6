"""What of a moment is saved, and where and how the words typed for it say: worked out, nothing asked."""

from __future__ import annotations

import dataclasses
from pathlib import Path
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.addresses import is_address
from yardcut.tui.desk.view import View
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from yardcut.core.expressions.frame import Frame
    from yardcut.core.language.verbs.save import Save
    from yardcut.core.writers.plans import Plan
    from yardcut.core.writers.targets import Target
    from yardcut.tui.desk.moment import Moment


def offcut_looked_at(moment: Moment) -> Frame | None:
    """Return the rows that are gone while they are what the table shows."""
    if moment.part is not None:
        return moment.part.frame
    result = moment.result_at(moment.selected)
    return result.offcut if moment.view is View.OFFCUT and result is not None else None


def is_known_what_is_saved(moment: Moment) -> bool:
    """Tell whether the rows are there that a save would take, or it is known that there are none."""
    is_there = moment.frame_at(len(moment.lines) - 1) is not None
    return is_there or moment.wrong is not None or offcut_looked_at(moment) is not None


def save_line(moment: Moment) -> Save | None:
    """Return the cut's last save line that is on."""
    from yardcut.core.language.verbs.save import BoundSave

    bodies = [line.bound.body for line in moment.lines if line.bound is not None]
    saves = [body.save for body in bodies if isinstance(body, BoundSave)]
    return saves[-1] if saves else None


def list_beside(moment: Moment, path: Path, lines: int | None) -> str:
    """Return the list that goes with a slice as of one of its lines."""
    from yardcut.core.run.executing.bound_lines import day_of_now
    from yardcut.core.run.explaining.report import Report
    from yardcut.core.unattended.list_beside import text_beside

    report = Report("", "", moment.cut.name, moment.table.rows, [])
    for result in moment.results[:lines]:
        report.add(result)
    cut = dataclasses.replace(moment.cut, lines=moment.cut.lines[:lines])
    return text_beside(
        moment.cut_list.with_cut(moment.cut_index, cut), moment.cut_index, moment.table, moment.spec.base, path.parent,
        report.lines, moment.seed, day_of_now(),
    )  # fmt: skip


def list_folder(moment: Moment) -> Path:
    """Return the directory of the list, or the current one."""
    return moment.list_path.parent if moment.list_path is not None else Path()


def run_command(path: Path, moment: Moment) -> str:
    """Return the command that runs a saved list again, as it can be given to a shell."""
    import shlex

    cuts = moment.cut_list.cuts
    saves = any(line.verb == "save" and not line.is_off for cut in cuts for line in cut.lines)
    which = [] if len(cuts) == 1 or saves else ["--cut", moment.cut.name]
    return shlex.join(["yardcut", "run", str(path), *which])


def words_of(save: Save, folder: Path) -> str:
    """Return what a save line says as it is typed where a slice goes."""
    from yardcut.core.language.verbs.save import SAVE, Save

    where = save.path if is_address(save.path) else str(folder / save.path)
    plain = dataclasses.replace(save, path=where, replace=False)
    return plain.path if plain == Save(plain.path) else SAVE.text(plain)


def plan_of_words(save: Save) -> Plan:
    """Return how a path and the words behind it say a slice is written. Raises ``TargetError``."""
    from yardcut.core.writers.targets import Target

    return Target.named(save).plan


@dataclass(frozen=True, slots=True, eq=False)
class RowsToSave:
    """Rows to be saved, what is said of them, and how many lines left them (``None``: they are not what lines left)."""

    frame: Frame
    label: str
    lines: int | None


def as_of_selected(moment: Moment) -> list[RowsToSave]:
    """Return what the selected line leaves, where that is not the last one."""
    frame = moment.frame_at(moment.selected)
    if not 0 <= moment.selected < len(moment.lines) - 1 or frame is None:
        return []
    return [RowsToSave(frame, f" as of line {moment.selected + 1}", moment.selected + 1)]


def as_looked_at(moment: Moment) -> list[RowsToSave]:
    """Return the rows as they are looked at, where look lines are at work: in another order, or only some of them."""
    if not moment.is_looking or moment.looked is None:
        return []
    return [RowsToSave(moment.looked.frame, " as they are looked at", None)]


def target_of(moment: Moment, text: str) -> Target:
    """Return what a path and the words behind it say. Raises ``ListError`` and ``TargetError``."""
    from yardcut.core.language.syntax.save_words import parse_save_words, wrong_words
    from yardcut.core.language.verbs.save import SAVE, BoundSave
    from yardcut.core.run.executing.bound_lines import bind_line
    from yardcut.core.writers.targets import Target

    wrong = wrong_words(text)
    if wrong:
        raise ListError(wrong)
    save = parse_save_words(text)
    target = Target.named(save)
    bound = bind_line(f"save {SAVE.text(save)}", moment.scope_at(len(moment.lines) - 1))
    _ = target.plan
    assert bound is not None
    assert isinstance(bound.body, BoundSave)
    return target.bound(bound.body)


def check_target(target: Target, moment: Moment) -> None:
    """Look whether a file may be written, and the list beside it. Raises ``TargetError``."""
    from yardcut.core.language.save_options import WITH_LIST
    from yardcut.core.unattended.list_beside import check_beside

    out = target.outgoing(moment.protected)
    out.check(may_exist=target.parting is not None)
    if target.options[WITH_LIST]:
        check_beside(out, moment.list_path)


def what_is_written(frame: Frame, target: Target) -> str:
    """Say what a save would write, and how."""
    from yardcut.core.writers.source_form import in_source_form

    shape = f"{plural(frame.rows.count, 'row')} and {plural(len(frame.columns), 'column')}"
    plan = target.plan
    if target.address:
        return f"writes {shape} as {target.elsewhere}, unless that is there"
    packed = f", compressed as {plan.compression}" if plan.compression else ""
    parted = ""
    if target.parting is not None:
        rows = target.parting.per_rows
        parted = f", one file per {', '.join(target.parting.names) if rows is None else f'{rows:,} rows'}"
    _, form = in_source_form(plan, frame.table.info.files)
    like = f"\n{form}" if form else ""
    return f"writes {shape} as {plan.format.name}{packed}{parted}{target.options.text()}{like}"
