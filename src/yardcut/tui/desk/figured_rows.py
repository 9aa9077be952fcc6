"""Rows that figures are about."""

from __future__ import annotations

from yardcut.core.expressions.frame import Frame
from yardcut.core.quick_dataclasses import dataclass


@dataclass(frozen=True, slots=True, eq=False)
class Rows:
    """A frame, and what tells its rows from any others."""

    frame: Frame
    fingerprint: str
