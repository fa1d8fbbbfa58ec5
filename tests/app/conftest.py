"""The application on a real store, as its own page would speak to it."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Iterator
from dataclasses import asdict
from functools import cache
from pathlib import Path
from typing import Any

import pytest
from fastapi import FastAPI
from fastapi.testclient import TestClient

from tenugui.app.main import make_app
from tenugui.app.models import FigureRow
from tenugui.app.readers import Readers
from tenugui.app.recent import Recent
from tenugui.core.formats import Limits
from tenugui.reader import read_file
from tenugui.store.db import Store
from tenugui.store.server import Address
from tests.app.bench import HOST
from tests.conftest import COMPUTED, PEOPLES, emptied

BY_PROCESS = ("test_intake", "test_limits", "test_api")
"""Modules that are about files as they come in: there a process of its own reads each, as it does for everybody."""


WITH_DOORS = ("test_folds",)
"""Modules that make doors of their own."""


class InHouse(Readers):
    """Reads in this very process: a process for each of hundreds of small figures takes longer than all the rest of
    their tests.
    """

    async def read(
        self, path: Path, out: Path, limits: Limits, *, thin_to: int | None, gone: Callable[[], Awaitable[bool]]
    ) -> dict[str, Any] | None:
        return read_file({"path": str(path), "out": str(out), "limits": asdict(limits), "thin_to": thin_to})


ANEW = ("test_recent", "test_pipeline", "test_settle", "test_warm", "test_guard")
"""Modules that are about what is computed, and when."""


@pytest.fixture
def store(database: Address, request: pytest.FixtureRequest) -> Iterator[Store]:
    """A bench without figures. What was computed of one stays, as it does for everybody: results are found again by
    what they are of.
    """
    anew = request.module.__name__.rsplit(".", 1)[-1] in ANEW
    yield from emptied(database, (*PEOPLES, *COMPUTED) if anew else PEOPLES)


@cache
def shared_app() -> FastAPI:
    """An application that puts its hundreds of doors together once, for most tests of a process."""
    return make_app(None, frozenset({HOST}), readers=InHouse())


@pytest.fixture
def client(store: Store, request: pytest.FixtureRequest) -> Iterator[TestClient]:
    module = request.module.__name__.rsplit(".", 1)[-1]
    if module in BY_PROCESS or module in WITH_DOORS:
        app = make_app(store, frozenset({HOST}), readers=None if module in BY_PROCESS else InHouse())
    else:
        app = shared_app()
    app.state.store, app.state.bench = store, Recent(list[FigureRow])
    with TestClient(app, headers={"Origin": f"http://{HOST}"}) as held:
        yield held
