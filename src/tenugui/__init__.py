"""Tenugui: the bench-side planner for people who print miniatures and figurines."""

import gc

__version__ = "0.1.0"
# What is imported stays: to look through it for garbage hundreds of times takes a tenth of every start.
gc.set_threshold(100_000, 20, 20)
