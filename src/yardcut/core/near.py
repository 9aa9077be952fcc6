"""Which of some words is most like another: the one door to the package that measures it.

It is loaded when it is first needed, perhaps by two threads at once. Python, where two threads import a package and a
part of it from both ends, hands one of them a module that is not whole; through one door that cannot be.
"""

from __future__ import annotations

from collections.abc import Sequence

from rapidfuzz import fuzz, process, utils
from rapidfuzz.distance import OSA

_LIKE_A_NAME, _LIKE_A_VALUE, _LIKE_A_VERB = 72, 85, 70
_LEAST_LETTERS, _FEWEST_TURNED = 4, 3


def nearest(name: str, names: Sequence[str], most: int = 3) -> list[str]:
    """Return the names most like a given one, best first.

    >>> nearest('specie', ['grade', 'species', 'shift'])
    ['species']
    """
    found = process.extract(
        name, names, scorer=fuzz.WRatio, processor=utils.default_process, limit=most, score_cutoff=_LIKE_A_NAME
    )
    return [match for match, _, _ in found]


def nearest_value(word: str, values: Sequence[str]) -> str | None:
    """Return the value that a word misspells, if there is one: one that is like it, or but one letter off."""
    turned = next((value for value in values if len(word) >= _FEWEST_TURNED and _is_turned(word, value)), None)
    if turned is not None:
        return turned
    one_off = 100 * (len(word) - 1) // len(word) if len(word) >= _LEAST_LETTERS else _LIKE_A_VALUE
    found = process.extractOne(
        word, values, scorer=fuzz.ratio, processor=utils.default_process, score_cutoff=min(_LIKE_A_VALUE, one_off)
    )
    return None if found is None else str(found[0])


def _is_turned(word: str, value: str) -> bool:
    """Tell whether two letters beside each other changed places: ``oka`` for ``oak``."""
    return (
        len(word) == len(value)
        and word.casefold() != value.casefold()
        and OSA.distance(word.casefold(), value.casefold(), score_cutoff=1) == 1
        and sorted(word.casefold()) == sorted(value.casefold())
    )


def nearest_verb(word: str, verbs: Sequence[str]) -> str | None:
    """Return the verb that a word misspells, if there is one."""
    found = process.extractOne(word.lower(), verbs, score_cutoff=_LIKE_A_VERB)
    return None if found is None or not word else str(found[0])


def likeliest_name(name: str, names: Sequence[str], least: float) -> str | None:
    """Return the name that has most of another's words, in any order, if one is like it enough (0 to 100)."""
    found = process.extractOne(name, names, scorer=fuzz.token_sort_ratio, processor=_words, score_cutoff=least)
    return None if found is None else str(found[0])


def _words(name: str) -> str:
    return name.replace("_", " ").casefold()
