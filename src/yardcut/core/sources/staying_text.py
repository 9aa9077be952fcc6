"""Why a column of texts is not of the kind it looks like: what is said when a file is opened."""

from __future__ import annotations

from collections import Counter

from yardcut.core.values.formatting import quote_text
from yardcut.core.values.temporal import parse_date, parse_instant, parse_time, parse_timestamp, refusal

_NAMED = 3


def why_text(counted: Counter[str]) -> str:
    """Say which values keep a column of days or times from being one; "" where something else stands in it too."""
    refused: dict[str, str] = {}
    forms: set[int] = set()
    for text in counted:
        form = _form(text.strip())
        if form is None:
            return ""
        forms.add(form)
        if (reason := refusal(text)) and len(refused) < _NAMED:
            refused[text] = reason
    if len(forms) > 1:
        return "stays text: some values have an offset from UTC, or a clock, and some have none"
    said = "; ".join(f"{quote_text(text)}: {reason}" for text, reason in refused.items())
    return f"stays text for values that no calendar or clock has: {said}" if said else ""


def _form(text: str) -> int | None:
    """Return which form of day or time a text has, whether or not there is such a one; ``None`` for any other."""
    for number, parse in enumerate((parse_date, parse_timestamp, parse_instant, parse_time)):
        try:
            if parse(text) is not None:
                return number
        except ValueError:
            return number
    return None
