"""What machines and stations have in common: a state as a function of time. Nothing ticks, so a test can set the clock,
and a process that was asleep tells the same.
"""

from __future__ import annotations

import threading
import time
from collections.abc import Callable

from ..core.errors import CoreError


class Clocked:
    """Something that is at work or paused, `speed` times as fast as a real one. Safe to ask from several threads."""

    at_work: str
    """What its state is called while it works."""

    def __init__(self, speed: float, clock: Callable[[], float] = time.monotonic) -> None:
        self.speed, self._clock = speed, clock
        self._lock = threading.RLock()
        self._state, self._done_s, self._since = "idle", 0.0, 0.0

    def pause(self) -> None:
        """Stop where it is, until it is told to go on."""
        self._turn(self.at_work, "paused")

    def resume(self) -> None:
        """Go on."""
        self._turn("paused", self.at_work)

    def _turn(self, before: str, after: str) -> None:
        with self._lock:
            self._settle()
            if self._state != before:
                raise CoreError("cannot-turn", f"It is {self._state}, not {before}.")
            self._state, self._since = after, self._clock()

    def _passed(self) -> float:
        """Seconds of work since it was last asked."""
        now = self._clock()
        passed = (now - self._since) * self.speed
        self._since = now
        return passed

    def _settle(self) -> None:
        """Bring what has passed since the last question into the state."""
        raise NotImplementedError
