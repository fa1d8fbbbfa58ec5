"""The process that a crew starts: a worker that knows every task and chore."""

from __future__ import annotations

from .demo import chores as demo_chores
from .work.worker import main

assert demo_chores.__doc__  # its chores have registered themselves

if __name__ == "__main__":
    main()
