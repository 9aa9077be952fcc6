"""Which work belongs to which line."""

from __future__ import annotations

from yardcut.core.language.meaning import bound as b
from yardcut.core.language.verbs.bring import BoundBring
from yardcut.core.language.verbs.columns import BoundColumns
from yardcut.core.language.verbs.draw_parts import BoundDraw
from yardcut.core.language.verbs.filter import BoundFilter
from yardcut.core.language.verbs.from_cut import BoundFrom
from yardcut.core.language.verbs.make import BoundMake
from yardcut.core.language.verbs.order import BoundOrder
from yardcut.core.language.verbs.save import BoundSave
from yardcut.core.language.verbs.tally import BoundTally
from yardcut.core.run.executing.works.bring import BRING
from yardcut.core.run.executing.works.draw import DRAW
from yardcut.core.run.executing.works.filter import FILTER
from yardcut.core.run.executing.works.order import ORDER
from yardcut.core.run.executing.works.tally import TALLY
from yardcut.core.run.executing.works.unchanged import UNCHANGED
from yardcut.core.run.executing.works.work import Work

WORKS: dict[type[b.BoundBody], Work] = {
    BoundFilter: FILTER,
    BoundOrder: ORDER,
    BoundDraw: DRAW,
    BoundTally: TALLY,
    BoundBring: BRING,
    BoundColumns: UNCHANGED,
    BoundMake: UNCHANGED,
    BoundSave: UNCHANGED,
    b.NothingDone: UNCHANGED,
    BoundFrom: Work(reason=lambda body, window: f"not in the cut {body.name}"),
}
