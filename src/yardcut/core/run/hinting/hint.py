"""A hint: something said quietly of a line."""

from __future__ import annotations

from yardcut.core.errors import Mend
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Hint:
    """What is said quietly of a line, and the line as it is likely meant ("": there is none to offer).

    A note says what there is, without a doubt about it.
    """

    says: str
    mend: str = ""
    is_note: bool = False

    @property
    def whole(self) -> str:
        """Both in a sentence; a line that is long is left to whoever offers it on a key."""
        return Mend(self.says, self.mend or None).whole
