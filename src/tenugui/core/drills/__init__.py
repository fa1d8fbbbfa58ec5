"""Drills for the eye: questions that the engine makes of a figure, or of nothing but a law, and grades itself.

Terms. *Drill*: a question with lettered options or a number for an answer. *Key*: what is right, and why; it is never
shown with the question. *Skill*: what a drill trains. *Rating*: how good somebody is at a skill, and how hard a drill
is, on one scale (Rasch 1960), each with its spread.
"""

from .due import Tried, next_round, rests_until
from .every import figure_drills
from .grade import Answer, graded
from .of_figure import Scene
from .of_log import Failure, lost_drill
from .plain import plain_drills
from .question import KINDS, Drill, DrillError, Key, Question
from .rating import NOBODY, Answered, Rated, Rating, chance, rated

__all__ = [
    "KINDS",
    "NOBODY",
    "Answer",
    "Answered",
    "Drill",
    "DrillError",
    "Failure",
    "Key",
    "Question",
    "Rated",
    "Rating",
    "Scene",
    "Tried",
    "chance",
    "figure_drills",
    "graded",
    "lost_drill",
    "next_round",
    "plain_drills",
    "rated",
    "rests_until",
]
