"""Garbage collection at the start: what is loaded then stays, and going over it again would delay the paint."""

from __future__ import annotations

import gc


def collect_later() -> None:
    """Stop collecting until :func:`collect_again`."""
    gc.disable()


def collect_again() -> None:
    """Collect again if that was stopped; what is there by now is never looked at."""
    if not gc.isenabled():
        gc.freeze()
        gc.enable()
