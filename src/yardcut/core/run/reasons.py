"""Why a line removed a row."""

from __future__ import annotations

from yardcut.core.expressions.conditions import answer_piece, shown_value
from yardcut.core.language import bound as b
from yardcut.core.run.results import LineResult
from yardcut.core.table import bits as bit
from yardcut.core.table.table import Table


def reason(result: LineResult, table: Table, row_id: int) -> str:
    """Say in a phrase why a row is in a line's offcut: the pieces that decided, with the row's own values."""
    bound = result.line.bound
    if bound is None:
        return ""
    match bound.body:
        case b.BoundFilter(condition, drops):
            return _of_condition(condition, drops, table, row_id) if condition is not None else ""
        case b.BoundDraw(draw, keys):
            if draw.remainder:
                return "drawn, and the remainder is kept"
            if draw.form in ("top", "bottom"):
                value = shown_value(keys[0].value, table, row_id)
                if value is None:
                    return f"no {keys[0].text} to rank by"
                return f"{keys[0].text} is {value}: not among the {draw.form} {draw.amount.written}"
            return "not drawn"
    return ""


def _answer(piece: b.Piece, table: Table, row_id: int) -> bool | None:
    start = row_id - row_id % 8
    answers = answer_piece(piece, table, start, min(start + 8, table.rows))
    place = row_id - start
    if bit.unpack(answers.true, 0, 8)[place]:
        return True
    return False if bit.unpack(answers.false, 0, 8)[place] else None


def _of_condition(condition: b.BoundCondition, drops: bool, table: Table, row_id: int) -> str:
    """List the pieces whose answers decided against the row, and only those."""
    answers = {piece: _answer(piece, table, row_id) for piece in b.pieces_of(condition)}
    said = []
    for piece in _deciding(condition, answers, drops):
        said.append(piece.text if drops else _failed(piece, answers[piece], table, row_id))
    return " · ".join(dict.fromkeys(said))


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
            return b.pieces_of(item)
        case b.AllOf(items) | b.AnyOf(items):
            return [
                piece
                for item in items
                if (_truth(item, answers) is True) is wanted
                for piece in _deciding(item, answers, wanted)
            ]


def _failed(piece: b.Piece, answer: bool | None, table: Table, row_id: int) -> str:
    columns = sorted(b.piece_columns(piece))
    if answer is None:
        empty = [
            table.columns[number].name
            for number in columns
            if shown_value(b.ColumnValue(number, table.columns[number].kind), table, row_id) is None
        ]
        return f"no value in {', '.join(empty)}" if empty else f"no answer to {piece.text}"
    if len(columns) == 1:
        column = table.columns[columns[0]]
        value = shown_value(b.ColumnValue(columns[0], column.kind), table, row_id)
        return f"{column.name} is {value}, not {piece.text.removeprefix(column.name).strip()}"
    return f"not {piece.text}"
