"""Which of the settings the app goes by: theme, keys, and what of the file it could not take."""

from __future__ import annotations

from dataclasses import field

from yardcut.core.errors import Mend, SettingsError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.settings.settings_in_force import Settings
from yardcut.tui.keys.keymap import Keymap
from yardcut.tui.keys.own_keys import own_keymap
from yardcut.tui.number_marks import NumberMarks
from yardcut.tui.theme import THEMES


@dataclass(frozen=True, slots=True)
class InForce:
    """A theme by its name, keys, marks of numbers, and troubles with the settings."""

    theme: str = THEMES[0].name
    keymap: Keymap = field(default_factory=Keymap)
    marks: NumberMarks = field(default_factory=NumberMarks)
    troubles: tuple[SettingsError, ...] = ()

    def said(self) -> str:
        """Say the first trouble, and how many there are; "" where all is well."""
        if not self.troubles:
            return ""
        more = f"   (and {len(self.troubles) - 1} more: yardcut settings)" if len(self.troubles) > 1 else ""
        return f"settings: {self.troubles[0]}{more}"


def in_force(settings: Settings) -> InForce:
    """Check what the core cannot know: the names of themes, actions and keys."""
    keys, troubles = own_keymap(settings)
    troubles = [*settings.troubles, *troubles]
    theme, names = settings.value("screen.theme"), [each.name for each in THEMES]
    if theme not in names:
        place = (
            settings.place_of("screen", "theme")
            if settings.found["screen.theme"].whence == str(settings.path)
            else None
        )
        troubles.append(
            SettingsError(f"there is no theme {theme}", place=place, mend=Mend(f"it is one of {', '.join(names)}"))
        )
        theme = names[0]
    marks = NumberMarks(settings.value("screen.decimal_mark"), settings.value("screen.thousands_mark"))
    if marks.decimal == marks.thousands:
        message = f"decimals and thousands cannot both have the mark {marks.decimal!r}"
        troubles.append(SettingsError(message, place=settings.place_of("screen", "thousands_mark")))
        marks = NumberMarks()
    return InForce(theme, keys, marks, tuple(troubles))
