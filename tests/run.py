"""Everything that has to pass. `--fast` leaves the browser out; other words go to pytest.

Checks of the front end and the compiling of the core's loops run beside those of the code; the tests, which take
longest, begin when all of these have passed.
"""

from __future__ import annotations

import os
import subprocess
import sys
import threading
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BIN = Path(sys.executable).parent
TYPED = [word for package in ("tenugui", "tests", "bench") for word in ("-p", package)]
Step = tuple[str, list[str]]


class Lane:
    """Steps one after another, in a thread of their own; what they print is kept until it is told."""

    def __init__(self, steps: list[Step], folder: Path, env: dict[str, str]) -> None:
        self.steps, self.folder, self.env = steps, folder, env
        self.said, self.failed = "", ""
        self._thread = threading.Thread(target=self._run, daemon=True)
        self._thread.start()

    def _run(self) -> None:
        for name, command in self.steps:
            done = subprocess.run(
                command, cwd=self.folder, env=self.env, text=True, stdout=subprocess.PIPE, stderr=subprocess.STDOUT
            )
            self.said += f"== {name}\n{done.stdout}"
            if done.returncode:
                self.failed = name
                return

    def told(self) -> bool:
        """Wait, print, and say whether all passed."""
        self._thread.join()
        print(self.said, flush=True)
        if self.failed:
            print(f"== {self.failed} failed", flush=True)
        return not self.failed


def main(words: list[str]) -> int:
    """Lint, import rules, types of both languages, doctests and tests."""
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
    chosen = [w for w in words if w != "--fast"]
    # Two test processes would each compile the core's loops.
    warm = Lane([("compiling the core", [sys.executable, "-m", "tests.warm"])], ROOT, env)
    web = Lane(
        [(f"front end: {step}", ["npm", "run", "-s", step]) for step in ("lint", "format", "types", "test")],
        ROOT / "web",
        env,
    )
    code = Lane(
        [
            ("lint", [str(BIN / "ruff"), "check", "--no-cache", "src", "tests", "bench"]),
            ("format", [str(BIN / "ruff"), "format", "--check", "--no-cache", "src", "tests", "bench"]),
            ("import rules", [str(BIN / "lint-imports"), "--no-cache"]),
            (
                "types",
                [
                    str(BIN / "mypy"),
                    "--cache-dir",
                    os.environ["TENUGUI_STATE"] + "/mypy",
                    "-p",
                    "tenugui",
                    "-p",
                    "tests",
                    "-p",
                    "bench",
                ],
            ),
        ],
        ROOT,
        env,
    )
    if not all([code.told(), web.told(), warm.told()]):
        return 1
    tests = [
        str(BIN / "pytest"),
        "--doctest-modules",
        # Three at a time on two cores, since journeys wait for pages: a module's tests stay together, with a database
        # and a server of their own.
        *(() if chosen else ("-n", "3", "--dist", "loadscope", "--no-loadscope-reorder")),
        *(chosen or ["src/tenugui/core", "tests", *(["--ignore=tests/browser"] if "--fast" in words else [])]),
    ]
    print("== doctests and tests", flush=True)
    # All of them are what lands, and that is decided by the same examples each time.
    passed = subprocess.run(tests, cwd=ROOT, env=env if chosen else env | {"CI": "1"}).returncode == 0
    if not passed:
        print("== doctests and tests failed", flush=True)
    return 0 if passed else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
