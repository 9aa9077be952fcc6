"""What is to be said of the groups of a draw."""

from __future__ import annotations

from dataclasses import replace

from yardcut.core.language.helping.twins import twins
from yardcut.core.language.lines import statement_text
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.printing import side_text
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.progress import CancelToken
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.executing.results import LineResult
from yardcut.core.run.hinting.hint import Hint
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind

_MOST_NAMED = 3
_MOST_GROUPS = 10_000
"""Of more groups none are compared for what is alike in them."""


def draw_hints(result: LineResult, executor: Executor, token: CancelToken) -> tuple[Hint, ...]:
    """Name groups of a draw that differ only in capitals or blanks, with the draw that takes them as one."""
    body = result.line.bound.body if result.line.bound is not None else None
    if not isinstance(body, BoundDraw) or len(result.strata) > _MOST_GROUPS:
        return ()
    found = []
    for place, group in enumerate(body.groups):
        if group.kind is not Kind.TEXT:
            continue
        rows: dict[str, int] = {}
        for stratum in result.strata:
            text = stratum.key[place]
            if text is not None:
                rows[text] = rows.get(text, 0) + stratum.there
        alike = twins(tuple(rows.items()))
        if alike:
            named = "; ".join(", ".join(quote_text(text) for text, _ in each) for each in alike[:_MOST_NAMED])
            more = f" and {len(alike) - _MOST_NAMED:,} more" if len(alike) > _MOST_NAMED else ""
            found.append(Hint(f"groups differ only in capitals or blanks: {named}{more}", _made_alike(result, place)))
    return tuple(found)


def _made_alike(result: LineResult, place: int) -> str:
    """Write the draw by groups without their capitals and outer blanks; "" where it names groups as they are."""
    statement = result.line.statement
    assert statement is not None
    draw = statement.body
    per = draw.per  # type: ignore[attr-defined] # it is a draw
    if draw.strata is not None and draw.strata.shares:  # type: ignore[attr-defined] # it is a draw
        return ""
    alike = parse_statement(f"order UPPER(TRIM({side_text(per[place])}))").body.keys[0].value  # type: ignore[attr-defined]
    body = replace(draw, per=(*per[:place], alike, *per[place + 1 :]))  # type: ignore[call-arg] # it is a draw
    return statement_text(replace(statement, body=body))
