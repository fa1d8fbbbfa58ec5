"""A printer and the job that it runs."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from ..core.errors import CoreError
from .clocked import Clocked
from .job import Job
from .nature import Fate, Nature, Threat

RUNNING = ("printing", "paused", "out of material")


class Machine(Clocked):
    """A machine that runs one job at a time."""

    at_work = "printing"

    def __init__(
        self, printer: str, speed: float, nature: Nature | None = None, *, clock: Callable[[], float] = time.monotonic
    ) -> None:
        super().__init__(speed, clock)
        self.printer = printer
        self._nature = nature
        self._file: Job | None = None
        self._job: Job | None = None
        self._fate: Fate | None = None
        self._loaded = float("inf")
        self._used = 0.0

    def take(self, job: Job) -> None:
        """Take a file; not while another is printed.

        Raises:
            CoreError: `busy`.
        """
        with self._lock:
            self._settle()
            if self._state in RUNNING:
                raise CoreError(
                    "busy", f"It prints '{self._job.name if self._job else ''}'.", remedy="Cancel that first."
                )
            self._file = self._job = job
            self._fate, self._state, self._done_s = None, "idle", 0.0

    def load(self, amount: float) -> None:
        """Put so much material in; a print that waits for it goes on."""
        with self._lock:
            self._settle()
            self._loaded = amount
            if self._state == "out of material" and amount > 0:
                self._state, self._since = "printing", self._clock()

    def start(self, fate: Fate | None) -> None:
        """Begin the job that it holds.

        Raises:
            CoreError: `cannot-start`.
        """
        with self._lock:
            self._settle()
            if self._job is None or self._state in RUNNING:
                raise CoreError(
                    "cannot-start", f"There is nothing to start: it is {self._state}.", remedy="Give it a file first."
                )
            self._fate, self._state, self._done_s, self._used = fate, "printing", 0.0, 0.0
            self._since = self._clock()

    def begin(self, threats: Sequence[Threat], before: int) -> None:
        """Begin the job that it holds, of which its plan says that this may go wrong, after so many prints; what
        becomes of it, and how long it takes, is the machine's own.

        Raises:
            CoreError: `cannot-start`.
        """
        nature = self._nature
        with self._lock:
            if nature is not None and self._file is not None and self._state not in RUNNING:
                self._job = self._file.slower(nature.takes(before))
        self.start(None if nature is None else nature.fate(threats, before))

    def cancel(self) -> None:
        """Give the print up.

        Raises:
            CoreError: `not-printing`.
        """
        with self._lock:
            self._settle()
            if self._state not in RUNNING:
                raise CoreError("not-printing", f"There is nothing to cancel: it is {self._state}.")
            self._state = "cancelled"

    def power(self, on: bool) -> None:
        """Cut the power, or bring it back: what was printed then is lost."""
        with self._lock:
            self._settle()
            if not on and self._state in RUNNING:
                self._state = "lost its power"
            elif on and self._state == "lost its power":
                self._state = "failed"

    def state(self) -> dict[str, Any]:
        """Where it is."""
        with self._lock:
            self._settle()
            job = self._job
            layer = 0 if job is None else self._layer()
            return {
                "printer": self.printer,
                "state": self._state,
                "file": None if job is None else job.name,
                "layer": layer,
                "layers": 0 if job is None else len(job.layers_s),
                "done_s": self._done_s,
                "of_s": 0.0 if job is None else job.time_s,
                "used": self._spent(),
                "unit": "" if job is None else job.unit,
                "speed": self.speed,
            }

    def look(self) -> dict[str, Any]:
        """What who looks at the plate sees: nothing but the print's fate, as far as it has come."""
        with self._lock:
            self._settle()
            fate, layer = self._fate, self._layer()
            stopped = self._state in ("cancelled", "failed", "lost its power")
            seen = fate is not None and layer >= fate.layer
            loss = "print lost" if stopped and self._state != "done" else fate.loss if fate and seen else "good"
            why = self._state if stopped else fate.why if fate and seen else ""
            return {"loss": loss, "layer": fate.layer if fate and seen else layer if stopped else None, "why": why}

    def _ends(self) -> Any:
        assert self._job is not None
        return self._job.start_s + np.cumsum(self._job.layers_s)

    def _layer(self) -> int:
        """Layers that are done, and the one under way."""
        if self._job is None or self._done_s <= self._job.start_s:
            return 0
        return min(int(np.searchsorted(self._ends(), self._done_s, side="right")) + 1, len(self._job.layers_s))

    def _spent(self) -> float:
        return 0.0 if self._job is None else float(self._job.material[: self._layer()].sum())

    def _settle(self) -> None:
        """Bring what has passed since the last question into the state."""
        if self._state != "printing" or self._job is None:
            return
        until = self._done_s + self._passed()
        # Material runs out at the first layer that wants more than is left.
        short = np.flatnonzero(np.cumsum(self._job.material) - self._used > self._loaded)
        dry = np.inf if not len(short) else float(self._ends()[short[0]] - self._job.layers_s[short[0]])
        if until >= dry:
            self._done_s, self._state = dry, "out of material"
            self._used, self._loaded = float(np.cumsum(self._job.material)[short[0] - 1]) if short[0] else 0.0, 0.0
            return
        self._done_s = min(until, self._job.time_s)
        if until >= self._job.time_s:
            self._state = "done"
