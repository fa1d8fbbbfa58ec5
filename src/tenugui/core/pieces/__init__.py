"""Test pieces, made by the boolean library: what a machine can do, asked in one small print."""

from .make import PIECES, bridges, gaps, heights, overhangs, pegs_and_holes, piece, rods_and_walls

__all__ = ["PIECES", "bridges", "gaps", "heights", "overhangs", "pegs_and_holes", "piece", "rods_and_walls"]
