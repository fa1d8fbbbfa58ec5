"""What the log and the shelf say: planned beside real, and what is left."""

from .able import ABILITIES, BY_CODE, Ability, Evidence, Reading, abilities_of, chance_at, read_ability
from .best import FEW_RUNS, Known, known_of
from .causes import (
    Bin,
    Calibration,
    CauseLearnt,
    Margin,
    Ratio,
    Told,
    calibration_of,
    causes_of,
    ratio_of,
    share_interval,
    tale_of,
)
from .desk import BY_CUE, CUES, Cue, Near, suspects_of
from .hours import Hours, hours_of
from .log import WHOLE, Logged, LogReading, read_log
from .scatter import SCATTERS, Scatter, by_risk, scatter_of
from .stock import LOW_G, left_of

__all__ = [
    "ABILITIES",
    "BY_CODE",
    "BY_CUE",
    "CUES",
    "FEW_RUNS",
    "LOW_G",
    "SCATTERS",
    "WHOLE",
    "Ability",
    "Bin",
    "Calibration",
    "CauseLearnt",
    "Cue",
    "Evidence",
    "Hours",
    "Known",
    "LogReading",
    "Logged",
    "Margin",
    "Near",
    "Ratio",
    "Reading",
    "Scatter",
    "Told",
    "abilities_of",
    "by_risk",
    "calibration_of",
    "causes_of",
    "chance_at",
    "hours_of",
    "known_of",
    "left_of",
    "ratio_of",
    "read_ability",
    "read_log",
    "scatter_of",
    "share_interval",
    "suspects_of",
    "tale_of",
]
