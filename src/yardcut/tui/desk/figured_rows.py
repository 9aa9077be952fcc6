"""Rows that figures are about."""

from __future__ import annotations

from dataclasses import dataclass

from yardcut.core.expressions.frame import Frame


@dataclass(frozen=True, slots=True, eq=False)
class Rows:
    """A frame, and what tells its rows from any others."""

    frame: Frame
    fingerprint: str
