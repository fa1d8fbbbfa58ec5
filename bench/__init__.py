"""Measured comparisons: this engine beside general libraries, in one run, as ratios."""
