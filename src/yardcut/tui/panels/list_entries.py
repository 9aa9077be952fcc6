"""What the list panel says of a cut's lines: each with its bar, and the selected one in full."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from rich.cells import cell_len

from yardcut.core.language.lines import broken, phrase
from yardcut.core.language.meaning.bound import ColumnValue, Made
from yardcut.core.language.verbs.verb import Effect
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.panels.line_shapes import NUMBER, bar, of_all, row, rows_of, said_lines
from yardcut.tui.panels.list_state import ListState, PanelLine
from yardcut.tui.text import clean, fit, plural, wrap

if TYPE_CHECKING:
    from yardcut.core.run.executing.bound_lines import BoundLine
    from yardcut.core.run.executing.looked_up import LookedUp
    from yardcut.core.run.executing.results import LineResult
    from yardcut.core.run.explaining.tree_counts import Branch

_MOST_NAMED = 3


def entry(state: ListState, index: int, line: BoundLine, width: int, tall: bool) -> list[PanelLine]:
    """Return one line of the list with its bar and what it removed."""
    number = str(index + 1)
    verb = line.verb.word if line.verb is not None else ""
    said = clean(phrase(line.statement, line.line.text)) if line.statement is not None else clean(line.line.text)
    if line.off:
        return [row(number, verb, said, "off", width, ("off", "off", "dim"), index)]
    if line.error is not None:
        head = row(number, verb, said, "wrong", width, ("verb", "phrase", "error"), index)
        return [head, *said_lines(clean(line.error.message), width, "error", index)]
    if index >= len(state.results):
        wrong = any(other.error is not None for other in state.lines[:index])
        return [row(number, verb, said, "waits" if wrong else "…", width, ("verb", "phrase", "dim"), index)]
    result = state.results[index]
    has_hints = any(not hint.is_note for hint in state.hints.get(index, ()))
    was = state.was.get(index, result.rows.count)
    count = f"{result.rows.count:,}" if was == result.rows.count else f"{was:,} → {result.rows.count:,}"
    lines = rows_of(number, verb, said, count, width, index, tall, has_hints)
    effect = line.verb.effect if line.verb is not None else None
    if effect is Effect.GATHERS and line.statement is not None and line.verb is not None:
        lines += said_lines(clean(line.verb.said(line.statement.body)), width, "dim", index)
    elif effect is Effect.REMOVES or result.taken:
        taken = (f"−{result.taken:,}", "saw") if result.taken else ("none taken", "dim")
        lines.append(bar(result.rows.count, result.taken, _whole(state, index), width, taken, index))
    lines += of_all(state.of_all, width, index)
    for looked in result.looked_up:
        lines += said_lines(_looked_up(looked), width, "none" if looked.is_short else "dim", index)
    if result.unknown_taken:
        lines += said_lines(for_want(result), width, "none", index)
    if effect is Effect.ARRANGES and line.statement is not None and line.verb is not None:
        lines += said_lines(clean(line.verb.said(line.statement.body)), width, "dim", index)
    elif effect is Effect.SHAPES:
        lines += said_lines(plural(len(result.shown), "column"), width, "dim", index)
    elif effect is Effect.WRITES:
        lines += said_lines(f"{key_of('save')} writes the slice", width, "dim", index)
    return lines


def _looked_up(looked: LookedUp) -> str:
    """Say in short what a line found in a second table."""
    if not looked.is_list:
        return f"{looked.matched:,} with a match, {looked.unmatched:,} without"
    if not len(looked.not_met):
        return f"all {looked.keys:,} asked for are there"
    return f"{len(looked.not_met):,} of {looked.keys:,} asked for are not there: {key_of('keys-apart')}"


def _whole(state: ListState, index: int) -> int:
    """Return of how many rows a line's bar is a part: the source's, or those last put together above."""
    above = [result for result in state.results[: index + 1] if result.starts_anew]
    return above[-1].rows.count if above else state.source_rows or 0


def looks_entry(state: ListState, width: int) -> list[PanelLine]:
    """Return the look lines, apart from the lines of the cut."""
    work = "at work" if state.is_looking else "resting"
    found = [PanelLine((("┄" * (width - 1), "rule"),))]
    for look in state.looks:
        said = (
            clean(f"{look.verb.word if look.verb else ''} {phrase(look.statement, look.line.text)}")
            if (look.statement is not None)
            else clean(look.line.text)
        )
        found.append(row("", "look", said, "wrong" if look.error else work, width, ("dim", "phrase", "dim"), None))
        if look.error is not None:
            found += said_lines(clean(look.error.message), width, "error")
    return [
        *found,
        *said_lines(f"{key_of('look-real')} makes it part of the cut, {key_of('look-clear')} clears it", width, "dim"),
    ]


def for_want(result: LineResult) -> str:
    """Say how many rows a line removed for want of a value, and of which columns."""
    bound = result.line.bound
    names = (
        [column.name for column in bound.body.restricts() if isinstance(column, ColumnValue | Made)] if bound else []
    )
    listed = " or ".join(filter(None, [", ".join(names[:-1]), *names[-1:]]))
    where = f" in {clean(listed)}" if 0 < len(names) <= _MOST_NAMED else ""
    return f"{result.unknown_taken:,} of them for want of a value{where}"


def in_full(state: ListState, width: int) -> list[PanelLine]:
    """Return the selected line with all its parts, notes, hints and what is wrong with it."""
    line = state.lines[state.selected]
    found = [PanelLine(((f" line {state.selected + 1} ", "verb"), ("in full", "dim")))]
    if len(state.tree) > 1:
        found += _tree(state.tree, width)
    else:
        parts = [line.line.text] if line.statement is None else broken(line.statement, line.line.text)
        for place, part in enumerate(parts):
            found += said_lines(("  " if place else "") + clean(part), width, "phrase")
    comment = [clean(part.strip()) for part in line.line.leading.splitlines() if part.strip()]
    for part in comment:
        found += said_lines(part, width, "dim")
    if state.selected < len(state.results):
        result = state.results[state.selected]
        for note in (*result.notes, *state.unanswered):
            found += said_lines(clean(note), width, "none")
        offers = state.hints.get(state.selected, ())
        found += [line for hint in offers if hint.is_note for line in said_lines(clean(hint.says), width, "dim")]
        for hint in offers:
            found += [] if hint.is_note else said_lines(f"! {clean(hint.says)}", width, "hint")
        if any(hint.mend for hint in offers):
            found += said_lines("h on the list offers what is likely meant", width, "dim")
    if line.error is not None:
        found += said_lines(clean(str(line.error)), width, "error")
    return found


GROUPS = ("all of", "any of", "not", "off")


def costs_text(costs: int | None) -> str:
    """Say what a part of a condition alone takes, or, where it lets rows in, what it alone brings."""
    if costs is None:
        return ""
    return "nothing" if costs == 0 else f"−{costs:,}" if costs > 0 else f"+{-costs:,}"


def _tree(tree: Sequence[Branch], width: int) -> list[PanelLine]:
    largest = max((max(branch.passes or 0, abs(branch.costs or 0)) for branch in tree), default=0)
    numbers = max(10, len(f"{largest:,}") + 2)  # a blank and a minus before each
    lines = [
        PanelLine(
            ((" " * max(0, width - 2 * numbers - 1), "dim"), (f"{'passes':>{numbers}}{'costs':>{numbers}}", "dim"))
        )
    ]
    for branch in tree:
        lead = " " * NUMBER + "│ " * max(0, branch.depth - 1) + ("├ " if branch.depth else "")
        room = max(6, width - 1 - 2 * numbers - cell_len(lead))
        passes = "…" if branch.passes is None else f"{branch.passes:,}"
        style = "off" if branch.is_off else "dim" if branch.text in GROUPS else "phrase"
        parts = wrap(clean(branch.text), room)
        lines.append(
            PanelLine(
                (
                    (lead, "gone"),
                    (fit(parts[0], room), style),
                    (f"{passes:>{numbers}}", "count"),
                    (f"{costs_text(branch.costs):>{numbers}}", "saw"),
                )
            )
        )
        lines += [PanelLine(((" " * cell_len(lead) + "  ", "gone"), (part, style))) for part in parts[1:]]
    return lines
