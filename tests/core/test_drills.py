"""Drills: keys against brute force, grades by hand, ratings of simulated learners, and what comes next."""

from __future__ import annotations

import io
import itertools
import math
from datetime import datetime, timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from tenugui.core.drills import (
    KINDS,
    Answer,
    Answered,
    Drill,
    DrillError,
    Key,
    Rating,
    Scene,
    Tried,
    figure_drills,
    graded,
    next_round,
    plain_drills,
    rated,
    rests_until,
)
from tenugui.core.drills.of_figure import (
    HeightShown,
    Loss,
    PoseShown,
    breaks_drill,
    islands_drill,
    missing_drill,
    pose_drill,
    scars_drill,
    slot_drill,
    spare_drill,
)
from tenugui.core.drills.plain import angle_drill, factor_drill, leaning, steps_drill
from tenugui.core.drills.rating import SKILL_SPREAD
from tenugui.core.drills.shown import in_sight
from tenugui.core.drills.underside import (
    HEIGHT_MM,
    LEVEL,
    LINE_MM,
    PIXELS_A_MM,
    TALLER,
    WIDE,
    underside_drill,
)
from tenugui.core.layers import prove
from tenugui.core.machines import Context
from tenugui.core.mesh import Mesh
from tenugui.core.risk.meeting import droop_mm
from tenugui.core.supports import make_supports
from tests.presets import HERON, RESIN
from tests.shapes import ball, box, knobbly

NOW = datetime(2026, 12, 1, 12)
CONTEXT = Context.of(HERON, RESIN, 0.1)


def raised(mesh: Mesh, by: float = 5.0) -> Mesh:
    return Mesh(mesh.vertices - [0, 0, mesh.lower[2] - by], mesh.faces)


def gallows() -> Mesh:
    """A stone on the plate with pegs that hang from beams: each peg's end starts in mid air."""
    stone = knobbly(9, 4)
    stone = raised(stone, 0.0)
    beams = [box((x / 2, y / 2, 14), (abs(x) + 3, abs(y) + 3, 2)) for x, y in ((16, 0), (-16, 0), (0, 16))]
    pegs = [box((x, y, 10), (2, 2, 8)) for x, y in ((16, 0), (-16, 0), (0, 16))]
    return Mesh.joined([stone, box((0, 0, 10), (3, 3, 10)), *beams, *pegs])


def scene(**more) -> Scene:  # type: ignore[no-untyped-def]
    figure = gallows()
    return Scene("A gallows", figure, prove(figure, 0.1, CONTEXT.reach), **more)


def test_the_key_of_islands_is_what_the_layers_say() -> None:
    """Each lettered place is asked of the layers by brute force: whether its component is one that starts there."""
    here = scene()
    starts = {i.component for i in here.proof.islands}
    assert len(starts) >= 3
    for seed in range(6):
        rng = np.random.default_rng(seed)
        drill = islands_drill(here, rng)
        assert drill is not None and drill.question.many and len(drill.question.pictures) == 2
        right = drill.key.right
        assert 1 <= len(right) <= 3 and len(drill.question.options) == len(drill.key.reasons) >= 4
        for k, reason in enumerate(drill.key.reasons):
            assert reason.startswith("Starts at 6.") == (k in right), "pegs end 6 mm up, and nothing else starts"
        assert graded(drill.key, Answer(right), len(drill.question.options)) == 1.0


def test_a_support_that_is_missing_is_where_a_part_starts() -> None:
    made = make_supports(raised(gallows()), CONTEXT, risk=0.05, style="pillars")
    here = Scene("A gallows", made.figure, made.before, tips=made.tips)
    drill = missing_drill(here, np.random.default_rng(3))
    assert drill is not None and len(drill.key.right) == 1
    told = drill.key.reasons[drill.key.right[0]]
    high = {f"{t.z:.1f}" for t in made.tips if t.reason == "island"}
    assert told.startswith("A part starts here at ") and told.split(" at ")[1].split(" mm")[0] in high


def test_scars_and_spare_tips_are_keyed_by_their_own_numbers() -> None:
    made = make_supports(raised(knobbly(20, 4)), CONTEXT, risk=0.01, style="pillars")
    many = len(made.tips)
    assert many >= 6
    costs = np.geomspace(0.02, 8.0, many)
    here = Scene("A stone", made.figure, made.before, made.tips, costs.tolist(), [k % 2 == 0 for k in range(many)])
    scars = scars_drill(here, np.random.default_rng(1))
    assert scars is not None
    (best,) = scars.key.right
    assert scars.key.credit[best] == 1.0 and min(scars.key.credit) == 0.0
    assert all(graded(scars.key, Answer([k]), 5) == share for k, share in enumerate(scars.key.credit))
    with pytest.raises(DrillError, match="One letter"):
        graded(scars.key, Answer([0, 1]), 5)
    spare = spare_drill(here, np.random.default_rng(1))
    assert spare is not None
    assert all(("Comfort" in r) == (k in spare.key.right) for k, r in enumerate(spare.key.reasons))
    same = Scene("A stone", made.figure, made.before, made.tips, [1.0] * many, [True] * many)
    assert scars_drill(same, np.random.default_rng(1)) is None, "all alike: there is nothing to ask"
    assert spare_drill(same, np.random.default_rng(1)) is None


def test_what_breaks_poses_and_slots_are_keyed_by_what_the_plan_says() -> None:
    rng = np.random.default_rng(2)
    losses = [Loss((16.0, -1.0, 10.0), 0.4, "a peg"), Loss((-16.0, -1.0, 10.0), 0.1, "another")]
    broken = breaks_drill(scene(losses=losses), rng)
    assert broken is not None and broken.key.reasons[broken.key.right[0]] == "a peg"
    assert sum(r == "Nothing is known against this place." for r in broken.key.reasons) == len(broken.key.reasons) - 1
    assert breaks_drill(scene(), rng) is None
    poses = [PoseShown(b"", coins, f"{coins}") for coins in (4.0, 3.0, 4.2, 9.0)]
    posed = pose_drill(scene(poses=poses), rng)
    assert posed is not None
    by_coins = dict(zip((float(r) for r in posed.key.reasons), posed.key.credit, strict=True))
    assert by_coins == {
        3.0: 1.0,
        4.0: pytest.approx(1 - 1 / 1.5, abs=1e-3),
        4.2: pytest.approx(0.2, abs=1e-3),
        9.0: 0.0,
    }
    heights = [HeightShown(h, 1.0 / h) for h in (0.03, 0.05, 0.1, 0.2)]
    slot = slot_drill(scene(heights=heights), rng)
    assert slot is not None
    (right,) = slot.key.right
    hours = float(slot.question.text.split("yours for ")[1].split(" hours")[0])
    assert 1 / heights[right].height_mm <= hours + 0.05
    assert right == 0 or 1 / heights[right - 1].height_mm > hours
    assert slot_drill(scene(heights=heights[:2]), rng) is None


def test_letters_stand_only_where_their_place_is_seen() -> None:
    stone = ball(10, fineness=4)
    front, back = np.array([[5.0, -8.66, 0.0]]), np.array([[-5.0, 8.66, 0.0]])
    seen = in_sight(stone, np.concatenate([front, back]), 0.0)
    assert seen.tolist() == [[True, False], [False, True]]


def test_every_drill_of_a_figure_can_be_shown_and_answered() -> None:
    made = make_supports(raised(gallows()), CONTEXT, risk=0.05)
    here = Scene(
        "A gallows",
        made.figure,
        made.before,
        made.tips,
        np.linspace(0.1, 2, len(made.tips)).tolist(),
        [k % 3 > 0 for k in range(len(made.tips))],
        first_side="below",
        sides={"below": 5, "left": 2},
    )
    drills = figure_drills(here, 5)
    assert {"islands", "first"} <= {d.kind for d in drills} <= set(KINDS)
    one, other = (islands_drill(here, np.random.default_rng(5)) for _ in range(2))
    assert one is not None and other is not None and one.key == other.key, "the same seed asks the same"
    for drill in drills:
        for png in drill.question.pictures:
            image = Image.open(io.BytesIO(png))
            assert image.format == "PNG" and np.asarray(image)[..., 3].any()
        assert not any(word in drill.question.text for word in drill.key.reasons if word)
        assert graded(drill.key, Answer(drill.key.right), len(drill.question.options)) == 1.0


def test_an_angle_is_that_of_the_wall_that_is_shown_and_has_two_names() -> None:
    for seed in range(12):
        drill = angle_drill(np.random.default_rng(seed))
        assert drill.key.number is not None
        upright = drill.key.number if "vertical: 0°" in drill.question.text else 90 - drill.key.number
        wall = leaning(upright)
        normal, _ = wall.normals_and_areas()
        lean = math.degrees(math.asin(-normal[normal[:, 0] > 0.01][:, 2].min()))
        assert lean == pytest.approx(upright), "a face that looks down by so much overhangs by so much"


def test_steps_stand_off_by_the_cosine() -> None:
    for seed in range(12):
        drill = steps_drill(np.random.default_rng(seed))
        height = float(drill.question.text.split("of ")[1].split(" mm")[0])
        rise = float(drill.question.text.split("rises ")[1].split("°")[0])
        assert drill.key.number == pytest.approx(1000 * height * math.cos(math.radians(rise)), abs=0.06)


def test_an_underside_is_drawn_by_its_gap_and_its_lines() -> None:
    for seed in range(6):
        drill = underside_drill(np.random.default_rng(seed))
        (right,) = drill.key.right
        told = drill.question.options[right]
        gap, share = int(told.split()[0]), int(told.split(" at ")[1].split()[0]) / 100
        image = np.asarray(Image.open(io.BytesIO(drill.question.pictures[0])).convert("L")).astype(int)
        edge = (image < 90).argmax(axis=0)[: WIDE - 1]  # the dark line of the underside
        high = edge[edge > LEVEL]
        assert high.min() - LEVEL == pytest.approx(TALLER * PIXELS_A_MM * gap * HEIGHT_MM / 2, abs=4)
        swing = TALLER * PIXELS_A_MM * droop_mm(HEIGHT_MM, LINE_MM / share, 0) / 2
        assert np.ptp(high) == pytest.approx(swing, abs=4)
        assert drill.key.credit[right] == 1.0 and sorted(drill.key.credit) == [0.0, 0.5, 0.5, 1.0]
        assert not any(reason in drill.question.text for reason in drill.key.reasons)


def test_what_moved_besides_is_what_the_sheets_say() -> None:
    for seed in range(20):
        drill = factor_drill(np.random.default_rng(seed))
        meant = drill.question.text.split("what another ")[1].split(" does")[0]
        sheets = drill.question.text.split("The sheets say: ")[1].split(". What else")[0].split("; ")
        moved = set()
        for k, line in enumerate(sheets):
            name, levels = line.split(": ")
            one, other = levels.split(", then ")
            if one != other and name != meant:
                moved.add(k)
        assert moved == set(drill.key.right) and moved


def test_grades_by_hand() -> None:
    key = Key(right=[1, 3])
    assert graded(key, Answer([3, 1]), 4) == 1.0 and graded(key, Answer([1]), 4) == 0.5
    assert graded(key, Answer([0, 1, 2, 3]), 4) == 0.5 and graded(key, Answer([0]), 4) == 0.0
    near = Key(number=10.0, slack=2.0)
    assert [graded(near, Answer(number=v), 0) for v in (10, 12, 14, 16, 100)] == [1.0, 1.0, 0.5, 0.0, 0.0]
    for answer, code in ((Answer(), "no-answer"), (Answer([4]), "no-such-option"), (Answer([-1]), "no-such-option")):
        with pytest.raises(DrillError) as wrong:
            graded(key, answer, 4)
        assert wrong.value.code == code
    for number in (None, math.nan, math.inf):
        with pytest.raises(DrillError):
            graded(near, Answer(number=number), 0)


def test_ratings_hold_the_truth_of_500_learners() -> None:
    """Each with a skill of its own answers forty drills of known kinds: 95 % intervals hold what is true in 93 to 97 of
    a hundred, and the mean is not off to one side.
    """
    rng = np.random.default_rng(4)
    held, off = [], []
    for _ in range(500):
        skill = rng.normal(0, SKILL_SPREAD)
        hard = rng.normal(0, 0.6, 40)
        right = rng.random(40) < 1 / (1 + np.exp(-(skill - hard)))
        after = rated([Answered("eye", k, float(r)) for k, r in enumerate(right)], {})
        got = after.skills["eye"]
        held.append(abs(skill - got.mean) < 1.96 * got.spread)
        off.append(skill - got.mean)
    assert 0.925 < np.mean(held) < 0.98 and abs(np.mean(off)) < 0.08


def test_a_drill_that_many_miss_becomes_hard_and_a_partly_right_answer_counts_as_its_share() -> None:
    rng = np.random.default_rng(1)
    answers = [Answered("eye", k % 10, float(rng.random() < 0.8)) for k in range(200)]
    answers += [Answered("eye", 10, 0.0) for _ in range(6)] + [Answered("eye", 11, 1.0) for _ in range(6)]
    after = rated(answers, {})
    assert after.drills[10].mean > 0.4 > -0.2 > after.drills[11].mean
    half = rated([Answered("eye", 1, 0.5), Answered("eye", 2, 0.5)], {})
    assert half.skills["eye"].mean == pytest.approx(0.0, abs=1e-9)
    assert rated([], {}).skills == {}


@given(st.lists(st.tuples(st.integers(0, 5), st.floats(0, 1)), min_size=1, max_size=30))
def test_more_answers_never_leave_more_doubt_than_none(answers: list[tuple[int, float]]) -> None:
    after = rated([Answered("eye", d, s) for d, s in answers], {})
    assert 0 < after.skills["eye"].spread < SKILL_SPREAD and all(0 < r.spread < 0.6 for r in after.drills.values())


def test_what_was_missed_comes_back_first_and_what_is_known_rests_longer_each_time() -> None:
    def tried(number: int, kind: str, hours: float | None, row: int = 0) -> Tried:
        return Tried(number, kind, 0.0, None if hours is None else NOW - timedelta(hours=hours), row)

    rests = [rests_until(tried(1, "angle", 0.0, row)) for row in range(8)]
    assert all(a <= b for a, b in itertools.pairwise(rests) if a and b) and rests[0] != rests[1]
    kinds = list(KINDS)
    drills = [
        tried(1, kinds[0], 1.0),
        tried(2, kinds[1], 5.0, 1),
        tried(3, kinds[2], 30.0, 1),
        *(tried(10 + k, kinds[k % 4], None) for k in range(12)),
    ]
    chosen = next_round(drills, {}, NOW)
    assert chosen[:2] == [3, 1] and 2 not in chosen, "due ones by how long they waited; what was right yesterday rests"
    fresh = [d for d in drills if d.drill in chosen[2:]]
    assert len({d.kind for d in fresh}) == 3, "no kind twice while another is there"
    assert next_round([tried(2, kinds[1], 5.0, 1)], {}, NOW) == [2], "where all rest, the next one"
    assert next_round([], {}, NOW) == []


def test_a_beginner_is_asked_what_is_easier() -> None:
    drills = [Tried(k, "angle", hard) for k, hard in enumerate((-1.5, 0.0, 1.5, 3.0))]
    good, bad = ({KINDS["angle"].skill: Rating(mean, 0.3)} for mean in (2.5, -0.8))
    assert next_round(drills, bad, NOW, many=1) == [0] and next_round(drills, good, NOW, many=1) == [2]


def test_drills_of_laws_differ() -> None:
    drills: list[Drill] = plain_drills(1, 6)
    assert len(drills) == 30 and len({(d.question.text, d.key.number) for d in drills}) > 12
    assert {d.kind for d in drills} == {"angle", "factor", "steps", "primed", "underside"}
    some = plain_drills(1, 6, without={"angle", "steps"})
    said = [(d.kind, d.question.text, d.key) for d in drills]
    assert len(some) == 18 and all((d.kind, d.question.text, d.key) in said for d in some), "each kind by itself"
