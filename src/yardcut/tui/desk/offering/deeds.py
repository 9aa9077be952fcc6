"""What a card returns: a line to put on the list, or something else to be done."""

from __future__ import annotations

from yardcut.core.quick_dataclasses import dataclass

TAKE_OUT = "take the line out"
"""The ``own`` of taking the selected line out."""


@dataclass(frozen=True, slots=True)
class Deed:
    """A line for the list, in place of the line with the index ``instead_of`` where one is given.

    With ``begins`` it is only begun in the prompt; ``own`` names what is no line.
    """

    line: str = ""
    instead_of: int | None = None
    begins: bool = False
    own: str = ""
