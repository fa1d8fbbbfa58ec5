"""Mend or print again: what a failed print costs by glueing, by printing the lost part apart, and by all again."""

from __future__ import annotations

from dataclasses import dataclass

from ..worth import Gift, Rates, priced

GLUE_MIN, FILL_MIN, HIDE_MIN, JOIN_MIN = 12.0, 10.0, 8.0, 20.0
"""Priors: minutes to glue a piece that is there, to fill and sand its seam, to hide what is lost under paint or basing,
to join a part that was printed apart.
"""
SEEN = {"glue": 0.05, "apart": 0.08, "hide": 0.35, "print": 0.0}
"""Priors: the chance that it does not come out as one would show it, and all is printed again after all."""
AT_HAND = ("thin", "handled")
"""What breaks at hand leaves its piece; what is lost while it is printed does not."""
MENDED = ("glue", "hide", "apart")
"""Ways after which a figure is there."""
SLIGHT = 0.04
"""Prior: a share of the figure so small can be hidden."""


@dataclass(frozen=True)
class Failed:
    """By which cause, and from which layer of how many."""

    cause: str
    layer: int
    layers: int

    @property
    def lost(self) -> float:
        """The share of the height that is missing."""
        return max(0.0, min(1.0, 1 - self.layer / max(1, self.layers)))


@dataclass(frozen=True)
class Way:
    """One way out: minutes of hands, hours of a machine, coins of all with its doubt, and in words."""

    way: str
    hands_min: float
    hours: float
    coins: float
    chance: float
    said: str


def mend_or_print(failed: Failed, *, takes: Gift, rates: Rates, times: float = 1.0) -> tuple[Way, Way]:
    """The best way to mend, and printing all again, which `takes` so much; `times`: what these hands take beside what
    is reckoned, counted in what a print takes already.
    """

    again_coins = priced(takes, rates).total

    def way(name: str, own: Gift, said: str) -> Way:
        coins = priced(own, rates).total + SEEN[name] * again_coins
        return Way(name, own.hands_min, own.machine_h, coins, (1 - own.lost) * (1 - SEEN[name]), said)

    def by_hand(minutes: float) -> Gift:
        return Gift(times * minutes, 0, 0, 0)

    share = failed.lost
    apart = Gift(
        times * (JOIN_MIN + FILL_MIN) + takes.hands_min * share,
        takes.machine_h * share,
        takes.material * share,
        takes.lost * share,
    )
    said = f"Print what is above layer {failed.layer:,} apart, join it with a pin, and fill the seam."
    ways = [way("apart", apart, said)]
    if failed.cause in AT_HAND:
        ways.append(way("glue", by_hand(GLUE_MIN + FILL_MIN), "Glue the piece, pin it where it is thick."))
    if share <= SLIGHT:
        ways.append(way("hide", by_hand(HIDE_MIN), "Sand the stump and hide it under paint or basing."))
    again = way("print", takes, "Print it again, with what failed held better.")
    return min(ways, key=lambda w: w.coins), again
