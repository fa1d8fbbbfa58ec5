"""All chores there are: each registers itself where its module is loaded."""

from __future__ import annotations

from . import cells, partings, settled, versions
from .chores import CHORES

__all__ = ["CHORES", "cells", "partings", "settled", "versions"]
