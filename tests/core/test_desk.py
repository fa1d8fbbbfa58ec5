"""The desk of defects: what is suspected, and what changes it."""

from __future__ import annotations

import pytest

from tenugui.core.hazards import kinds
from tenugui.core.learn import BY_CUE, CUES, Near, suspects_of
from tenugui.core.learn.desk import LEAST, LOOK_MIN, MISSED, MOST, USUAL
from tenugui.core.series.shipped import shipped


def test_every_hazard_and_series_that_it_names_is_there() -> None:
    import tenugui.core.plan  # noqa: F401 (every source registers itself)

    presets = ({"process": "resin"}, {"process": "filament", "nozzle_mm": 0.4})
    series = {s.code for preset in presets for s in shipped(preset, {})}
    assert len({cue.code for cue in CUES}) == len(CUES) >= 15
    for cue in CUES:
        assert cue.suspects and set(cue.process) <= {"resin", "filament"}
        assert len({s.code for s in cue.suspects}) == len(cue.suspects)
        for suspect in cue.suspects:
            assert set(suspect.hazards) <= set(kinds()), (cue.code, suspect.code)
            assert suspect.series is None or suspect.series in series, (cue.code, suspect.series)
            assert suspect.weight > 0 and suspect.minutes >= 0 and suspect.test


def test_without_a_proof_causes_stand_by_how_usual_they_are() -> None:
    cue = BY_CUE["hanging"]
    desk = suspects_of(cue, [], 10, {}, proved=False)
    whole = sum(s.weight for s in cue.suspects)
    assert [s.chance for s in desk.suspected] == pytest.approx([s.weight / whole for s in cue.suspects])
    assert desk.held is None


def test_what_the_proof_told_there_weighs_by_the_ratio_of_chances() -> None:
    cue = BY_CUE["fallen"]
    near = [Near("sealed", 50, 0.1)]
    desk = suspects_of(cue, near, 50, {}, proved=True)
    by_code = {s.suspect.code: s for s in desk.suspected}
    weights = {
        s.code: s.weight * (1.0 if not s.hazards else 0.1 / USUAL if "sealed" in s.hazards else LEAST)
        for s in cue.suspects
    }
    whole = sum(weights.values())
    for code, weight in weights.items():
        assert by_code[code].chance == pytest.approx(weight / whole), code
    assert desk.suspected[0].suspect.code == "sealed"
    far = suspects_of(cue, near, 500, {}, proved=True)
    assert far.suspected[0].suspect.code != "sealed", "450 layers away it has little to do with it"


def test_a_machine_where_it_comes_true_more_often_is_suspected_sooner() -> None:
    cue = BY_CUE["fallen"]
    near = [Near("pull", 50, 0.02), Near("bond", 50, 0.02)]
    usual = {s.suspect.code: s.chance for s in suspects_of(cue, near, 50, {}, proved=True).suspected}
    here = {s.suspect.code: s.chance for s in suspects_of(cue, near, 50, {"bond": 4.0}, proved=True).suspected}
    assert here["under-exposed"] / here["too-heavy"] == pytest.approx(4 * usual["under-exposed"] / usual["too-heavy"])
    most = {s.suspect.code: s for s in suspects_of(cue, [Near("bond", 50, 0.9)], 50, {}, proved=True).suspected}
    assert most["under-exposed"].chance < MOST * 2.0 / (MOST * 2.0 + 1.5), "one proof alone is no certainty"


def test_whether_it_was_held_comes_first_from_the_runs_own_layers() -> None:
    cue = BY_CUE["hanging"]
    hung = suspects_of(cue, [Near("island", 100, 0.4)], 110, {}, proved=True)
    assert hung.held is False and hung.suspected[0].suspect.held
    held = suspects_of(cue, [Near("sway", 100, 0.1)], 110, {}, proved=True)
    assert held.held is True and not held.suspected[0].suspect.held
    nothing = suspects_of(BY_CUE["tip-missing"], [], 110, {}, proved=True)
    first = {s.suspect.code: s.chance for s in nothing.suspected}
    assert first["never-held"] / first["first-small"] == pytest.approx(4 * MISSED / (2 * LEAST))
    assert suspects_of(BY_CUE["pits"], [], 110, {}, proved=True).held is None, "nobody asks that of pits"


def test_the_next_test_is_the_one_that_tells_most_a_minute() -> None:
    for cue in CUES:
        desk = suspects_of(cue, [], None, {}, proved=False)
        rates = [s.chance / (s.suspect.minutes + LOOK_MIN) for s in desk.suspected]
        assert rates[desk.next] == max(rates)
