"""What the log and the shelf say: planned beside real, and what is left."""

from .causes import Bin, Calibration, CauseLearnt, Ratio, Told, calibration_of, causes_of, ratio_of
from .hours import Hours, hours_of
from .log import Logged, LogReading, read_log
from .scatter import SCATTERS, Scatter, by_risk, scatter_of
from .stock import LOW_G, left_of

__all__ = [
    "LOW_G",
    "SCATTERS",
    "Bin",
    "Calibration",
    "CauseLearnt",
    "Hours",
    "LogReading",
    "Logged",
    "Ratio",
    "Scatter",
    "Told",
    "by_risk",
    "calibration_of",
    "causes_of",
    "hours_of",
    "left_of",
    "ratio_of",
    "read_log",
    "scatter_of",
]
