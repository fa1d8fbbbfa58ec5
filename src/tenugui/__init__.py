"""Tenugui: the bench-side planner for people who print miniatures and figurines."""

__version__ = "0.1.0"
