"""The counts of lines as they were last seen, so that those that are others now can be told."""

from __future__ import annotations

from yardcut.tui.panels.list_state import ListState


class CountsSeen:
    """Remembers a list's counts; one that is not known yet keeps the one it had."""

    def __init__(self) -> None:
        self._seen: list[tuple[str, int | None]] = []

    def changed(self, state: ListState) -> set[int]:
        """Return the indices of lines whose counts are others than they were, and remember those of now.

        As long as there are as many lines, a line is the one at its place; else it is the one with its text.
        """
        count_at = [result.rows.count for result in state.results]
        by_text, at_place = dict(self._seen), [count for _, count in self._seen]
        now: list[tuple[str, int | None]] = []
        found: set[int] = set()
        for place, line in enumerate(state.lines):
            text = line.line.text
            old = at_place[place] if len(at_place) == len(state.lines) else by_text.get(text)
            count = count_at[place] if place < len(count_at) else None
            if count is not None and old is not None and count != old:
                found.add(place)
            now.append((text, old if count is None else count))
        self._seen = now
        return found
