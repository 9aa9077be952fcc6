"""How a slice is written: each option with its choices. What is chosen is written behind the path, as a line has it."""

from __future__ import annotations

import dataclasses
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from textual.app import ComposeResult
from textual.containers import Vertical
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.formats import written_formats
from yardcut.core.language import tree as t
from yardcut.core.language.save_options import SAVE_OPTIONS
from yardcut.core.language.verbs.save import SAVE, Save
from yardcut.core.language.write_options import WriteOptions
from yardcut.core.writers.plans import plan_of
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, fit

if TYPE_CHECKING:
    from yardcut.core.writers.formulas import Formulas

_ROWS = (100_000, 1_000_000)
_OTHERS = {"format": "format", "per": "files"}
_Choices = tuple[tuple[Any, str], ...]


class SavingCard(Card[str | None]):
    """Returns the path with the words behind it."""

    FOCUS = Focus.SAVING

    def __init__(self, save: Save, parted_by: Sequence[str], formulas: Formulas | None) -> None:
        super().__init__()
        self._save, self._formulas = save, formulas
        self._parted_by = parted_by
        self._list = OptionList()
        self._said = Static("", id="saving-said")

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="saving-card") as card:
            card.border_title = "how it is written"
            yield self._list
            yield self._said
        yield self.footer()

    def on_mount(self) -> None:
        """Show the options."""
        self.set_focus(self._list)
        self._draw()

    @property
    def _format(self) -> str:
        return plan_of(Path(self._save.path), self._save.format, self._save.options).format.name

    @property
    def _names(self) -> list[str]:
        offered = [option.name for option in SAVE_OPTIONS.values() if option.choices and option.is_of(self._format)]
        return ["format", *offered, "per"]

    def _choices(self, name: str) -> _Choices:
        if name == "format":
            return tuple((form.name, form.name) for form in written_formats())
        if name == "per":
            rows = tuple((count, f"for every {count:,} rows") for count in _ROWS)
            return (None, "one for all"), *((each, f"for each {each}") for each in self._parted_by), *rows
        return SAVE_OPTIONS[name].choices

    def _value(self, name: str) -> Any:
        if name == "format":
            return self._format
        if name == "per":
            per = self._save.per
            return per.name if isinstance(per, t.Name) else self._save.per_rows
        return self._save.options[SAVE_OPTIONS[name]]

    def _draw(self) -> None:
        place = self._list.highlighted or 0
        self._list.clear_options()
        self._list.add_options(list(map(self._line, self._names)))
        self._list.highlighted = min(place, len(self._names) - 1)
        note = self._formulas.sentence() if self._formulas is not None and "guard" in self._names else ""
        self._said.update(
            Content.assemble((clean(_words(self._save)), "$would"), ("\n" + clean(note) if note else "", "$warning"))
        )

    def _line(self, name: str) -> Content:
        value, label = self._value(name), _OTHERS.get(name) or SAVE_OPTIONS[name].label
        said = next((said for each, said in self._choices(name) if each == value), str(value))
        default = SAVE_OPTIONS[name].usual if name in SAVE_OPTIONS else None
        style = "$dim" if value == default else "$count"
        return Content.assemble((fit(label, 20), "bold"), ("◂ ", "$gone"), (clean(said), style), (" ▸", "$gone"))

    def _turn(self, by: int) -> None:
        """Take the next choice of the marked option; one that makes no sense with the others is passed over."""
        from yardcut.core.errors import TargetError

        place = self._list.highlighted
        if place is None:
            return
        name = self._names[place]
        values = [value for value, _ in self._choices(name)]
        at = values.index(self._value(name)) if self._value(name) in values else 0
        for step in range(1, len(values) + 1):
            turned = self._with(name, values[(at + by * step) % len(values)])
            try:
                plan_of(Path(turned.path), turned.format, turned.options)
            except TargetError:
                continue
            self._save = turned
            break
        self._draw()

    def _with(self, name: str, value: Any) -> Save:
        save = self._save
        if name == "format":
            options = WriteOptions.of(
                {option.name: save.options[option] for option in save.options.options() if option.is_of(value)}
            )
            own_ending = plan_of(Path(save.path), None).format.name == value if _has_format(save.path) else False
            return dataclasses.replace(save, format=None if own_ending else value, options=options)
        if name == "per":
            rows = value if isinstance(value, int) else None
            return dataclasses.replace(save, per=t.Name(value) if isinstance(value, str) else None, per_rows=rows)
        return dataclasses.replace(save, options=save.options.with_value(SAVE_OPTIONS[name], value))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "saving-away": self.put_away,
            "saving-next": lambda: self._turn(1),
            "saving-previous": lambda: self._turn(-1),
            "saving-done": lambda: self.dismiss(_words(self._save)),
            **choice_calls(self._list),
        }

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Take the next choice of the option that was clicked."""
        self._turn(1)


def _has_format(path: str) -> bool:
    from yardcut.core.errors import TargetError

    try:
        plan_of(Path(path))
    except TargetError:
        return False
    return True


def _words(save: Save) -> str:
    """Return a save as it is typed: a path that needs no quotes stands without."""
    from yardcut.core.language.syntax.save_words import parse_save_words

    text = SAVE.text(save)
    bare = text.removeprefix(f'"{save.path}"')
    if bare != text and parse_save_words(save.path + bare) == save:
        return save.path + bare
    return text
