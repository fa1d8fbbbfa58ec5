"""Worth: every alternative of every fold priced in what a person gives for it, at that person's own rates.

Terms. *Hands*: minutes of a person. *Machine*: hours of a printer. *Material*: what is used and thrown away, in the
material's currency (a *coin*). *Risk*: chance that the print, or a part, is lost. *Worth*: all four in coins, at the
*rates*; less is better.
"""

from .price import HANDS_UNSURE, RISK_UNSURE, SAME_RISK, Gift, Worth, alike, compared, harm_of, least, priced, totals
from .rates import PRESETS, USUAL_RATES, Rates, RatesError, rates_of
from .why import Bound, Turn, bounds, gift_of_worth, least_coins, turns

__all__ = [
    "HANDS_UNSURE",
    "PRESETS",
    "RISK_UNSURE",
    "SAME_RISK",
    "USUAL_RATES",
    "Bound",
    "Gift",
    "Rates",
    "RatesError",
    "Turn",
    "Worth",
    "alike",
    "bounds",
    "compared",
    "gift_of_worth",
    "harm_of",
    "least",
    "least_coins",
    "priced",
    "rates_of",
    "totals",
    "turns",
]
