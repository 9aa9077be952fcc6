"""Undo and redo against a plain list of states; edits of a series are one, and touch nothing beside them."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.cutlist.history import History

STEPS = st.lists(
    st.one_of(st.tuples(st.integers(0, 3), st.sampled_from([None, "a", "b"])), st.sampled_from(["undo", "redo"]))
)


@given(STEPS)
def test_any_steps_are_those_of_plain_lists(steps: list[tuple[int, str | None] | str]) -> None:
    """Done and undone states as two lists; a series is remembered until anything else happens."""
    history = History(0)
    done, undone, series = [0], [], None
    for step in steps:
        if step == "undo":
            assert history.undo() is (len(done) > 1)
            undone += [done.pop()] if len(done) > 1 else []
            series = None
        elif step == "redo":
            assert history.redo() is bool(undone)
            done += [undone.pop()] if undone else []
            series = None
        else:
            assert not isinstance(step, str)
            state, of = step
            history.push(state, of)
            if of is not None and of == series:
                done.pop()
                series = None
            if state != done[-1]:
                done.append(state)
                undone.clear()
                series = of
        assert history.now == done[-1]
    while len(done) > 1:
        assert history.undo()
        done.pop()
        assert history.now == done[-1]
    assert not history.undo()
