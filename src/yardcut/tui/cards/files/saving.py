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
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.save_options import SAVE_OPTIONS
from yardcut.core.language.syntax.printing import side_text
from yardcut.core.language.verbs.save import SAVE, Save
from yardcut.core.language.write_options import WriteOptions
from yardcut.core.writers.plans import plan_of
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.cards.files.part_columns import PartColumnsCard
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

    def __init__(self, save: Save, columns: Sequence[tuple[str, str]], formulas: Formulas | None) -> None:
        super().__init__()
        self._save, self._formulas = save, formulas
        self._columns = columns
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
            return ((), "one for all"), *([(self._parts, self._parts_said)] if self._parts else []), *rows
        return SAVE_OPTIONS[name].choices

    def _value(self, name: str) -> Any:
        if name == "format":
            return self._format
        if name == "per":
            return self._parts or self._save.per_rows or ()
        return self._save.options[SAVE_OPTIONS[name]]

    @property
    def _parts(self) -> tuple[t.Expression, ...]:
        return self._save.per

    @property
    def _parts_said(self) -> str:
        return f"for each {', '.join(map(side_text, self._parts))}"

    def _choose_columns(self) -> None:
        """Choose the columns whose values each get a file, from a list that is typed into."""

        def chosen(names: tuple[str, ...] | None) -> None:
            if names is not None:
                self._save = self._with("per", tuple(map(t.Name, names)))
                self._draw()

        ticked = [each.name for each in self._parts if isinstance(each, t.Name)]
        self.app.push_screen(PartColumnsCard(self._columns, ticked), chosen)

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
            is_rows = isinstance(value, int)
            return dataclasses.replace(save, per=() if is_rows else value, per_rows=value if is_rows else None)
        return dataclasses.replace(save, options=save.options.with_value(SAVE_OPTIONS[name], value))

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "saving-away": self.put_away,
            "saving-next": lambda: self._turn(1),
            "saving-previous": lambda: self._turn(-1),
            "saving-columns": self._choose_columns,
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
