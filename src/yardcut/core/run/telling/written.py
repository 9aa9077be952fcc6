"""An explanation as plain text, as Markdown, and as a page of HTML with the drawing of its lines."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from html import escape
from textwrap import wrap

from yardcut.core.run.telling.explained_forms import Form
from yardcut.core.run.telling.explanation import Explanation, Step

_WIDTH = 100
_LEFT, _TAKEN, _GONE = "#8c6a3f", "#b5483a", "#d9cdbb"
_BAR = 240


def as_text(told: Explanation) -> str:
    """Return it as lines of at most a hundred characters; what may be doubted stands below each."""
    lines = [_plain(told.title), "=" * len(_plain(told.title)), ""]
    lines += [*_wrapped(told.question, ""), ""] if told.question else []
    lines += _wrapped(told.read, "") + _doubts(told.doubts, "  ")
    for step in told.steps:
        lines += ["", *_wrapped(f"{step.number}. {step.sentence}", "   "), *_doubts(step.doubts, "   ")]
    return "\n".join([*lines, "", *_wrapped(told.left, ""), ""])


def _wrapped(text: str, indent: str) -> list[str]:
    return wrap(_plain(text), _WIDTH, subsequent_indent=indent, break_long_words=False, break_on_hyphens=False)


def _doubts(doubts: Sequence[str], indent: str) -> list[str]:
    found = []
    for doubt in doubts:
        found += wrap(f"{indent}- {_plain(doubt)}", _WIDTH, subsequent_indent=f"{indent}  ", break_long_words=False)
    return found


def as_markdown(told: Explanation) -> str:
    """Return it as Markdown (CommonMark): each line leads to what may be doubted about it, at the end."""
    lines = [f"# {_marked(told.title)}", ""]
    lines += [_marked(told.question), ""] if told.question else []
    lines += [f"{_marked(told.read)}{_link('source', told.doubts)}", ""]
    lines += [f"{step.number}. {_marked(step.sentence)}{_link(str(step.number), step.doubts)}" for step in told.steps]
    lines += [""] * bool(told.steps) + [f"**{_marked(told.left)}**", ""]
    for name, head, doubts in (
        ("source", "The source", told.doubts),
        *((str(s.number), f"Line {s.number}", s.doubts) for s in told.steps),
    ):
        if doubts:
            lines += [
                f'<a id="more-{name}"></a>',
                "",
                f"## {head}",
                "",
                *(f"- {_marked(doubt)}" for doubt in doubts),
                "",
            ]
    return "\n".join(lines)


def _link(name: str, doubts: Sequence[str]) -> str:
    return f" ([more](#more-{name}))" if doubts else ""


def _marked(text: str) -> str:
    return re.sub(r"([\\`*_{}\[\]<>#+|~])", r"\\\1", _plain(text))


def as_html(told: Explanation) -> str:
    """Return it as a page that stands alone: sentences, bars of the rows lines left and took, and what lies behind."""
    title = escape(_plain(told.title))
    parts = [
        "<!DOCTYPE html>", '<html lang="en">', f'<head><meta charset="utf-8"><title>{title}</title>',
        f"<style>{_STYLE}</style></head>",
        f"<body><h1>{title}</h1>",
    ]  # fmt: skip
    parts += [f"<p><em>{escape(_plain(told.question))}</em></p>"] if told.question else []
    parts += [f"<p>{escape(_plain(told.read))}</p>", _details(told.doubts, "what is to be known of it"), "<ol>"]
    for step in told.steps:
        parts.append(
            f"<li><p>{escape(_plain(step.sentence))}</p>{_bar(step)}<code>{escape(_plain(step.text))}</code>"
            f"{_details(step.doubts, 'why')}</li>"
        )
    return "\n".join(
        [*filter(None, parts), f"</ol><p><strong>{escape(_plain(told.left))}</strong></p></body></html>", ""]
    )


_STYLE = (
    "body{font-family:system-ui,sans-serif;max-width:46rem;margin:2rem auto;padding:0 1rem}"
    "body{color:#2a241b;background:#fffdf8}li{margin:1rem 0}p{margin:.3rem 0}code{color:#6f6552}"
    "details{color:#4a4436;margin:.3rem 0}svg{display:block;margin:.3rem 0}"
)


def _details(doubts: Sequence[str], said: str) -> str:
    if not doubts:
        return ""
    items = "".join(f"<li>{escape(_plain(doubt))}</li>" for doubt in doubts)
    return f"<details><summary>{said}</summary><ul>{items}</ul></details>"


def _bar(step: Step) -> str:
    whole = max(1, step.whole)
    left, before = (_BAR * min(1.0, rows / whole) for rows in (step.left, max(step.before, step.left)))
    return (
        f'<svg width="{_BAR}" height="10" role="img" aria-label="{step.left:,} of {step.whole:,} rows">'
        f'<rect width="{_BAR}" height="10" fill="{_GONE}"/><rect width="{before:.2f}" height="10" fill="{_TAKEN}"/>'
        f'<rect width="{left:.2f}" height="10" fill="{_LEFT}"/></svg>'
    )


def _plain(text: str) -> str:
    """Return a text on one line, with nothing in it that a terminal or a page would obey."""
    return " ".join("".join(char if char.isprintable() else " " for char in text).split())


FORMS: dict[str, Callable[[Explanation], str]] = {
    Form.TEXT: as_text, Form.MARKDOWN: as_markdown, Form.HTML: as_html,
}  # fmt: skip
"""What writes each form."""
