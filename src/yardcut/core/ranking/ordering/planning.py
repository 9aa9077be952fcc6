"""Deciding how the keys of an order or a draw are encoded, from a round over their ranges."""

from __future__ import annotations

from yardcut.core.language.meaning.bound import Key
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.ranking.ordering.fields import Encoding, KeyPlan, KeyRange, RangeRound, text_ranks
from yardcut.core.ranking.ordering.long_texts import rank_rows, rank_tails
from yardcut.core.scanning.rounds import Runner
from yardcut.core.values.kinds import Kind

_MOST_SORTED_BYTES, _MOST_TAKEN_BYTES = 160, 24
"""Of a text that are its key: what is sorted compares them all, a take by its first words lets too much through."""
_MOST_SPAN = (1 << 63) - 2


def plan_keys(
    keys: tuple[Key, ...], runner: Runner, token: CancelToken, progress: Progress | None = None,
    *, is_sorted: bool = False,
) -> tuple[KeyPlan, ...]:  # fmt: skip
    """Return how to encode each key, one round over the rows, to be compared in a take or to be sorted."""
    if not keys:
        return ()
    if progress is not None:
        progress.begin("ranging", runner.table.rows)
    ranges = runner.run(RangeRound(keys), token, progress)
    return tuple(_plan(key, found, runner, token, is_sorted) for key, found in zip(keys, ranges, strict=True))


def _plan(key: Key, found: KeyRange, runner: Runner, token: CancelToken, is_sorted: bool) -> KeyPlan:
    missing = found.any_missing
    if key.value.kind is Kind.TEXT:
        if found.dictionaries:
            ranks, mark = text_ranks(found.dictionaries)
            span = max(0, len(ranks) - 1)
            return KeyPlan(key, Encoding.RANKS, 0, span, any_missing=missing, ranks=ranks, ranks_mark=mark)
        longest = max(0, min(found.longest, _MOST_SORTED_BYTES))
        tails = rank_tails(key.value, longest, runner, token) if found.longest > longest else None
        plan = KeyPlan(key, Encoding.BYTES, any_missing=missing, longest=longest, tails=tails)
        if is_sorted or longest <= _MOST_TAKEN_BYTES:
            return plan
        row_ranks, count = rank_rows(plan, runner, token)
        return KeyPlan(key, Encoding.RANKS, 0, max(0, count - 1), any_missing=missing, row_ranks=row_ranks)
    if found.least is None or found.most is None:
        return KeyPlan(key, Encoding.RANGE, any_missing=missing)
    if key.value.kind is Kind.NUMBER:
        if not found.scales:
            return KeyPlan(key, Encoding.DOUBLE, any_missing=missing)
        scale = found.scales[0]
        least, most = round(found.least * scale), round(found.most * scale)
        return KeyPlan(key, Encoding.SCALED, least, most - least, scale, missing)
    least, most = int(found.least), int(found.most)
    if most - least > _MOST_SPAN:
        # the only values as wide as this are 64-bit integers at both ends; two fields would be needed
        return KeyPlan(key, Encoding.WIDE, any_missing=missing)
    return KeyPlan(key, Encoding.RANGE, least, most - least, any_missing=missing)


def plan_top(
    keys: tuple[Key, ...], runner: Runner, token: CancelToken, progress: Progress | None = None
) -> tuple[KeyPlan, ...]:
    """Return how to encode the keys of a top or bottom, whose first key is never missing.

    A single number needs no look at its range: a take compares words, it does not pack them with positions.
    """
    if len(keys) == 1 and keys[0].value.kind is Kind.NUMBER:
        return (KeyPlan(keys[0], Encoding.DOUBLE),)
    if len(keys) == 1 and keys[0].value.kind is not Kind.TEXT:
        return (KeyPlan(keys[0], Encoding.WHOLE),)
    return plan_keys(keys, runner, token, progress)
