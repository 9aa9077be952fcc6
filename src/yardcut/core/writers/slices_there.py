"""What a slice is written to that is no file here: a table of a server, an object of a bucket."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from yardcut.core.errors import Mend, TargetError
from yardcut.core.formats import function
from yardcut.core.language.write_options import WriteOptions
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.addresses import way_to, without_secret
from yardcut.core.sources.elsewhere.ways import WAYS
from yardcut.core.writers.plans import Plan

if TYPE_CHECKING:
    from yardcut.core.expressions.frame import Frame
    from yardcut.core.writers.saving_slices import Written

WriteHere = Callable[[Path], "Written"]
"""Writes the slice to a file here, as its plan says."""


class SliceThere(Protocol):
    """What a slice is written to elsewhere; as a text it is what a sentence calls it.

    ``nothing_to_choose`` is the sentence where a save has no options there, else "".
    """

    nothing_to_choose: str

    def plan(self, format_name: str | None, options: WriteOptions, *, is_parted: bool) -> Plan:
        """Return how it is written, by what a save line says. Raises ``TargetError`` for what cannot be there."""

    def check_there(self, token: CancelToken) -> None:
        """Look whether it may be put there. Raises ``TargetError``, ``TargetExistsError``, ``StoppedError``."""

    def write(self, piece: Frame, here: WriteHere, token: CancelToken, progress: Progress) -> Written:
        """Write a slice there. Raises ``TargetError``, ``StoppedError``; nothing of it is left there then."""


def slice_there(address: str, table: str = "", *, replace: bool = False) -> SliceThere:
    """Return what the address of a save line is written to. Raises ``TargetError`` where nothing is."""
    way = way_to(address)
    if not way.put:
        takes = [each.takes for each in WAYS if each.put]
        raise TargetError(
            f"nothing is written to {without_secret(address)}", mend=Mend(", or ".join(["save to a file", *takes]))
        )
    found: SliceThere = function(way.put)(without_secret(address), table, replace)
    return found
