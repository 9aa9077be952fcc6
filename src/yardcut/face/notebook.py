"""A cut as a notebook shows it: its lines with the plank, and the first rows. Everything from data is escaped."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from yardcut.core.expressions.evaluating import evaluate
from yardcut.core.expressions.frame import Frame
from yardcut.core.run.executing.results import LineResult
from yardcut.core.table.window import Scatter

_ROWS, _COLUMNS, _CHARACTERS = 10, 20, 80
_PLANK, _TAKEN, _GONE = "#c89b5a", "#b5543c", "#d9d2c5"
_RIGHT = "text-align:right"


def as_html(results: Sequence[LineResult], frame: Frame, source: str, rows: int) -> str:
    """Return the lines of a cut with what each left of ``rows`` rows, and the first rows it leaves."""
    parts = ['<div class="yardcut"><table><tbody>', _line("source", escape(source), rows, rows, rows)]
    for number, result in enumerate(results, 1):
        parts.append(
            _line(str(number), escape(result.line.line.text), result.before.rows.count, result.rows.count, rows)
        )
    parts.append("</tbody></table>")
    parts.append(_first_rows(frame))
    parts.append("</div>")
    return "".join(parts)


def _line(number: str, text: str, before: int, left: int, rows: int) -> str:
    share = [100 * count / max(1, rows) for count in (left, before - left, rows - before)]
    bar = "".join(
        f'<span style="display:inline-block;height:0.7em;width:{max(0.0, width):.2f}%;background:{colour}"></span>'
        for width, colour in zip(share, (_PLANK, _TAKEN, _GONE), strict=True)
        if width > 0
    )
    return (
        f'<tr><td>{number}</td><td style="text-align:left"><code>{text}</code></td>'
        f'<td style="{_RIGHT}">{left:,}</td><td style="width:12em;white-space:nowrap">{bar}</td></tr>'
    )


def _first_rows(frame: Frame) -> str:
    shown = frame.columns[:_COLUMNS]
    window = Scatter(frame.table, frame.rows.ids(0, min(_ROWS, frame.rows.count)))
    cells = [evaluate(column.value, window).texts() for column in shown]
    head = "".join(f"<th>{escape(column.name)}</th>" for column in shown)
    body = "".join(
        "<tr>" + "".join(_cell(text, column.kind.is_numeric) for text, column in zip(row, shown, strict=True)) + "</tr>"
        for row in zip(*cells, strict=True)
    )
    more = f", {len(frame.columns) - len(shown):,} more columns" if len(frame.columns) > len(shown) else ""
    said = f"{frame.rows.count:,} rows{more}"
    return f"<table><thead><tr>{head}</tr></thead><tbody>{body}</tbody></table><p>{said}</p>"


def _cell(text: str | None, is_number: bool) -> str:
    if text is None:
        return '<td style="opacity:0.4">--</td>'
    cut = text if len(text) <= _CHARACTERS else text[: _CHARACTERS - 1] + "…"
    return f'<td style="{_RIGHT if is_number else ""}">{escape(cut)}</td>'
