"""Loading, behind the first screen, what the first line written would otherwise wait for."""

from __future__ import annotations


def warm_up() -> None:
    """Load grammars and the packages behind regular expressions and near names."""
    import re2  # noqa: F401

    import yardcut.core.near  # noqa: F401
    from yardcut.core.language.syntax.grammars import grammar

    grammar()
    grammar("source", "sub_line")
