"""How a slice is written: what a ``save`` line says besides its path and format."""

from __future__ import annotations

from collections.abc import Iterator, Mapping

from yardcut.core.language.save_options import DECIMAL, DELIMITER, QUOTE, SAVE_OPTIONS, SaveOption, Value
from yardcut.core.quick_dataclasses import dataclass

_MARKS = {DELIMITER: "the delimiter", DECIMAL: "the decimal mark", QUOTE: "the quote"}


@dataclass(frozen=True, slots=True)
class WriteOptions:
    """The options of a target that are not as its format has them anyway: their names with their values.

    ``options[DELIMITER]`` is the value of an option, its usual one where nothing was said.
    """

    said: frozenset[tuple[str, object]] = frozenset()

    @classmethod
    def of(cls, values: Mapping[str, object]) -> WriteOptions:
        """Return options by their names."""
        return cls(frozenset((name, value) for name, value in values.items() if value != SAVE_OPTIONS[name].usual))

    def __getitem__(self, option: SaveOption[Value]) -> Value:
        """Return the value of an option."""
        return dict(self.said).get(option.name, option.usual)  # type: ignore[return-value] # as it was checked

    def with_value(self, option: SaveOption[Value], value: Value) -> WriteOptions:
        """Return them with one of another value."""
        return WriteOptions.of({**dict(self.said), option.name: value})

    def options(self) -> Iterator[SaveOption[object]]:
        """Yield those that are said, in the order in which they are written."""
        names = dict(self.said)
        return (option for option in SAVE_OPTIONS.values() if option.name in names)

    def text(self) -> str:
        """Write them as a save line has them, a blank before each."""
        return "".join(option.text(self[option]) for option in self.options())


NO_OPTIONS = WriteOptions()


def wrong_marks(options: WriteOptions) -> str | None:
    """Say which two marks of some options, all of them given, are one character; ``None`` where they differ."""
    given = [(said, mark) for option, said in _MARKS.items() if (mark := options[option]) is not None]
    for place, (said, mark) in enumerate(given):
        for other, same in given[:place]:
            if mark == same:
                return f"{other} and {said} are the same"
    return None
