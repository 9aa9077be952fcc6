"""Columns of one table that are likely ones of another under another name."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.values.kinds import Kind

_MOST_SETTLED, _LIKELY = 6, 40

Named = tuple[str, Kind]


def likely_pairs(alone: Sequence[Named], lacks: Sequence[Named]) -> dict[str, str]:
    """Return for names one table alone has those they likely stand for, of the ones it lacks.

    They are of the same kind and alike; the only ones of their kind need not be. The first six are looked at.
    """
    if not (alone and lacks):
        return {}
    from yardcut.core.near import likeliest_name  # here, because few sources need it

    found: dict[str, str] = {}
    for name, kind in alone[:_MOST_SETTLED]:
        alike = [old for old, other in lacks if other is kind and old not in found.values()]
        rivals = [new for new, other in alone if other is kind]
        likely = likeliest_name(name, alike, 0 if len(alike) == len(rivals) == 1 else _LIKELY)
        if likely is not None:
            found[name] = likely
    return found
