"""Stations beside the printers: they wash, dry and cure by a programme of steps."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np

from ..core.errors import CoreError
from .clocked import Clocked

Kind = Literal["wash", "dry", "cure"]
RUNNING = ("running", "paused")
LASTS = 30
"""Prior: so many loads make a bath too dirty to wash in."""
MOST_STEPS, MOST_MIN = 20, 48 * 60.0


@dataclass(frozen=True)
class Step:
    """What is done, and for how many minutes."""

    what: str
    minutes: float


def steps_of(asked: Any) -> list[Step]:
    """A programme from [[what, minutes], ...].

    Raises:
        ValueError: it is none.
    """
    steps = [Step(str(what)[:80], float(minutes)) for what, minutes in asked]
    if not 1 <= len(steps) <= MOST_STEPS or not all(
        math.isfinite(s.minutes) and 0 < s.minutes <= MOST_MIN for s in steps
    ):
        raise ValueError(f"a programme has 1 to {MOST_STEPS} steps of more than 0 and at most {MOST_MIN:,.0f} minutes")
    return steps


class Station(Clocked):
    """A station that runs one load at a time."""

    at_work = "running"

    def __init__(self, kind: Kind, speed: float, *, clock: Callable[[], float] = time.monotonic) -> None:
        super().__init__(speed, clock)
        self.kind = kind
        self._steps: list[Step] = []
        self._load, self._loads = "", 0

    def start(self, load: str, steps: list[Step]) -> None:
        """Put a load in and begin.

        Raises:
            CoreError: `busy`, `spent`.
        """
        with self._lock:
            self._settle()
            if self._state in RUNNING:
                raise CoreError("busy", f"'{self._load}' is in it.", remedy="Wait for it, or take that out first.")
            if self.kind == "wash" and self._loads >= LASTS:
                raise CoreError(
                    "spent",
                    f"The bath has washed {self._loads} loads and leaves parts sticky.",
                    remedy="Fill it afresh.",
                )
            self._load, self._steps, self._state, self._done_s = load, steps, "running", 0.0
            self._loads += self.kind == "wash"
            self._since = self._clock()

    def cancel(self) -> None:
        """Take the load out before it is done.

        Raises:
            CoreError: `not-running`.
        """
        with self._lock:
            self._settle()
            if self._state not in RUNNING:
                raise CoreError("not-running", f"There is nothing in it: it is {self._state}.")
            self._state = "taken out"

    def fresh(self) -> None:
        """Fill a bath afresh; the old fluid is waste by local rules.

        Raises:
            CoreError: `busy`.
        """
        with self._lock:
            self._settle()
            if self._state in RUNNING:
                raise CoreError("busy", f"'{self._load}' is in it.", remedy="Wait for it.")
            self._loads = 0

    def state(self) -> dict[str, Any]:
        """Where it is."""
        with self._lock:
            self._settle()
            ends = self._ends()
            step = min(int(np.searchsorted(ends, self._done_s, side="right")), max(len(ends) - 1, 0))
            return {
                "station": self.kind,
                "state": self._state,
                "load": self._load,
                "step": self._steps[step].what if self._steps else "",
                "done_s": self._done_s,
                "of_s": float(ends[-1]) if self._steps else 0.0,
                "loads": self._loads,
                "lasts": LASTS if self.kind == "wash" else None,
                "speed": self.speed,
            }

    def _ends(self) -> Any:
        return np.cumsum([60 * step.minutes for step in self._steps])

    def _settle(self) -> None:
        """Bring what has passed since the last question into the state."""
        if self._state != "running":
            return
        self._done_s += self._passed()
        if self._done_s >= self._ends()[-1]:
            self._done_s, self._state = float(self._ends()[-1]), "done"
