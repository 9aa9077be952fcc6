"""What the list panel says, as lines of styled text: no widget, no drawing.

What it says of a cut's lines is loaded with the first of them: the source is shown before.
"""

from __future__ import annotations

from yardcut.tui.keys.keymap import key_of
from yardcut.tui.panels.line_shapes import NUMBER, VERB, bar, of_all, row, said_lines
from yardcut.tui.panels.list_state import ListState, PanelLine
from yardcut.tui.text import clean, fit

_ROOM_FOR_SECOND = 12


def panel_lines(state: ListState, width: int, height: int = 0) -> list[PanelLine]:
    """Return the panel's lines: the source, each line with its bar, and the selected line in full below.

    Where the height leaves room for it, a phrase that would be clipped takes a second line.
    """
    found = [*_dials(state, width), *_source(state, width)]
    if state.lines:
        from yardcut.tui.panels.list_entries import entry

        tall = height > 0 and height >= 3 * len(state.lines) + _ROOM_FOR_SECOND
        for index, line in enumerate(state.lines):
            found += entry(state, index, line, width, tall)
    else:
        found += [
            PanelLine(()),
            *said_lines(
                f"no lines yet: {key_of('write')} writes one, {key_of('keep-value')} keeps the rows "
                "with a cell's value",
                width,
                "dim",
            ),
        ]
    if state.looks:
        from yardcut.tui.panels.list_entries import looks_entry

        found += looks_entry(state, width)
    found.append(PanelLine((("─" * (width - 1), "rule"),)))
    if not 0 <= state.selected < len(state.lines):
        return found + said_lines("the source as it was read", width, "dim")
    from yardcut.tui.panels.list_entries import in_full

    return found + in_full(state, width)


_MOST_DIALS = 6


def _dials(state: ListState, width: int) -> list[PanelLine]:
    """Return the strip of dials: a line for each, as long as they are few."""
    if not state.dials:
        return []
    room, shown = width - NUMBER - 1 - VERB, state.dials[:_MOST_DIALS]
    names = max(len(name) for name, _ in shown)
    lines = [
        PanelLine(
            (
                (" " * NUMBER, "number"),
                (fit("dial" if not place else "", VERB), "verb"),
                (fit(f":{clean(name)}", min(names + 1, room // 2) + 1), "count"),
                (
                    fit(clean(said), max(4, room - min(names + 1, room // 2) - 1)),
                    "none" if said == "empty" else "phrase",
                ),
            )
        )
        for place, (name, said) in enumerate(shown)
    ]
    more = len(state.dials) - len(shown)
    return lines + (said_lines(f"and {more} more dials", width, "dim") if more else [])


def _source(state: ListState, width: int) -> list[PanelLine]:
    rows = state.source_rows
    count = "…" if rows is None else f"{rows:,}"
    lines = [row("", "source", clean(state.source), count, width, ("verb", "phrase", "count"), -1)]
    if rows is not None:
        lines.append(bar(rows, 0, rows, width, ("", "dim"), -1))
    if state.so_far:
        lines += said_lines(state.so_far, width, "none", -1)
    return lines + of_all(state.of_all, width, -1)
