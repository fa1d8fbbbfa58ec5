"""The trial of the doors (`./tenugui bench trial`) in short: hostile files, some seconds of made-up requests, a small
crowd, races.
"""

from __future__ import annotations

import json
from collections.abc import Iterator

import pytest
from bench.trial import ask, crowd, fuzz, hostile, plan_with_machine, races

from tenugui.app.main import make_app
from tests.browser.conftest import Running, started


@pytest.fixture(scope="module")
def running(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Running]:
    """An empty bench, which made-up requests are let loose on."""
    yield from started(tmp_path_factory)


@pytest.mark.long
def test_every_hostile_file_is_refused_in_words_and_leaves_nothing(running: Running) -> None:
    found = hostile(running.address)
    assert found.pop("(the server after them)").status == 200
    for name, answer in found.items():
        assert 400 <= answer.status < 500, (name, answer)
        told = json.loads(answer.body)
        assert told["title"] and told["detail"] and told["code"] not in ("reader-died", "fault"), (name, told)
        assert answer.seconds < 30, name
    assert list((running.state / "uploads").iterdir()) == []
    assert json.loads(ask(running.address, "get", "/api/figures").body) == []


@pytest.mark.long
def test_of_two_who_decide_at_once_one_is_taken(running: Running) -> None:
    plan, size = plan_with_machine(running.address)
    found = races(running.address, plan, size, 10)
    assert found["both taken"] == 0 and found["one taken"] == 10


def test_a_crowd_is_answered(running: Running) -> None:
    many, *_ = crowd(running.address, 5, 2.0)
    assert many >= 5, "each of them"


def test_no_door_answers_a_made_up_request_with_a_fault(running: Running) -> None:
    plan_with_machine(running.address)
    schema = make_app(None).openapi()  # type: ignore[arg-type]
    answers = fuzz(running.address, schema, seconds=4, least=60)
    assert any(200 <= status < 300 for status in answers)
