"""What is in force: each entry from the environment, else from the file, else its default."""

from __future__ import annotations

import os
import re
from collections.abc import Mapping
from dataclasses import field
from functools import lru_cache
from pathlib import Path
from typing import Any

from platformdirs import user_cache_path, user_config_path

from yardcut.core.errors import Mend, Place, SettingsError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.settings.entries import ENTRIES, Entry

KEYS = "keys"
"""The section of keys by action: its names are those of actions, which the interface knows."""


@dataclass(frozen=True, slots=True)
class Setting:
    """One entry with its value in force, and where that comes from."""

    entry: Entry
    value: Any
    whence: str


@dataclass(frozen=True, slots=True)
class Settings:
    """All settings in force. What could not be taken is in ``troubles``, and left as it is by default."""

    path: Path
    found: Mapping[str, Setting]
    keys: Mapping[str, Any] = field(default_factory=dict)
    troubles: tuple[SettingsError, ...] = ()
    text: str = ""

    def value(self, name: str) -> Any:
        """Return the value in force of an entry, by section and name (``cache.bytes``)."""
        return self.found[name].value

    def place_of(self, section: str, name: str) -> Place:
        """Return where an entry stands in the file."""
        return _place(self.text, self.path, section, name)


def settings_path() -> Path:
    """Return where the file is looked for; it need not be there."""
    return user_config_path("yardcut") / "config.toml"


def settings() -> Settings:
    """Return the settings in force; the file is read once, and again only under another environment."""
    variables = tuple((entry.variable, os.environ.get(entry.variable, "")) for entry in ENTRIES)
    return _read_once(settings_path(), variables, user_cache_path("yardcut"))


@lru_cache(maxsize=16)
def _read_once(path: Path, variables: tuple[tuple[str, str], ...], _: Path) -> Settings:
    return read_settings(path, dict(variables))


def read_settings(path: Path, environment: Mapping[str, str]) -> Settings:
    """Read the settings: every entry that is right counts, every other is told, and nothing is raised."""
    troubles: list[SettingsError] = []
    text = _text(path, troubles)
    written = _tables(text, path, troubles)
    troubles += _unknown(written, text, path)
    found = {}
    for entry in ENTRIES:
        value, whence = entry.default(), "the default"
        section = written.get(entry.section)
        if isinstance(section, dict) and entry.name in section:
            place = _place(text, path, entry.section, entry.name)
            try:
                value, whence = entry.read(section[entry.name]), str(path)
            except ValueError as error:
                troubles.append(_wrong(entry, error, place))
        if environment.get(entry.variable):
            try:
                value, whence = entry.read(environment[entry.variable]), entry.variable
            except ValueError as error:
                troubles.append(SettingsError(f"{entry.variable}: {error}", mend=Mend(f"for example {entry.example}")))
        found[entry.id] = Setting(entry, value, whence)
    keys = written.get(KEYS)
    return Settings(path, found, keys if isinstance(keys, dict) else {}, tuple(troubles), text)


def _text(path: Path, troubles: list[SettingsError]) -> str:
    try:
        return path.read_text(encoding="utf-8")
    except FileNotFoundError:
        return ""
    except (OSError, UnicodeDecodeError) as error:
        reason = error.strerror if isinstance(error, OSError) else "it is not UTF-8"
        troubles.append(SettingsError(f"the settings {path} cannot be read: {reason}"))
        return ""


def _tables(text: str, path: Path, troubles: list[SettingsError]) -> dict[str, Any]:
    if not text:
        return {}
    import tomllib

    try:
        return tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        said, _, where = str(error).partition(" (at ")
        found = re.match(r"line (\d+), column (\d+)", where)
        place = Place(int(found[1]), int(found[2]), str(path)) if found else Place(1, 1, str(path))
        mend = Mend("none of the file counts until it is TOML: yardcut settings shows a whole one")
        troubles.append(SettingsError(f"this is not TOML: {said[:1].lower()}{said[1:]}", place=place, mend=mend))
        return {}


def _unknown(written: dict[str, Any], text: str, path: Path) -> list[SettingsError]:
    names = {entry.id for entry in ENTRIES}
    sections = {*(entry.section for entry in ENTRIES), KEYS}
    found = []
    for section, inside in written.items():
        if section not in sections or not isinstance(inside, dict):
            from yardcut.core.near import nearest  # here: the package behind it takes a while to load

            near = nearest(section, sorted(sections), 1)
            mend = Mend(f"the sections are {', '.join(f'[{name}]' for name in sorted(sections))}")
            place = _place(text, path, section, "")
            found.append(SettingsError(f"there is no section [{section}]", place=place,
                                       mend=Mend(f"did you mean [{near[0]}]?") if near else mend))  # fmt: skip
        elif section != KEYS:
            for name in inside:
                if f"{section}.{name}" not in names:
                    own = [entry.name for entry in ENTRIES if entry.section == section]
                    mend = Mend(f"[{section}] has {', '.join(own)}")
                    place = _place(text, path, section, name)
                    found.append(SettingsError(f"there is no setting {name} in [{section}]", place=place, mend=mend))
    return found


def _wrong(entry: Entry, error: ValueError, place: Place) -> SettingsError:
    mend = Mend(f"for example: {entry.name} = {entry.example}")
    return SettingsError(f"{entry.name} in [{entry.section}]: {error}", place=place, mend=mend)


def _place(text: str, path: Path, section: str, name: str) -> Place:
    """Return the line of an entry: the first in its section that begins with its name."""
    inside = False
    for number, line in enumerate(text.splitlines(), 1):
        heading = re.match(r"\s*\[\s*[\"']?([^\"'\]]*?)[\"']?\s*\]", line)
        if heading is not None:
            inside = heading[1] == section
            if inside and not name:
                return Place(number, 1, str(path))
        wanted = name if inside else f"{section}.{name}" if name else section
        own = re.match(rf"\s*[\"']?{re.escape(wanted)}[\"']?\s*=", line)
        if own is not None:
            return Place(number, len(line) - len(line.lstrip()) + 1, str(path))
    return Place(1, 1, str(path))
