"""The form of each verb, with one example from the yard; shown while a line is written and in the docs."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Form:
    """What a verb takes, what it does, and one example."""

    verb: str
    takes: str
    does: str
    example: str


FORMS: dict[str, Form] = {
    form.verb: form
    for form in (
        Form("keep", "keep condition", "leaves the rows for which it is true; unknown goes",
             "keep grade IN ('A', 'B') AND (length_mm >= 2400 OR species = 'larch')"),
        Form("drop", "drop condition", "removes the rows for which it is true; unknown stays",
             "drop bay = 'ALL BAYS'"),
        Form("order", "order key [DESC] [NULLS FIRST], …", "first by the first key; missing values last in both directions",
             "order felled_on DESC, price_per_m3"),
        Form("draw", "draw first | last | top | bottom | random | every | rows | chance … [per group]", "takes some of the rows",
             "draw top 10 by price_per_m3 per species with ties"),
        Form("columns", "columns name [AS new], a..b, #3, moisture_*, all without …", "chooses, orders and renames columns",
             "columns ticket, species AS wood, moisture_d*"),
        Form("save", 'save "path" [as csv | tsv | parquet] [replace]', "writes the slice as it is at this line",
             'save "winter-oak.parquet"'),
    )
}  # fmt: skip

DRAW_FORMS: dict[str, str] = {
    "first": "draw first 100 [percent] [per species]",
    "last": "draw last 5 percent [per species]",
    "top": "draw top 12 by price_per_m3 [, grade] [per species] [with ties]",
    "bottom": "draw bottom 3 by moisture_pct [per bay] [with ties]",
    "random": "draw random 500 [percent] [per species] [seed 7]",
    "every": "draw every 10 [from 3] [per species]",
    "rows": "draw rows 101 to 200",
    "chance": "draw chance 0.1 [seed 7], or chance 10 percent, or chance 1 in 10",
}

OPERATOR_FORMS: dict[str, str] = {
    "between": "BETWEEN low AND high takes both ends",
    "in": "IN ('oak', 'ash') is one of several",
    "like": "LIKE 'R1%' where % is any text and _ one character",
    "contains": "CONTAINS 'shake' [IGNORING CASE]",
    "starts": "STARTS WITH 'N-' [IGNORING CASE]",
    "ends": "ENDS WITH '-31' [IGNORING CASE]",
    "is": "IS NULL asks whether there is no value; IS NOT NULL whether there is one",
}


def form_for(text: str) -> str:
    """Return the form of what is being written at the end of a line, with its example."""
    words = text.lower().split()
    if words and words[0] == "off":
        words = words[1:]
    if words and words[0] not in FORMS:
        from yardcut.core.language.source_lines import FORMS as SOURCE_FORMS

        if words[0] in SOURCE_FORMS:
            return f"{SOURCE_FORMS[words[0]]}   changes how the source is read"
    if not words or words[0] not in FORMS:
        return "start with keep, drop, order, draw, columns or save"
    form = FORMS[words[0]]
    if form.verb == "draw" and len(words) > 1 and words[1] in DRAW_FORMS:
        return DRAW_FORMS[words[1]]
    if form.verb in ("keep", "drop"):
        for word in reversed(words[-5:]):
            if word in OPERATOR_FORMS:
                return OPERATOR_FORMS[word]
            if word in ("and", "or"):
                break
    return f"{form.takes}   for example  {form.example}"
