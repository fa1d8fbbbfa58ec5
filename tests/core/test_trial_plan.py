"""The task of trial prints on a plan: its tally agrees with the load path, its remedies come true when they are taken;
other machines beside it.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest

from tenugui.core.contract import HeldDoc, OthersDoc, TrialDoc, unpack_values
from tenugui.core.mesh import Mesh
from tenugui.core.plan import computed
from tenugui.core.plan.given import HeldGiven, OtherMachine, OthersGiven, TrialGiven
from tenugui.core.plan.inputs import HeldInputs
from tenugui.core.plan.pull import LIFT_SHARE
from tenugui.core.plan.trial import _cost
from tenugui.core.prints import Cause, Draws, moments_of, printed
from tenugui.core.supports import Carrying
from tenugui.core.vat import slower
from tenugui.core.worth import Rates
from tests.core.test_shared import plan_of
from tests.presets import FILAMENT, HERON, KESTREL, RESIN
from tests.shapes import ball, box


def hanging() -> Mesh:
    """A heavy ball on a slim arm: what its few tips hold is pulled hard."""
    figure = Mesh.joined([ball(7, (0, 0, 12), 4), box((12, 0, 8), (16, 3, 3)), ball(3, (20, 0, 8), 3)])
    return Mesh(figure.vertices - [0, 0, figure.lower[2]], figure.faces)


def tried(**given: Any) -> tuple[HeldInputs, HeldDoc, TrialDoc]:
    held, _ = plan_of(hanging())
    asked = held.held.to(TrialGiven, **({"style": "pillars", "risk": 0.2} | given))
    made = computed(held.shelf, "held", asked, HeldDoc)
    return held, made, computed(held.shelf, "trial", asked, TrialDoc)


def test_what_the_task_tells_is_what_the_walk_of_its_own_set_finds() -> None:
    held, made, trial = tried()
    carrying = Carrying.unpack(held.shelf.get(made.row.carrying_sha))
    spots = made.row.spots
    moments = moments_of(
        carrying,
        np.array([s.component for s in spots], np.int32),
        np.array([s.at for s in spots], float),
        np.array([s.hold_n for s in spots], float),
    )
    walked = printed(moments, Draws.of(len(spots)))
    pulled = sum(c.count for c in trial.causes if c.code == "pull")
    lost = int((walked.share >= 1e-4).sum())
    assert lost > 20 and abs(pulled - lost) <= 0.1 * lost, "others come first in a few"
    assert trial.whole + trial.part + trial.all == 1000 and trial.said.startswith(f"{trial.whole:,} of 1,000")
    assert (trial.hands_min, trial.contact_mm2) == (made.row.gift.hands_min, made.row.contact_mm2)
    work = f"leaves {trial.hands_min:.0f} minutes by hand, over {trial.contact_mm2:.0f} mm² that supports touched."
    assert trial.said.endswith(work) and "mark besides" not in trial.said
    kept = unpack_values(held.shelf.get(trial.kept_sha or ""))
    assert 0 <= kept.min() < 100 and kept.max() == 100


@pytest.mark.parametrize("risk", [0.01, 0.2])
def test_every_fold_tells_the_risk_that_the_trial_finds(risk: float) -> None:
    """Boards, proof and worth speak of the same thousand prints: what is lost in them, and not a product of chances
    taken as independent.
    """
    _, made, trial = tried(risk=risk)
    assert made.row.numbers.risk == pytest.approx((trial.part + trial.all) / 1000)
    assert made.proof.risk == made.row.numbers.risk
    assert (made.row.gift.lost, made.row.gift.part_lost) == (trial.all / 1000, trial.part / 1000)
    product = 1 - math.prod(1 - h.chance for h in made.row.hazards if h.loss != "scar")
    assert risk < 0.1 or abs(product - made.row.numbers.risk) > 0.02, "bodies share one print's strength"


def test_where_nothing_is_peeled_chances_are_all_there_is() -> None:
    machine = {"printer": KESTREL.model_dump(mode="json"), "material": FILAMENT.model_dump(mode="json"), "height": 0.2}
    _, made, trial = tried(**machine)
    product = 1 - math.prod(1 - h.chance for h in made.row.hazards if h.loss != "scar")
    assert made.row.numbers.risk == pytest.approx(min(0.95, product))
    assert (trial.part + trial.all) / 1000 == pytest.approx(product, abs=3 * math.sqrt(product * (1 - product) / 1000))


def test_a_remedy_that_is_taken_does_what_was_said_of_it() -> None:
    """Its tips are put by hand, the set is proved anew, and the same draws bring as many prints home, to within what
    their exact places change.
    """
    _, made, trial = tried()
    helped = [c.helped for c in trial.causes if c.helped is not None and c.helped.whole > trial.whole + 5]
    assert helped, "tips help where tips fail"
    best = max(helped, key=lambda h: h.whole)
    edits = [{"op": "add", "at": list(at)} for at in best.put]
    _, again, after = tried(edits=edits)
    assert again.row.tip_count == made.row.tip_count + len(edits)
    assert after.whole > trial.whole and abs(after.whole - best.whole) <= 0.02 * trial.prints + 3 * trial.error


def test_a_cause_costs_what_its_share_of_lost_prints_is_worth() -> None:
    """By hand at one's own rates: a lost print is paid again, with twenty minutes of clearing away."""
    _, made, trial = tried(rates={"minute": 1.0, "hour": 2.0, "lost": 3.0})
    gift = made.row.gift
    again = 20.0 * 1.0 + 2.0 * gift.machine_h + gift.material
    whole = [c for c in trial.causes if c.loss == "print lost"]
    assert whole
    for cause in whole:
        assert cause.cost == pytest.approx(cause.count / 1000 * again * 3.0)
    chip = Cause("thin", 100, "part lost", 0, (0, 0, 0), 0.0, "", "")
    cost = _cost(made, chip, 1000, Rates(1.0, 2.0, 3.0))
    assert cost == pytest.approx(0.1 * min(again, 0.5 * (again + gift.hands_min)) * 3.0)


def test_less_accepted_risk_brings_more_prints_home() -> None:
    whole = [tried(risk=risk)[2].whole for risk in (0.01, 0.05, 0.2)]
    assert whole == sorted(whole, reverse=True) and whole[0] > whole[2]


def test_other_nozzles_and_machines_stand_beside_the_chosen_one() -> None:
    held, _ = plan_of(Mesh.joined([box((0, 0, 6), (12, 9, 12)), box((9, 0, 6), (0.3, 6, 12))]))
    lines = {"printer": KESTREL.model_dump(mode="json"), "material": FILAMENT.model_dump(mode="json")}
    other = {"printer": HERON.model_dump(mode="json"), "material": RESIN.model_dump(mode="json")}
    asked = held.held.to(OthersGiven, **lines, height=0.2, machines=(OtherMachine.model_validate(other),))
    found = computed(held.shelf, "others", asked, OthersDoc)
    own, *rest = found.rows
    assert (own.nozzle_mm, own.layer_height_mm) == (KESTREL.nozzle_mm, 0.2)  # type: ignore[union-attr]
    fine = [r for r in rest if r.nozzle_mm and r.nozzle_mm < 0.3]
    assert fine and all(r.lost_share < own.lost_share for r in fine), "the fin is drawn by a finer line"
    by_height = sorted((r.layer_height_mm, r.time_s) for r in fine if r.nozzle_mm == fine[0].nozzle_mm)
    assert [s for _, s in by_height] == sorted((s for _, s in by_height), reverse=True), "finer layers take longer"
    (screen,) = [r for r in rest if r.process == "resin"]
    assert screen.lost_share == 0 and screen.blemishes == 0 and screen.fits
    assert any("not draw" in line for line in found.said) and any(HERON.name in line for line in found.said)


def test_a_slower_lift_brings_more_prints_home_and_takes_longer() -> None:
    """Tried with the same draws; and a printer that lifts so says the same of its own plan."""
    held, made, trial = tried()
    assert trial.slower is not None and trial.slower.whole > trial.whole and trial.slower.longer_min > 0
    printer = slower(HERON, LIFT_SHARE)
    assert trial.slower.lift_mm_s == printer.lift_mm_s[0]
    own = computed(
        held.shelf,
        "held",
        held.held.to(HeldGiven, style="pillars", risk=0.2, printer=printer.model_dump(mode="json")),
        HeldDoc,
    )
    assert (own.row.numbers.time_s - made.row.numbers.time_s) / 60 == pytest.approx(trial.slower.longer_min, rel=0.02)
    assert trial.by_scatter[2] == (1.0, trial.whole / trial.prints)
    shares = [whole for _, whole in trial.by_scatter]
    assert shares == sorted(shares, reverse=True) and shares[0] > shares[-1] + 0.05


def test_a_machine_that_scatters_says_the_same_from_its_own_side() -> None:
    """What the plan says of machines that differ twice as much is what such a machine's own trial of the same
    set says.
    """
    held, made, trial = tried()
    wild = HERON.model_copy(update={"scatter": 2.0})
    again = held.held.to(TrialGiven, style="pillars", risk=0.2, printer=wild.model_dump(mode="json"))
    own = computed(held.shelf, "held", again, HeldDoc)
    told = computed(held.shelf, "trial", again, TrialDoc)
    assert told.scatter == 2.0 and own.row.tip_count > made.row.tip_count, "it is given more margin"
    assert dict(told.by_scatter)[2.0] == pytest.approx(told.whole / 1000)
    assert dict(trial.by_scatter)[2.0] < told.whole / 1000, "which helps"
