"""The application on a real store, as its own page would speak to it."""

from __future__ import annotations

from collections.abc import Iterator

import pytest
from fastapi.testclient import TestClient

from tenugui.app.main import make_app
from tenugui.store.db import Store
from tests.app.bench import HOST


@pytest.fixture
def client(store: Store) -> Iterator[TestClient]:
    with TestClient(make_app(store, frozenset({HOST})), headers={"Origin": f"http://{HOST}"}) as held:
        yield held
