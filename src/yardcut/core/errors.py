"""The errors a user can meet.

::

    YardcutError                 exit code 1
    ├── ListError                exit code 2: the words, the list or a name in it are wrong
    │   ├── NotYetError          a form of the language this version does not have
    │   ├── NoFunctionError      a function that is not there
    │   ├── SecondSourceError    exit code 1: a second table cannot be read
    │   ├── NotReadYetError      a second table is not read yet, and nobody waits for it
    │   ├── KnownLaterError      values of a column are known when all of its file is read
    │   └── UnquotedTextError    a word that is no column where a text would make sense
    ├── SettingsError            exit code 2: an entry of the settings cannot be taken
    ├── SourceError              a source cannot be read
    ├── TargetError              a slice or list cannot be written
    │   ├── TargetExistsError    something stands where the file would go
    │   └── TargetProtectedError a source, the list at work, or what the same run has written
    ├── ClusterError             other processes that were given work are lost, or may not be given any
    ├── UnforeseenError          exit code 70: a fault of the program's own, or not enough memory
    └── StoppedError             exit code 130: the user stopped the work
"""

from __future__ import annotations

from typing import ClassVar, Self

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.traces import came_from


@dataclass(frozen=True, slots=True)
class Place:
    """Where an error stands: a file (or ``None`` for the prompt), a line and a column, both from 1."""

    line: int
    column: int
    path: str | None = None

    def __str__(self) -> str:
        where = f"line {self.line}, column {self.column}"
        return f"{self.path}, {where}" if self.path else where


_MOST_SAID = 100


@dataclass(frozen=True, slots=True)
class Mend:
    """What would put an error right: a sentence, and where it is certain enough the corrected text.

    ``text`` replaces the whole statement the error was found in; ``None`` when only a person can decide.
    """

    says: str
    text: str | None = None

    @property
    def whole(self) -> str:
        """What to say where the corrected text is not offered besides: the sentence, and a text that is not long."""
        if self.text is None or self.text in self.says or len(self.text) > _MOST_SAID:
            return self.says
        return f"{self.says}: {self.text}"


class YardcutError(Exception):
    """Base of all errors shown to a user: a sentence with its cause, a place and a mend where there is one."""

    exit_code: ClassVar[int] = 1

    def __init__(self, message: str, *, place: Place | None = None, mend: Mend | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.place = place
        self.mend = mend

    def __str__(self) -> str:
        text = f"{self.place}: {self.message}" if self.place else self.message
        return f"{text}; {self.mend.whole}" if self.mend else text


class ListError(YardcutError):
    """The words of a command, a list, or a name in it are wrong; nothing was run.

    ``start`` and ``end`` are offsets of the offending text within ``statement``, where that is known.
    """

    exit_code = 2
    statement = ""

    def __init__(
        self,
        message: str,
        *,
        start: int = 0,
        end: int = 0,
        place: Place | None = None,
        mend: Mend | None = None,
    ) -> None:
        super().__init__(message, place=place, mend=mend)
        self.start = start
        self.end = max(end, start)

    def in_statement(self, text: str) -> Self:
        """Return this error, knowing the statement it was found in."""
        self.statement = text
        return self

    def placed(self, place: Place) -> ListError:
        """Return the same error with its place in a file filled in."""
        return type(self)(self.message, start=self.start, end=self.end, place=place, mend=self.mend)

    def with_mend(self, mend: Mend) -> ListError:
        """Return the same error with another mend."""
        return type(self)(self.message, start=self.start, end=self.end, place=self.place, mend=mend)


class SecondSourceError(ListError):
    """A second table cannot be read."""

    exit_code: ClassVar[int] = 1


class NotReadYetError(ListError):
    """A second table is not read yet, and whoever binds the line does not wait for it; ``source`` says what to read."""

    source: object = None


class KnownLaterError(ListError):
    """A line looks at a column whose values are known when all of its file is read, which is under way."""


class NoFunctionError(ListError):
    """A function is called that is not there; ``function`` is its name as it was written."""

    function = ""


class UnquotedTextError(ListError):
    """A word that is no column stands beside a column of texts: likely a text without its quotes."""

    def __init__(self, word: str, column: str, *, start: int, end: int, mend: Mend | None = None) -> None:
        super().__init__(f"there is no column {word}", start=start, end=end, mend=mend)
        self.word = word
        self.column = column

    def with_mend(self, mend: Mend) -> UnquotedTextError:
        """Return the same error with another mend."""
        return UnquotedTextError(self.word, self.column, start=self.start, end=self.end, mend=mend)

    def placed(self, place: Place) -> UnquotedTextError:
        """Return the same error with its place in a file filled in."""
        found = UnquotedTextError(self.word, self.column, start=self.start, end=self.end, mend=self.mend)
        found.place = place
        return found


class NotYetError(ListError):
    """A form of the cut language that this version does not have."""


class SettingsError(YardcutError):
    """An entry of the settings cannot be taken; its default counts."""

    exit_code = 2


class SourceError(YardcutError):
    """A source is missing, unreadable, or not what it seems."""


class StoreDamagedError(SourceError):
    """What the cache keeps of a source is not what was written there; the source itself is well."""


class TargetError(YardcutError):
    """A slice or a list cannot be written where it was asked to go."""


class TargetExistsError(TargetError):
    """Something stands at the target, and nobody said it may be replaced."""


class TargetProtectedError(TargetError):
    """The target is a file that nothing is written over: a source, the list at work, what the same run has written."""


class ClusterError(YardcutError):
    """Other processes that were given work are lost, do not answer, or may not be given any."""


class UnforeseenError(YardcutError):
    """What was not foreseen, made a sentence: where it came from, without the message, which may quote a cell."""

    exit_code = 70
    """As sysexits.h has it: an internal software error."""

    def __init__(self, error: BaseException) -> None:
        if isinstance(error, MemoryError):
            super().__init__("there is not enough memory for this")
        else:
            super().__init__(f"a fault of Yard Cut: {came_from(error)}", mend=Mend("the log tells more"))


class StoppedError(YardcutError):
    """The user stopped the work, or newer work took its place."""

    exit_code = 130

    def __init__(self, message: str = "stopped") -> None:
        super().__init__(message)
