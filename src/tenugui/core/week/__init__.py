"""The week: which run stands on which machine when, who attends to it, and with which chance every date is kept.

Terms. *Run*: a print on a machine, from its start to its end; the machine stays taken until somebody has lifted it off.
*Attendance*: what needs a person: the start with its set-up, the first look, lifting off, steps by hand. *Step*: what
comes after lifting off, at a station or none, by hand or alone. *Quiet hours*: nobody starts or handles anything then;
what runs goes on. *Weave*: runs and attendances set one job after the other, each as early as all rules let it.
"""

from .ask import JobAsk, MachineAsk, PersonAsk, Span, StationAsk, StepAsk, WeekAsk, WeekError, read_week
from .better import Better, better
from .clock import Clocks, evened
from .fit import GROWS, Fit, fit
from .pattern import Clock, WeeklyHours, spans_of
from .plan import Attended, Planned, Week, planned
from .rules import LIFT_MIN, LOOK_MIN, LOOK_SLACK_MIN, START_MIN, Rules, rules_of
from .simulate import chances
from .spans import without

__all__ = [
    "GROWS",
    "LIFT_MIN",
    "LOOK_MIN",
    "LOOK_SLACK_MIN",
    "START_MIN",
    "Attended",
    "Better",
    "Clock",
    "Clocks",
    "Fit",
    "JobAsk",
    "MachineAsk",
    "PersonAsk",
    "Planned",
    "Rules",
    "Span",
    "StationAsk",
    "StepAsk",
    "Week",
    "WeekAsk",
    "WeekError",
    "WeeklyHours",
    "better",
    "chances",
    "evened",
    "fit",
    "planned",
    "read_week",
    "rules_of",
    "spans_of",
    "without",
]
