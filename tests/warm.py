"""Compile the loops of the core once, into the cache that all tests read, while the front end is checked; two test
processes would each compile them.
"""

from __future__ import annotations

import contextlib
import io
import json
import tempfile
from pathlib import Path

from tenugui.cli import main
from tests.figures import hound
from tests.shapes import ball, stl_bytes
from tests.test_workshop_commands import WEEK


def warm() -> None:
    """Every command on something small, on both machines."""
    with tempfile.TemporaryDirectory() as folder:
        beast, egg = Path(folder) / "beast.stl", Path(folder) / "egg.stl"
        beast.write_bytes(stl_bytes(hound()))
        egg.write_bytes(stl_bytes(ball(12, fineness=3)))
        (Path(folder) / "week.json").write_text(json.dumps(WEEK))
        for words in (
            ["plan", str(beast), "--printer", "heron", "--out", folder],
            ["plan", str(beast), "--printer", "kestrel", "--out", folder],
            ["health", str(beast)],
            ["hollow", str(egg), "--wall", "2"],
            ["week", str(Path(folder) / "week.json")],
        ):
            with contextlib.redirect_stdout(io.StringIO()), contextlib.redirect_stderr(io.StringIO()):
                code = main([*words, "--json"])
            if code:
                raise SystemExit(f"{' '.join(words)} ended with {code}")


if __name__ == "__main__":
    warm()
