"""The forms an explanation can have, and what a path's ending says of them."""

from __future__ import annotations

from enum import StrEnum


class Form(StrEnum):
    """How an explanation is written."""

    TEXT = "text"
    MARKDOWN = "markdown"
    HTML = "html"


ENDINGS = {".txt": Form.TEXT, ".md": Form.MARKDOWN, ".html": Form.HTML, ".htm": Form.HTML}
"""Which form a path's ending says."""
