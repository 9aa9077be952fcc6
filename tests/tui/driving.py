"""The app in this process: keys pressed at it, the screen read back as text. Quick, where no terminal is needed."""

from __future__ import annotations

import asyncio
import contextlib
import time
from collections.abc import AsyncIterator, Awaitable, Callable
from pathlib import Path

from textual import events
from textual._compositor import Compositor
from textual._context import visible_screen_stack
from textual.css.model import RuleSet
from textual.css.stylesheet import Stylesheet
from textual.keys import _character_to_key
from textual.pilot import Pilot, WaitForScreenTimeout
from textual.screen import Screen

from yardcut.core.session import Runners
from yardcut.core.sources.spec import SourceSpec
from yardcut.tui.app import YardCutApp
from yardcut.tui.in_force import InForce
from yardcut.tui.opened_with import Opening

WAIT_SECONDS = 20.0
_LOOK_SECONDS = 0.03  # looking costs as much as drawing
_STILL_SECONDS, _STILL_LOOKS = 0.25, 6
_MOST_LOOKS = round(WAIT_SECONDS / _LOOK_SECONDS)
"""Counted and not timed: where others take the processor, the app does not go on either."""
_CHARACTERS = {"space": " ", "slash": "/", "comma": ",", "semicolon": ";", "full_stop": ".", "colon": ":", "plus": "+",
               "minus": "-", "question_mark": "?", "ampersand": "&", "tab": "\t", "enter": "\r"}  # fmt: skip
_NAMES = {"Up": "up", "Down": "down", "Enter": "enter", "Escape": "escape", "Tab": "tab", "BSpace": "backspace"}


_LOOKS_WHILE_IT_MOVES = 4
"""What is another at each look is drawn at every fourth."""

_updates = [0]
_rules: dict[object, list[RuleSet]] = {}
_parse_rules = Stylesheet._parse_rules


def _parse_styles_once() -> None:
    """Have the styles of a widget parsed for the first app that has it: they are the same in all that follow."""

    def parsed(self: Stylesheet, *given: object, **named: object) -> list[RuleSet]:
        key = (given, tuple(sorted(named.items())), tuple(sorted(self._variables.items())))
        if key not in _rules:
            _rules[key] = _parse_rules(self, *given, **named)  # type: ignore[arg-type]
        return _rules[key]

    Stylesheet._parse_rules = parsed  # type: ignore[method-assign, assignment]


def _draw_when_looked_at() -> None:
    """Have updates of the screen counted and not drawn: without a terminal Textual throws away what it has drawn."""

    def counted(
        self: Compositor, *given: object, screen_stack: list[Screen[object]] | None = None, **named: object
    ) -> None:
        visible_screen_stack.set(screen_stack or [])
        self._dirty_regions.clear()
        _updates[0] += 1

    Compositor.render_update = counted  # type: ignore[method-assign, assignment]


class Driven:
    """A running app."""

    def __init__(self, pilot: Pilot[None]) -> None:
        self.app = pilot.app
        self._pilot = pilot
        self._may_fail = False
        self._seen: object = None
        self._text = ""

    def allow_faults(self) -> None:
        """Let errors nobody foresaw, which the app caught, be part of the test."""
        self._may_fail = True

    def end(self) -> None:
        """Fail if the app caught an error nobody foresaw."""
        caught = self.app.net.caught  # type: ignore[attr-defined]
        if caught and not self._may_fail:
            raise caught[0]

    def screen(self) -> str:
        """Return what is on the screen as plain text; drawn when it is looked at, if anything there is another."""
        seen = self.app.screen, _updates[0]
        if seen != self._seen:
            visible_screen_stack.set(self.app._background_screens)
            strips = self.app.screen._compositor.render_strips()
            self._seen, self._text = seen, "\n".join(strip.text.rstrip() for strip in strips)
        return self._text

    async def until(self, *texts: str, gone: bool = False) -> str:
        """Wait until all texts are on the screen, or none is; return the screen."""
        screen = ""
        async for screen in self._looks(_LOOK_SECONDS):
            if all((text in screen) is not gone for text in texts):
                return screen
        self.end()
        seen = screen.encode(
            "utf-8", "backslashreplace"
        ).decode()  # halves of characters cannot be told to other processes
        raise AssertionError(f"{'still' if gone else 'never'} on the screen: {texts!a}\n{seen}")

    async def _looks(self, seconds: float) -> AsyncIterator[str]:
        """Look at the screen now and then, less often while it moves."""
        updates = -1
        for look in range(1, _MOST_LOOKS):
            await self._breathe(seconds)
            moved, updates = updates != _updates[0], _updates[0]
            if not moved or look % _LOOKS_WHILE_IT_MOVES == 0:
                yield self.screen()

    async def press(self, *keys: str) -> None:
        """Press keys, by their names."""
        for key in keys:
            self._send(key)
            with contextlib.suppress(WaitForScreenTimeout):
                await self._pilot._wait_for_screen()
        await self._breathe()

    async def type(self, text: str) -> None:
        """Type a text, as quickly as it can be taken."""
        await self.press_quickly(*text)

    async def press_quickly(self, *keys: str) -> None:
        """Press keys, by their names or characters, without waiting for what one does before the next."""
        for key in keys:
            self._send(key)
        await self._breathe()

    def _send(self, key: str) -> None:
        driver = self.app._driver
        assert driver is not None
        name = _NAMES.get(key, key)
        is_character = len(name) == 1
        event = events.Key(
            _character_to_key(name) if is_character else name, name if is_character else _CHARACTERS.get(name)
        )
        event.set_sender(self.app)
        driver.send_message(event)

    async def line(self, text: str, *seen: str) -> None:
        """Write a line at the prompt, wait for what it would do, and enter it."""
        await self.press("w")
        await self.until("cut ▸")
        await self.type(text)
        await self.until(*(seen or ("(as line",)))
        await self.press("enter")
        await self.until("cut ▸", gone=True)

    async def click(self, x: int, y: int) -> None:
        """Click somewhere on the screen."""
        await self._pilot.click(offset=(x, y))

    async def resize(self, columns: int, rows: int) -> None:
        """Give the terminal another size, in cells."""
        await self._pilot.resize_terminal(columns, rows)

    async def pause(self, seconds: float) -> None:
        """Let the app go on for a moment."""
        await self._breathe(seconds)

    async def _breathe(self, seconds: float | None = None) -> None:
        """Let the app go on. A card that is just closing may drop what the pilot waits for; what is seen then decides.

        The pilot's own pause waits until the processor rests, which on a busy machine it does not.
        """
        with contextlib.suppress(WaitForScreenTimeout):
            await self._pilot._wait_for_screen()
            await asyncio.sleep(seconds or 0)
            self.app.screen._on_timer_update()

    async def settled(self) -> str:
        """Wait until the screen has stood still for a while; return it."""
        last, since, looks = "", time.monotonic(), 0
        async for now in self._looks(0.02):
            if now != last:
                last, since, looks = now, time.monotonic(), 0
            elif (looks := looks + 1) >= _STILL_LOOKS and time.monotonic() - since >= _STILL_SECONDS:
                break
        return last


def drive(
    source: Path | SourceSpec,
    steps: Callable[[Driven], Awaitable[None]],
    size: tuple[int, int] = (160, 47),
    in_force: InForce | None = None,
    runners: Callable[[YardCutApp], Runners] | None = None,
) -> None:
    """Open a source in the app, perhaps under settings or with rows gone over by others, and go through some steps."""
    spec = source if isinstance(source, SourceSpec) else SourceSpec.of(source)

    async def go() -> None:
        _draw_when_looked_at()
        _parse_styles_once()
        opening = Opening(spec)
        app = YardCutApp(opening, in_force)
        opening.runners = None if runners is None else runners(app)
        async with app.run_test(size=size) as pilot:
            driven = Driven(pilot)
            await steps(driven)
            driven.end()

    asyncio.run(go())
