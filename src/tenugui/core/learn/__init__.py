"""What the log and the shelf say: planned beside real, and what is left."""

from .hours import Hours, hours_of
from .log import Logged, LogReading, read_log
from .stock import LOW_G, left_of

__all__ = ["LOW_G", "Hours", "LogReading", "Logged", "hours_of", "left_of", "read_log"]
