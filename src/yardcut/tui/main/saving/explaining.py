"""The cut worked on explained in plain sentences, and written where that is wanted."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken
from yardcut.tui.main.saving.saving_tables import save_table

if TYPE_CHECKING:
    from yardcut.core.outgoing import Outgoing
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage


class Explaining:
    """Asks where the explanation goes; the ending says in which form."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "explain": self._ask,
        }

    def _ask(self) -> None:
        from yardcut.core.run.telling.explained_forms import ENDINGS

        assert self._stage.desk is not None
        now = self._stage.desk.now
        name = "".join(char if char.isalnum() else "-" for char in now.cut.name or "cut").strip("-") or "cut"
        save_table(
            self._stage, self._prompting, "explanation to ▸", f"{name}.html", "the cut explained",
            lambda out: _write(now, out), {ending: form for ending, form in ENDINGS.items() if ending != ".htm"},
        )  # fmt: skip


def _write(now: Moment, out: Outgoing) -> None:
    """Explain all lines of the cut as it is at a moment, and write that. Raises ``TargetError`` or ``ListError``."""
    from yardcut.core.run.telling.explained_forms import ENDINGS
    from yardcut.core.run.telling.explanation import explain
    from yardcut.core.run.telling.written import FORMS

    token = CancelToken()
    results = list(now.executor.run_bound(now.lines, token))
    told = explain(now.cut, results, now.cut_list.dials, now.executor, now.spec.label, token)
    out.write(FORMS[ENDINGS[out.path.suffix]](told).encode("utf-8", "surrogateescape"))
