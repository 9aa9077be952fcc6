"""All that is said quietly of a line: one list of what looks for it, worked out once for a line and its rows."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable
from dataclasses import replace
from typing import Any

from yardcut.core.language.lines import same_dials
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting.draw_hints import draw_hints
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.run.hinting.hints import bound_hints, files_without, rows_lost_to_not
from yardcut.core.run.hinting.noise_hints import noise_hints
from yardcut.core.run.hinting.order_hints import order_hints
from yardcut.core.run.hinting.second_hints import near_misses
from yardcut.core.run.hinting.total_hints import total_hints
from yardcut.core.run.hinting.value_hints import value_hints
from yardcut.core.scanning.columns_read import columns_read

QUICK: list[Callable[[LineResult], Iterable[Hint]]] = [bound_hints, files_without, rows_lost_to_not]
"""What needs only the line's result."""
LOOKING: list[Callable[[LineResult, Executor, CancelToken], Iterable[Hint]]] = [
    value_hints, order_hints, draw_hints, total_hints, near_misses, noise_hints,
]  # fmt: skip
"""What looks at values, and may take a while."""


def quick_hints(result: LineResult) -> tuple[Hint, ...]:
    """Return the hints about a line that need no look at values."""
    return _offered(result, (hint for look in QUICK for hint in look(result)))


def line_hints(result: LineResult, executor: Executor, token: CancelToken) -> tuple[Hint, ...]:
    """Return the hints about a line, worked out once for it and the rows that reach it. Raises ``StoppedError``."""

    def work_out() -> tuple[Hint, ...]:
        looked = (hint for look in LOOKING for hint in look(result, executor, token))
        return _single([*quick_hints(result), *_offered(result, looked)])

    found: tuple[Hint, ...] = executor.noted.get_or(_key(result), work_out)
    return found


def _single(hints: Iterable[Hint]) -> tuple[Hint, ...]:
    """Return hints without those that say what another says and have no mend where it has one."""
    found = list(dict.fromkeys(hints))
    mended = {hint.says for hint in found if hint.mend}
    return tuple(hint for hint in found if hint.mend or hint.says not in mended)


def known_hints(result: LineResult, executor: Executor) -> tuple[Hint, ...] | None:
    """Return the hints about a line where they were worked out already."""
    found: Any = executor.noted.get(_key(result))
    return found  # type: ignore[no-any-return] # as line_hints keeps them


def _key(result: LineResult) -> Hashable:
    names = tuple(column.name for column in result.before.columns)
    bound, table = result.line.bound, result.before.table
    loaded = tuple(table.columns[number].is_loaded for number in columns_read(bound.body)) if bound is not None else ()
    return (
        "hints", result.before_fingerprint, result.fingerprint, result.line.line.text, names, loaded,
        result.line.scope.dials,
    )  # fmt: skip


def _offered(result: LineResult, hints: Iterable[Hint]) -> tuple[Hint, ...]:
    """Return hints without the mends that would lose a dial."""
    text = result.line.line.text
    return tuple(hint if same_dials(text, hint.mend) else replace(hint, mend="") for hint in hints)
