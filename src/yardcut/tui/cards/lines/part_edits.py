"""What the card of a line's parts may ask of the list."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.core.quick_dataclasses import dataclass

if TYPE_CHECKING:
    from yardcut.core.language.meaning.dials_put_in import DialSetting


@dataclass(frozen=True, slots=True)
class PartEdits:
    """Another text for the line of an index, with dials it names or without; the last edit back, or again.

    Each returns what is to be said of it.
    """

    rewrite: Callable[[int, str], str]
    put_dials: Callable[[int, str, tuple[DialSetting, ...]], str]
    step: Callable[[bool], str]
