"""A question in the prompt's place: a path, a row, a column."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, NamedTuple

from yardcut.core.errors import YardcutError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.panels.prompt import PromptState

if TYPE_CHECKING:
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.stage import Stage


class Meaning(NamedTuple):
    """What a text would do: said in words; ``good`` when Enter does it, ``replaces`` when it does so over what stands
    there, once that is allowed. Both are true where nobody has looked yet whether anything does.
    """

    said: str
    good: bool = False
    replaces: bool = False


def over(said: object) -> Meaning:
    """Return the meaning of a text that names what is there already."""
    return Meaning(f"{said}\n{key_of('ask-replace')}, then {key_of('ask-enter')} writes over it", replaces=True)


def on_server(said: str) -> Meaning:
    """Return the meaning of a text that names a table of a server, where nobody looks before it is written."""
    return Meaning(f"{said}; {key_of('ask-replace')} lets it take its place", good=True, replaces=True)


@dataclass(frozen=True, slots=True)
class Question:
    """A line of text wanted.

    ``means`` says what a text would do, and may raise ``YardcutError`` or ``OSError`` for one that can do nothing;
    ``done`` takes it, ``replaced`` when what stands there may be written over. ``options`` offers completions of a
    text. ``again`` takes a text and gives the next one that means something like it; ``more`` opens what there is to
    choose about a text, on F6; ``other`` turns to the other of two things the text may be about, on F7.
    """

    lead: str
    text: str
    means: Callable[[str], Meaning]
    done: Callable[[str], None]
    replaced: Callable[[str], None] | None = None
    options: Callable[[str], list[str]] = lambda text: []
    again: Callable[[int], None] | None = None
    more: Callable[[str], None] | None = None
    other: Callable[[], None] | None = None


class Asking:
    """The mode of a question."""

    focus = Focus.QUESTION
    is_tried = True
    shows_rows = False

    def __init__(self, stage: Stage, question: Question, leave: Callable[[], None]) -> None:
        self._stage = stage
        self._question = question
        self._leave = leave
        self._meant = Meaning("")
        self._may_replace: str | None = None
        """The text that Enter may write over."""

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "ask-enter": self._enter,
            "ask-complete": self._complete,
            "ask-next": lambda: self._again(1),
            "ask-previous": lambda: self._again(-1),
            "ask-stop": self._leave,
            **({"ask-replace": self._replace} if self._question.replaced is not None else {}),
            **({"ask-more": self._more} if self._question.more is not None else {}),
            **({"ask-other": self._other} if self._question.other is not None else {}),
        }

    def text_changed(self, text: str) -> None:
        """Say what the text would do."""
        self._stage.prompt.set_options("", 0, [])
        self._say(self._means(text.strip()))

    def _say(self, meant: Meaning) -> None:
        self._meant = meant
        style = "$would" if meant.good else "$warning"
        self._stage.prompt.show(PromptState(self._question.lead, meant.said, style))

    def moment_changed(self, before: Moment, now: Moment) -> None:
        """Say anew what the text would do, where that is another thing now, such as a row's number."""
        meant = self._means(self._stage.prompt.text.strip())
        if meant != self._meant:
            self._say(meant)

    def _means(self, text: str) -> Meaning:
        """Say what a text would do; what the system will not even look at is said too."""
        try:
            return self._question.means(text)
        except YardcutError as error:
            return Meaning(str(error))
        except OSError as error:
            return Meaning(f"this cannot be looked at: {error.strerror or error}")

    def close(self) -> None:
        """Nothing is under way."""

    def _enter(self) -> None:
        text = self._stage.prompt.text.strip()
        meant = self._means(text)
        if meant.replaces and self._may_replace == text and self._question.replaced is not None:
            self._leave()
            self._question.replaced(text)
        elif meant.good:
            self._leave()
            self._question.done(text)

    def _replace(self) -> None:
        """Allow what stands there to be written over: Enter does it, and not this key."""
        text = self._stage.prompt.text.strip()
        if self._question.replaced is not None and self._means(text).replaces:
            self._may_replace = text
            said = f"{key_of('ask-enter')} writes over {text}; {key_of('ask-stop')} leaves it as it is"
            self._stage.prompt.show(PromptState(self._question.lead, said, "$warning"))

    def _other(self) -> None:
        if self._question.other is not None:
            self._question.other()
            self.text_changed(self._stage.prompt.text)

    def _more(self) -> None:
        if self._question.more is not None:
            self._question.more(self._stage.prompt.text.strip())

    def _complete(self) -> None:
        prompt = self._stage.prompt
        before = prompt.text_before_cursor()
        if not prompt.has_options_for(before):
            prompt.set_options(before, 0, [(option, "") for option in self._question.options(before)])
        prompt.complete(of_nothing=True)

    def _again(self, by: int) -> None:
        if self._question.again is not None:
            self._question.again(by)
            self.text_changed(self._stage.prompt.text)
        else:
            self._stage.prompt.pick(by)
