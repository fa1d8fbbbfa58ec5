"""What is freed and what stays: results, content, and figures that are deleted."""

from __future__ import annotations

from datetime import datetime

import pytest

from tenugui.store import blobs, figures, jobs, plans, results, runs
from tenugui.store.db import Store, StoreError
from tenugui.store.tidy import tidy


def has(store: Store, sha: str) -> bool:
    try:
        blobs.get(store, sha)
    except StoreError:
        return False
    return True


def test_what_nothing_names_is_freed_and_the_rest_stays(store: Store) -> None:
    source, made, chosen, asked, loose = (
        blobs.put_bytes(store, text) for text in (b"source", b"made", b"chosen", b"asked", b"loose")
    )
    plan = plans.create(store, figures.add(store, figures.NewFigure("Toad", "toad.stl", source, 12)))
    results.keep(store, "k" * 64, "preview", f'{{"sha":"{made}"}}'.encode(), source)
    plans.decide(store, plan, "size", choice={"sha": chosen}, evidence={}, reason="")
    jobs.want(store, "intake", {"sha": asked}, key="j" * 64)
    counted = tidy(store, dry=True, young_minutes=0)
    assert (counted.blobs, counted.bytes) == (1, 5) and has(store, loose), "counting frees nothing"
    assert tidy(store).blobs == 0, "what is young may still be on its way"
    assert tidy(store, young_minutes=0).blobs == 1
    assert [has(store, sha) for sha in (source, made, chosen, asked, loose)] == [True, True, True, True, False]


def test_results_that_nobody_asks_for_are_freed_with_their_content(store: Store) -> None:
    made = blobs.put_bytes(store, b"made")
    for key, days in (("o" * 64, 90), ("n" * 64, 1)):
        results.keep(store, key, "preview", f'{{"sha":"{made}"}}'.encode())
        with store.work() as sql:
            sql.execute(
                "UPDATE results SET used_at = used_at - INTERVAL %s DAY WHERE result_key = %s",
                (days, key),
            )
    assert results.kept(store, "n" * 64), "looked at: used today"
    freed = tidy(store, young_minutes=0)
    assert freed.results == 1 and not results.has(store, "o" * 64) and has(store, made)
    with store.work() as sql:
        sql.execute("UPDATE results SET used_at = used_at - INTERVAL 61 DAY")
    assert tidy(store, young_minutes=0).blobs == 1 and not has(store, made)


def test_what_another_figure_of_the_same_mesh_waits_for_goes_on(store: Store) -> None:
    source = blobs.put_bytes(store, b"a toad")
    first, second = (figures.add(store, figures.NewFigure(n, "toad.stl", source, 12)) for n in ("Toad", "Its twin"))
    job = jobs.want(store, "intake", {"sha": source}, key="i" * 64, figure_id=first)
    figures.delete(store, first)
    row = jobs.one(store, job)
    assert (row["state"], row["figure_id"], row["cancel_wanted"]) == ("waiting", second, 0)
    figures.delete(store, second)
    assert jobs.one(store, job)["cancel_wanted"] == 1, "now nobody waits"


def test_a_deleted_figure_goes_with_what_was_made_of_it_and_its_prints_stay(store: Store) -> None:
    source = blobs.put_bytes(store, b"a toad")
    figure = figures.add(store, figures.NewFigure("Toad", "toad.stl", source, 12))
    plan = plans.create(store, figure)
    plans.decide(store, plan, "size", choice={"sha": source}, evidence={}, reason="")
    results.keep(store, "k" * 64, "preview", b"{}", source)
    run = runs.start(
        store,
        plan,
        None,
        printer_id=1,
        material_id=1,
        planned=(3600.0, 12.0, 0.1, 0.02),
        started_at=datetime(2026, 11, 1, 20, 0),
    )
    runs.end(store, run, {"result": "good"})
    figures.put_away(store, figure, True)
    figures.delete(store, figure)
    tidy(store, young_minutes=0)
    assert not has(store, source) and not results.has(store, "k" * 64)
    with pytest.raises(StoreError, match="no figure"):
        figures.one(store, figure)
    (left,) = runs.every(store)
    assert (left["figure_name"], left["plan_id"], left["result"]) == ("Toad", None, "good")
