"""All that can be found: actions with their keys in force, tasks, lines, functions, words, and the columns of now."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence

from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.helping.forms import OPERATOR_FORMS
from yardcut.core.language.syntax.source_lines import FORMS as SOURCE_FORMS
from yardcut.core.language.verbs.all_verbs import VERBS
from yardcut.tui.finder.leads import Entry, Lead, begins, calls_function, does
from yardcut.tui.finder.tasks import FUNCTION_WORDS, TASKS, WORDS
from yardcut.tui.keys.actions import Action
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of, keymap
from yardcut.tui.keys.names import key_text

GROUPS = ("find your way", "look", "cut", "choose columns", "change the list", "keep the result", "answer a question")
"""What actions are for, in the sequence they are listed in."""

_OPERATORS: dict[str, str] = {
    "any": "keep ANY OF (", "all": "keep ALL OF (", "case": "make new = CASE WHEN ",
    "interval": "make day = {column} + INTERVAL '",
    "is": "keep {column} IS NULL", "starts": "keep {column} STARTS WITH '", "ends": "keep {column} ENDS WITH '",
    "contains": "keep {column} CONTAINS '", "like": "keep {column} LIKE '", "between": "keep {column} BETWEEN ",
    "in": "keep {column} IN (",
}  # fmt: skip
_STANDS_APART = frozenset(
    ["up", "down", "left", "right", "pageup", "pagedown", "home", "end", "shift+left", "shift+right"]
)


def entries(columns: Iterable[tuple[str, str, int]] = ()) -> list[Entry]:
    """Return everything there is, the moves last; ``columns`` are (name, kind, place) of those on screen."""
    here, on_cards, moves = _actions()
    found = [*(_task(left, right, lead) for left, right, lead in TASKS), *here]
    for verb in VERBS.values():
        found.append(
            Entry("the lines of a cut", verb.form(), f"{verb.does}: {verb.example}", begins(f"{verb.word} "), verb.word)
        )
        for name, form in verb.forms().items():
            found.append(Entry(f"{verb.word}s", form, f"{verb.word} {name}", _begin_of(verb.word, name, form)))
    for name, each in FUNCTIONS.items():
        words = FUNCTION_WORDS.get(name, "")
        found.append(Entry("functions", each.form, f"{each.does}: {each.example}", calls_function(name), words))
    found += [Entry("conditions", form, "", begins(_OPERATORS[word])) for word, form in OPERATOR_FORMS.items()]
    found += [
        Entry("reading", form, f"{word}, below the source", begins(f"{word} ")) for word, form in SOURCE_FORMS.items()
    ]
    found += [Entry(section, left, _with_keys(right)) for section, left, right in WORDS]
    found += [Entry("columns", name, kind, Lead(place=place)) for name, kind, place in columns]
    return found + on_cards + moves


def _actions() -> tuple[list[Entry], list[Entry], list[Entry]]:
    """Return the actions of the main screen, those of cards, and those that only move, each by what they are for."""
    here: list[Entry] = []
    on_cards: list[Entry] = []
    moves: list[Entry] = []
    for action in (action for group in GROUPS for action in keymap().actions if action.task == group):
        is_here = action.focus.is_panel or action.focus in (Focus.ANYWHERE, Focus.EVERYWHERE)
        (moves if _is_move(action) else here if is_here else on_cards).append(_of_action(action))
    return here, on_cards, moves


def _of_action(action: Action) -> Entry:
    where = "" if action.focus in (Focus.EVERYWHERE, Focus.ANYWHERE) else f"  ({_lower(action.focus.value)})"
    keys = " or ".join(map(key_text, action.keys))
    return Entry(action.task, keys, action.help + where, does(action.id), action.hint, _is_move(action))


def _is_move(action: Action) -> bool:
    return action.keys[0] in _STANDS_APART and not action.hint


def _task(left: str, right: str, lead: Lead) -> Entry:
    said, _, words = right.partition("; words: ")
    key = f"  {key_of(lead.action)}" if lead.action else ""
    return Entry("how do I", left, _with_keys(said) + key, lead, words)


def _begin_of(verb: str, name: str, form: str) -> Lead:
    """Return the line that begins with a form: its first words, as far as they are the same for everybody."""
    start = f"{verb} {name} "
    if form.startswith(start):
        return begins(start)
    return begins(f"{verb} ") if verb != "save" else does("save")


def _with_keys(text: str) -> str:
    """Put the keys in force in the place of actions."""
    known = {action.id for action in keymap().actions}
    shown = re.sub(
        r"(?<!\{)\{([a-z-]+)\}(?!\})", lambda found: key_of(found[1]) if found[1] in known else found[0], text
    )
    return shown.replace("{{", "{").replace("}}", "}")


def _lower(text: str) -> str:
    return text[:1].lower() + text[1:]


def vocabulary(found: Sequence[Entry]) -> list[str]:
    """Return the words that find something."""
    return sorted({word for entry in found for word in words_of(f"{entry.left} {entry.words} {entry.right}")})


def words_of(text: str) -> list[str]:
    """Return the words of a text without capitals; a name of several parts is several words beside itself.

    >>> words_of("STDDEV_SAMP(x), row by row")
    ['stddev_samp', 'x', 'row', 'by', 'row', 'stddev', 'samp']
    """
    whole = re.findall(r"[^\W]+(?:[-'][^\W]+)*", text.casefold())
    return whole + [part for word in whole for part in re.split(r"[_'-]", word) if part and part != word]
