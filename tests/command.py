"""The command line in the test's own process: what a script gets, without the seconds that a process takes to start."""

from __future__ import annotations

import io
import json
from contextlib import redirect_stderr, redirect_stdout
from typing import Any, NamedTuple

from tenugui.cli import main


class Ended(NamedTuple):
    """Exit code, and what was written to both streams."""

    code: int
    stdout: str
    stderr: str


def call(*words: str) -> Ended:
    """One command as the shell would give it."""
    out, err = io.StringIO(), io.StringIO()
    with redirect_stdout(out), redirect_stderr(err):
        try:
            code = main(list(words))
        except SystemExit as stop:  # words that the parser refuses
            code = int(stop.code or 0)
    return Ended(code, out.getvalue(), err.getvalue())


def document(*words: str) -> dict[str, Any]:
    """The one JSON document that a command prints."""
    done = call(*words, "--json")
    assert done.code == 0, done.stderr
    assert done.stdout.count("\n") == 1
    return dict(json.loads(done.stdout))
