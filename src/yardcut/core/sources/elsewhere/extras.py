"""Packages that an extra of the installation brings."""

from __future__ import annotations

from importlib import import_module
from typing import Any

from yardcut.core.errors import Mend, SourceError


def of_extra(package: str, what_for: str, extra: str) -> Any:
    """Return a package. Raises ``SourceError``, with the extra that brings it, where it is not installed."""
    try:
        return import_module(package)
    except ImportError:
        mend = Mend(f"pip install 'yardcut[{extra}]' installs it")
        raise SourceError(f"{package} is not installed, and {what_for}", mend=mend) from None
