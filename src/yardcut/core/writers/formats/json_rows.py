"""Writing JSON (RFC 8259): an object a row, on a line of its own or as the items of one array.

Numbers are numbers, days and instants texts in ISO 8601, a missing value is null. JSON has no infinite numbers: they
are written as texts.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from pathlib import Path

from yardcut.core.expressions.frame import Frame
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.vectors import CodedVector, NumericVector, Vector
from yardcut.core.values.kinds import Kind
from yardcut.core.writers.formats.compressing import TextTarget, open_text, read_text
from yardcut.core.writers.plans import Plan


def write_lines(piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress) -> None:
    """Write a slice as JSON Lines. Raises ``OSError``."""
    with open_text(path, plan.compression) as file:
        _write(file, _rows(piece, token, progress), "", "\n", "\n" if piece.rows.count else "")


def write_array(piece: Frame, path: Path, plan: Plan, token: CancelToken, progress: Progress) -> None:
    """Write a slice as one JSON array. Raises ``OSError``."""
    with open_text(path, plan.compression) as file:
        _write(file, _rows(piece, token, progress), "[\n", ",\n", "\n]\n")


def _write(file: TextTarget, rows: Iterator[list[str]], opens: str, between: str, closes: str) -> None:
    file.write(opens)
    is_first = True
    for some in rows:
        if some:
            file.write(("" if is_first else between) + between.join(some))
            is_first = False
    file.write(closes)


def _rows(piece: Frame, token: CancelToken, progress: Progress) -> Iterator[list[str]]:
    """Yield the rows of block after block as objects."""
    names = [json.dumps(column.name, ensure_ascii=False) + ": " for column in piece.columns]
    for ids, vectors in piece.blocks(token, progress):
        columns = [[name + cell for cell in _cells(vector)] for name, vector in zip(names, vectors, strict=True)]
        yield ["{" + ", ".join(cells) + "}" for cells in zip(*columns, strict=True)] if columns else ["{}"] * len(ids)


def _cells(vector: Vector) -> list[str]:
    if isinstance(vector, CodedVector):
        vector = vector.in_use()
        words = [*map(_text, vector.dictionary.texts), "null"]
        return [words[code] for code in vector.codes.tolist()]
    texts = vector.texts()
    if not isinstance(vector, NumericVector):
        return ["null" if text is None else _text(text) for text in texts]
    if vector.kind is Kind.INTEGER:
        return ["null" if text is None else text for text in texts]
    if vector.kind is Kind.NUMBER:
        return ["null" if text is None else _number(text) for text in texts]
    if vector.kind is Kind.BOOLEAN:
        return ["null" if text is None else text.lower() for text in texts]
    return ["null" if text is None else f'"{text}"' for text in texts]  # days and times have nothing to escape


_text = json.JSONEncoder(ensure_ascii=False).encode


def _number(text: str) -> str:
    """Return a number as JSON writes it; an infinite one as a text."""
    if text.strip("+-").isdigit():
        return text
    value = float(text)
    return repr(value) if value - value == 0 else f'"{text}"'


def count_lines(path: Path, plan: Plan) -> int:
    """Read JSON Lines back and count the rows."""
    with read_text(path) as file:
        return sum(isinstance(json.loads(line), dict) for line in file)


def count_items(path: Path, plan: Plan) -> int:
    """Read a JSON array back, a line at a time, and count its items: each stands on its own line."""
    count = 0
    with read_text(path) as file:
        for line in file:
            text = line.strip().removesuffix(",")
            if text not in ("[", "]", ""):
                count += isinstance(json.loads(text), dict)
    return count
