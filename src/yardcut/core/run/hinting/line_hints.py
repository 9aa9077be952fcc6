"""All that a look at the rows says quietly of a line."""

from __future__ import annotations

from dataclasses import replace

from yardcut.core.language.lines import same_dials
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting.draw_hints import draw_hints
from yardcut.core.run.hinting.order_hints import order_hints
from yardcut.core.run.hinting.total_hints import total_hints
from yardcut.core.run.hinting.value_hints import Hint, value_hints


def line_hints(result: LineResult, executor: Executor, token: CancelToken) -> tuple[Hint, ...]:
    """Return the hints about a line. Raises ``StoppedError``."""
    found = [*value_hints(result, executor, token), *order_hints(result, executor, token), *draw_hints(result)]
    found += total_hints(result, executor, token)
    text = result.line.line.text
    return tuple(hint if same_dials(text, hint.mend) else replace(hint, mend="") for hint in found)
