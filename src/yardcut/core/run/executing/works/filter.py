"""The work of ``keep`` and ``drop``: answers of pieces, combined, and which of them decided about a row."""

from __future__ import annotations

from yardcut.core.expressions.evaluating import answer_piece, shown_value
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.bound_parts import columns_named, pieces_of
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.run.executing.works.work import Tools, Work, Worked
from yardcut.core.table import bits as bit
from yardcut.core.table.window import Scatter


def _run(body: BoundFilter, frame: Frame, tools: Tools) -> Worked:
    rows = frame.rows
    if body.condition is None:
        return Worked(rows)
    answers = tools.pieces.combined(body.condition, tools.token, tools.progress)
    if body.drops:
        return Worked(rows.without(answers.true))
    left = rows.only(answers.true)
    unknown = answers.unknown
    if unknown is None:
        return Worked(left)
    if rows.bits is not None:
        unknown = rows.bits & unknown
    return Worked(left, bit.count(unknown), unknown=unknown)


def _reason(body: BoundFilter, window: Scatter) -> str:
    """List the pieces whose answers decided against the row, and only those."""
    if body.condition is None:
        return ""
    answers = {piece: _answer(piece, window) for piece in pieces_of(body.condition)}
    said = [
        piece.text if body.drops else _failed(piece, answers[piece], window)
        for piece in _deciding(body.condition, answers, body.drops)
    ]
    return " · ".join(dict.fromkeys(said))


def _answer(piece: b.Piece, window: Scatter) -> bool | None:
    answers = answer_piece(piece, window)
    if bit.unpack(answers.true, 0, 1)[0]:
        return True
    return False if bit.unpack(answers.false, 0, 1)[0] else None


def _truth(condition: b.BoundCondition, answers: dict[b.Piece, bool | None]) -> bool | None:
    """Return a condition's answer for one row, by the truth tables of ISO/IEC 9075-2, 6.39."""
    match condition:
        case b.Piece():
            return answers[condition]
        case b.Inverse(item):
            inner = _truth(item, answers)
            return None if inner is None else not inner
        case b.AnswerIs(item, truth, negated):
            return (_truth(item, answers) is truth) is not negated
        case b.AllOf(items):
            found = [_truth(item, answers) for item in items]
            return False if False in found else None if None in found else True
        case b.AnyOf(items):
            found = [_truth(item, answers) for item in items]
            return True if True in found else None if None in found else False


def _deciding(condition: b.BoundCondition, answers: dict[b.Piece, bool | None], wanted: bool) -> list[b.Piece]:
    """Return the pieces that make a condition true (``wanted``), or keep it from being true."""
    match condition:
        case b.Piece():
            return [condition]
        case b.Inverse(item) | b.AnswerIs(item=item):
            return pieces_of(item)
        case b.AllOf(items) | b.AnyOf(items):
            return [
                piece
                for item in items
                if (_truth(item, answers) is True) is wanted
                for piece in _deciding(item, answers, wanted)
            ]


def _failed(piece: b.Piece, answer: bool | None, window: Scatter) -> str:
    columns = columns_named(piece)
    if answer is None:
        empty = [column.name for column in columns if shown_value(column, window) is None]
        return f"no value in {', '.join(empty)}" if empty else f"no answer to {piece.text}"
    if len(columns) == 1:
        column = columns[0]
        return f"{column.name} is {shown_value(column, window)}, not {piece.text.removeprefix(column.name).strip()}"
    return f"not {piece.text}"


FILTER = Work(_run, _reason)
