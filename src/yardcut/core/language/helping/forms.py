"""The form of what is being written, with one example from the yard."""

from __future__ import annotations

from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.verbs.all_verbs import VERBS

OPERATOR_FORMS: dict[str, str] = {
    "between": "BETWEEN low AND high takes both ends",
    "in": "IN ('oak', 'ash') is one of several; IN \"asked.txt\" [column ticket], IN cut \"dear ones\" stands there",
    "like": "LIKE 'R1%' where % is any text and _ one character",
    "contains": "CONTAINS 'shake' [IGNORING CASE]",
    "starts": "STARTS WITH 'N-' [IGNORING CASE]",
    "ends": "ENDS WITH '-31' [IGNORING CASE]",
    "any": "ANY OF (moisture_d*) > 60: one of the columns; missing values are passed over",
    "all": "ALL OF (moisture_d*) < 20: every column that has a value",
    "case": "CASE WHEN condition THEN value … ELSE value END, or CASE grade WHEN 'A' THEN 1 … END",
    "interval": "felled_on + INTERVAL '7' DAY; also YEAR, MONTH, HOUR, MINUTE, SECOND",
    "is": "IS NULL asks whether there is no value; IS NOT NULL whether there is one",
}


def form_for(text: str) -> str:
    """Return the form of what is being written at the end of a line, with its example."""
    words = text.lower().split()
    if words and words[0] == "off":
        words = words[1:]
    verb = VERBS.get(words[0]) if words else None
    if verb is None:
        from yardcut.core.language.syntax.dial_lines import EXAMPLE as DIAL_EXAMPLE
        from yardcut.core.language.syntax.dial_lines import FORM as DIAL_FORM
        from yardcut.core.language.syntax.dial_lines import WORD as DIAL_WORD
        from yardcut.core.language.syntax.source_lines import FORMS as SOURCE_FORMS
        from yardcut.core.language.syntax.source_lines import FURTHER, FURTHER_EXAMPLE, FURTHER_FORM, meaning

        if words and words[0] == DIAL_WORD:
            return f"{DIAL_FORM}   for example  {DIAL_EXAMPLE}"
        if words and words[0] == FURTHER:
            return f"{FURTHER_FORM}   for example  {FURTHER_EXAMPLE}"
        if words and words[0] in SOURCE_FORMS:
            return f"{SOURCE_FORMS[words[0]]}   {meaning(text)}"
        *others, last = VERBS
        return f"start with {', '.join(others)} or {last}"
    if len(words) > 1 and words[1] in verb.forms():
        return verb.forms()[words[1]]
    if verb.word == "save":
        options = [word for word in reversed(words[2:]) if word in verb.forms()]
        return verb.forms()[options[0]] if options else f"{verb.form()}   for example  {verb.example}"
    begun = words[-1].rpartition("(")
    if begun[1] and begun[0].upper() in FUNCTIONS:
        signature = FUNCTIONS[begun[0].upper()]
        return f"{signature.form}: {signature.does}   for example  {signature.example}"
    if len(words) > 1 and words[-1] in ("any", "all", "case", "interval") and verb.word != "columns":
        return OPERATOR_FORMS[words[-1]]
    if verb.word in ("keep", "drop"):
        for word in reversed(words[-5:]):
            if word in OPERATOR_FORMS:
                return OPERATOR_FORMS[word]
            if word in ("and", "or"):
                break
    return f"{verb.form()}   for example  {verb.example}"
