"""New names for columns: what is wrong with one, and many made at once by a rule."""

from __future__ import annotations

import re
from collections.abc import Callable, Collection, Mapping

from yardcut.core.errors import ListError
from yardcut.core.quick_dataclasses import dataclass

_MOST_CHARACTERS = 255
_RULE_WORD = re.compile(r"'((?:[^'\n]|'')*)'|(\S+)")
RULES = "lower, upper, underscores, cut moisture_, cut end _mm, add yard_, swap d day"
"""Rules as they are typed, for those who wonder."""


@dataclass(frozen=True, slots=True)
class NameTrouble:
    """What is wrong with a name, and one like it that is right."""

    says: str
    mended: str


def name_trouble(name: str, others: Collection[str]) -> NameTrouble | None:
    """Return what is wrong with a new name beside those of the other columns of the result, or ``None``.

    Outer blanks would not come back from a file, control characters and very long names some formats cannot take, and
    databases do not tell names apart that differ in capitals only.
    """
    plain = " ".join(re.sub(r"[\x00-\x1f\x7f-\x9f\u2028\u2029]", " ", name).split(" ")).strip()[:_MOST_CHARACTERS]
    plain = plain.strip()
    if not plain:
        return NameTrouble("a column needs a name", free_name("column", others))
    if plain != name:
        return NameTrouble(
            "blanks around a name, control characters and more than 255 characters are lost in some formats",
            free_name(plain, others),
        )
    if name in others:
        return NameTrouble(f"another column is named {name}", free_name(name, others))
    alike = next((other for other in others if other.casefold() == name.casefold()), None)
    if alike is not None:
        return NameTrouble(f"a database cannot tell {name} from {alike}", free_name(name, others))
    return None


def free_name(name: str, others: Collection[str]) -> str:
    """Return a name, with a number behind it where another column has it already."""
    taken = {other.casefold() for other in others}
    found, number = name, 2
    while found.casefold() in taken:
        found, number = f"{name}_{number}", number + 1
    return found


def renamed_by_rule(rule: str, names: Mapping[int, str]) -> dict[int, str]:
    """Return new names by number, made by a rule of several steps. Raises ``ListError`` for a rule that is none."""
    words = [match[1].replace("''", "'") if match[1] is not None else match[2] for match in _RULE_WORD.finditer(rule)]
    steps: list[Callable[[str], str]] = []
    while words:
        word = words.pop(0).lower()
        if word in _PLAIN:
            steps.append(_PLAIN[word])
        elif word == "cut" and words and words[0].lower() == "end" and len(words) > 1:
            end = words[1]
            steps.append(lambda name, end=end: name.removesuffix(end))  # type: ignore[misc]
            words = words[2:]
        elif word == "cut" and words:
            start = words.pop(0)
            steps.append(lambda name, start=start: name.removeprefix(start))  # type: ignore[misc]
        elif word == "add" and words:
            start = words.pop(0)
            steps.append(lambda name, start=start: start + name)  # type: ignore[misc]
        elif word == "swap" and len(words) > 1:
            old, new = words[:2]
            steps.append(lambda name, old=old, new=new: name.replace(old, new))  # type: ignore[misc]
            words = words[2:]
        else:
            raise ListError(f"a rule is made of {RULES}")
    found = dict(names)
    for step in steps:
        found = {number: step(name) for number, name in found.items()}
    return found


def _underscored(name: str) -> str:
    return re.sub(r"[^\w]+", "_", name).strip("_")


_PLAIN: dict[str, Callable[[str], str]] = {"lower": str.lower, "upper": str.upper, "underscores": _underscored}
