"""Patterns of LIKE and LIKE_REGEX as regular expressions of re2, which cannot take exponential time."""

from __future__ import annotations

from yardcut.core.language.meaning.bound import TextMatch


def like_parts(pattern: str, escape: str) -> list[str | None]:
    """Split a LIKE pattern into literal stretches, ``"_"`` given as ``None`` and ``"%"`` as ``""``.

    Raises ``ValueError`` where the escape character stands before anything but ``%``, ``_`` or itself.
    """
    parts: list[str | None] = []
    literal = ""
    position = 0
    while position < len(pattern):
        char = pattern[position]
        if escape and char == escape:
            position += 1
            literal += pattern[position : position + 1]
        elif char in "%_":
            if literal:
                parts.append(literal)
                literal = ""
            parts.append("" if char == "%" else None)
        else:
            literal += char
        position += 1
    if literal:
        parts.append(literal)
    return parts


def simpler(test: TextMatch) -> TextMatch:
    """Return a LIKE that only asks for a beginning, an end, or a part as that plainer test."""
    if test.how != "like":
        return test
    parts = like_parts(test.pattern, test.option)
    words = [part for part in parts if part]
    if None in parts or len(words) > 1:
        return test
    word = words[0] if words else ""
    opens, closes = parts[:1] == [""], parts[-1:] == [""]
    # ignoring case, STARTS and ENDS pass over outer blanks, and LIKE does not
    if opens and closes:
        return TextMatch("contains", test.value, word, test.ignoring_case)
    if test.ignoring_case or not words:
        return test
    if closes:
        return TextMatch("starts", test.value, word)
    if opens:
        return TextMatch("ends", test.value, word)
    return test


def regex_source(test: TextMatch) -> str:
    """Return the regular expression of a like, regex or contains test, without anchors at the ends."""
    import re2

    if test.how == "regex":
        flags = "".join(sorted(set(test.option)))
        return f"(?{flags}:{test.pattern})" if flags else test.pattern
    if test.how == "contains":
        source = re2.escape(test.pattern)
    else:
        parts = like_parts(test.pattern, test.option)
        source = "".join("." if part is None else ".*" if part == "" else re2.escape(part) for part in parts)
        source = f"(?s:{source})"
    return f"(?i:{source})" if test.ignoring_case else source
