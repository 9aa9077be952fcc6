"""Values that differ only in capitals or blanks, which mostly mean the same."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from yardcut.core.language.syntax.printing import name_text

Counted = tuple[str, int]


def alike(text: str) -> str:
    """Return what texts have in common that differ only in capitals and blanks."""
    return " ".join(text.split()).casefold()


def twins(values: Iterable[Counted]) -> list[tuple[Counted, ...]]:
    """Return groups of values alike but for capitals and blanks, the commonest of each and the largest group first."""
    groups: dict[str, list[Counted]] = {}
    for text, count in values:
        groups.setdefault(alike(text), []).append((text, count))
    found = [tuple(sorted(group, key=lambda pair: -pair[1])) for group in groups.values() if len(group) > 1]
    return sorted(found, key=lambda group: -sum(count for _, count in group))


def make_alike(name: str, groups: Sequence[tuple[Counted, ...]]) -> str:
    """Return the ``make`` line after which values that differ only in capitals or outer blanks are one."""
    column = name_text(name)
    mended = f"TRIM({column})"
    if any(len({text.strip() for text, _ in group}) > 1 for group in groups):
        capitals = [group[0][0] for group in groups if group[0][0].strip().isupper()]
        mended = f"{'UPPER' if len(capitals) * 2 > len(groups) else 'LOWER'}({mended})"
    return f"make {column} = {mended}"
