"""Best known: shares by hand, and a chance of best that is as often right as it says."""

from __future__ import annotations

import numpy as np
import pytest

from tenugui.core.learn import known_of


def test_shares_and_doubt_by_hand() -> None:
    one, other = known_of([[("good", 100.0), ("scarred", 200.0), ("part lost", 50.0)], [("print lost", None)]])
    assert (one.runs, one.good, one.took_s) == (3, 2, pytest.approx(350 / 3))
    assert one.share == pytest.approx(2.5 / 4) and other.share == pytest.approx(0.25)
    assert one.low < 2 / 3 < one.high and other.low == 0.0
    assert one.best + other.best == pytest.approx(1.0) and one.best > other.best
    assert known_of([]) == [] and known_of([[("good", None)]])[0].best == 1.0


def test_what_is_called_best_is_so_as_often_as_it_says() -> None:
    rng, told, right = np.random.default_rng(2), [], []
    for _ in range(400):
        truth = rng.beta(0.5, 0.5, 3)
        ways = [[("good" if rng.random() < p else "print lost", None) for _ in range(6)] for p in truth]
        known = known_of(ways)
        first = int(np.argmax([k.best for k in known]))
        told.append(known[first].best)
        right.append(first == int(np.argmax(truth)))
    assert float(np.mean(told)) == pytest.approx(float(np.mean(right)), abs=0.06)
