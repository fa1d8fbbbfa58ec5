"""What the log and the shelf say: planned beside real, and what is left."""

from .hours import Hours, hours_of
from .log import Logged, LogReading, read_log
from .scatter import SCATTERS, Scatter, by_risk, scatter_of
from .stock import LOW_G, left_of

__all__ = [
    "LOW_G",
    "SCATTERS",
    "Hours",
    "LogReading",
    "Logged",
    "Scatter",
    "by_risk",
    "hours_of",
    "left_of",
    "read_log",
    "scatter_of",
]
