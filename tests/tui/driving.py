"""The app in this process: keys pressed at it, the screen read back as text. Quick, where no terminal is needed."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Awaitable, Callable
from pathlib import Path

from textual import events
from textual.keys import _character_to_key
from textual.pilot import Pilot

from yardcut.core.sources.spec import SourceSpec
from yardcut.tui.app import YardCutApp
from yardcut.tui.opening import Opening

WAIT_SECONDS = 20.0
_LOOK_SECONDS = 0.03  # looking costs as much as drawing
_NAMES = {"Up": "up", "Down": "down", "Enter": "enter", "Escape": "escape", "Tab": "tab", "BSpace": "backspace"}


class Driven:
    """A running app."""

    def __init__(self, pilot: Pilot[None]) -> None:
        self.app = pilot.app
        self._pilot = pilot
        self._may_fail = False

    def allow_faults(self) -> None:
        """Let errors nobody foresaw, which the app caught, be part of the test."""
        self._may_fail = True

    def end(self) -> None:
        """Fail if the app caught an error nobody foresaw."""
        caught = self.app.net.caught  # type: ignore[attr-defined]
        if caught and not self._may_fail:
            raise caught[0]

    def screen(self) -> str:
        """Return what is on the screen as plain text."""
        return "\n".join(strip.text.rstrip() for strip in self.app.screen._compositor.render_strips())

    async def until(self, *texts: str, gone: bool = False) -> str:
        """Wait until all texts are on the screen, or none is; return the screen."""
        end = time.monotonic() + WAIT_SECONDS
        while True:
            await self._pilot.pause(_LOOK_SECONDS)
            screen = self.screen()
            if all((text in screen) is not gone for text in texts):
                return screen
            if time.monotonic() > end:
                self.end()
                raise AssertionError(f"{'still' if gone else 'never'} on the screen: {texts}\n{screen}")

    async def press(self, *keys: str) -> None:
        """Press keys, by their names."""
        await self._pilot.press(*(_NAMES.get(key, key) for key in keys))

    async def type(self, text: str) -> None:
        """Type a text, as quickly as it can be taken."""
        await self.press_quickly(*text)

    async def press_quickly(self, *keys: str) -> None:
        """Press keys, by their names or characters, without waiting for what one does before the next."""
        driver = self.app._driver
        assert driver is not None
        for key in keys:
            is_character = len(key) == 1
            event = events.Key(_character_to_key(key) if is_character else key, key if is_character else None)
            event.set_sender(self.app)
            driver.send_message(event)
        await self._pilot.pause()

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
        await self._pilot.pause(seconds)

    async def settled(self) -> str:
        """Wait until the screen has stood still for a while; return it."""
        last, since = self.screen(), time.monotonic()
        end = since + WAIT_SECONDS
        while time.monotonic() - since < 0.25 and time.monotonic() < end:
            await self._pilot.pause(0.02)
            now = self.screen()
            if now != last:
                last, since = now, time.monotonic()
        return last


def drive(
    source: Path | SourceSpec, steps: Callable[[Driven], Awaitable[None]], size: tuple[int, int] = (160, 47)
) -> None:
    """Open a source in the app and go through some steps."""
    spec = source if isinstance(source, SourceSpec) else SourceSpec.of(source)

    async def go() -> None:
        app = YardCutApp(Opening(spec))
        async with app.run_test(size=size) as pilot:
            driven = Driven(pilot)
            await steps(driven)
            driven.end()

    asyncio.run(go())
