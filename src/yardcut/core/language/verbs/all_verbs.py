"""All verbs, in the order in which they are offered."""

from __future__ import annotations

from yardcut.core.language.verbs.bring import BRING
from yardcut.core.language.verbs.columns import COLUMNS
from yardcut.core.language.verbs.draw import DRAW
from yardcut.core.language.verbs.filter import DROP, KEEP
from yardcut.core.language.verbs.from_cut import FROM
from yardcut.core.language.verbs.make import MAKE
from yardcut.core.language.verbs.order import ORDER
from yardcut.core.language.verbs.save import SAVE
from yardcut.core.language.verbs.tally import TALLY
from yardcut.core.language.verbs.verb import Verb

VERBS: dict[str, Verb] = {
    verb.word: verb
    for verb in (
        KEEP,
        DROP,
        MAKE,
        BRING,
        ORDER,
        DRAW,
        COLUMNS,
        TALLY,
        SAVE,
        FROM,
    )
}
LATER_VERBS = ("look",)
"""Words of the language that this version does not have yet."""
