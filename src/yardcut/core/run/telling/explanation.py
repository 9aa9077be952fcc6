"""A cut explained: what was read, what each line did, what is left, and what a reader may doubt."""

from __future__ import annotations

from collections.abc import Sequence

from yardcut.core.cutlist.model import Cut
from yardcut.core.cutlist.notes import question_of
from yardcut.core.errors import ListError
from yardcut.core.language.meaning.dials_put_in import DialSetting
from yardcut.core.progress import CancelToken
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.explaining.reason_groups import reason_groups
from yardcut.core.run.explaining.source_report import sentences
from yardcut.core.run.explaining.unanswered import unanswered
from yardcut.core.run.telling.lines_in_words import line_in_words

_MOST_REASONS, _MOST_SAID = 6, 8


@dataclass(frozen=True, slots=True)
class Step:
    """One line: its number, what it did in a sentence, how it is written, and what may be doubted about it.

    ``before`` and ``left`` are rows, ``whole`` those of the source, or of what was put together above.
    """

    number: int
    sentence: str
    text: str
    doubts: tuple[str, ...]
    before: int
    left: int
    whole: int


@dataclass(frozen=True, slots=True)
class Explanation:
    """A cut told whole: ``title``, what was ``read`` and what is to be known of it, its steps, and what is left."""

    title: str
    question: str
    read: str
    doubts: tuple[str, ...]
    steps: tuple[Step, ...]
    left: str


def explain(
    cut: Cut, results: Sequence[LineResult], dials: Sequence[DialSetting], executor: Executor, label: str,
    token: CancelToken,
) -> Explanation:  # fmt: skip
    """Explain a cut that was run. Raises ``ListError`` where a line is wrong, so not all ran, and ``StoppedError``."""
    if len(results) < len(cut.lines):
        text = cut.lines[len(results)].text.strip()
        raise ListError(f"line {len(results) + 1} is wrong, and nothing below it can be told: {text}")
    table = executor.runner.table
    steps = []
    whole = table.rows
    for number, result in enumerate(results, 1):
        token.check()
        if result.starts_anew:
            whole = result.rows.count
        doubts = _doubts(result, executor, token)
        text = result.line.line.text.strip()
        before, left = result.before.rows.count, result.rows.count
        steps.append(Step(number, line_in_words(result, dials), text, doubts, before, left, whole))
    last = results[-1] if results else None
    rows, columns = (table.rows, len(table.columns)) if last is None else (last.rows.count, len(last.shown))
    read = f"{label}: {_rows(table.rows)} and {_columns(len(table.columns))} were read."
    return Explanation(
        cut.name or "The slice", question_of(cut) or "", read,
        tuple(sentences(table)[:_MOST_SAID]), tuple(steps), f"{_rows(rows)} and {_columns(columns)} are left.",
    )  # fmt: skip


def _doubts(result: LineResult, executor: Executor, token: CancelToken) -> tuple[str, ...]:
    """Say of a line why rows are gone, what had no answer, and what it noted."""
    if result.line.off:
        return ()
    groups = reason_groups(result, executor, token)
    found = [f"{group.rows.count:,} rows: {group.says}" for group in groups[:_MOST_REASONS] if group.says]
    if len(groups) > _MOST_REASONS:
        found.append(f"{sum(group.rows.count for group in groups[_MOST_REASONS:]):,} rows: other reasons")
    if result.unknown_taken:
        found.append(f"{result.unknown_taken:,} of the rows that are gone have no value where one was needed")
    return (*found, *dict.fromkeys([*result.notes, *unanswered(result, executor.runner, token)]))


def _rows(count: int) -> str:
    return "1 row" if count == 1 else f"{count:,} rows"


def _columns(count: int) -> str:
    return "1 column" if count == 1 else f"{count:,} columns"
