"""A supported and proved figure, computed once for each choice of pose, layer height, risk and style, and read by every
later fold.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..contract import (
    EditAsk,
    EditDoc,
    Finding,
    HeldDoc,
    SpotDoc,
    SupportsRow,
    contact_mm2,
    gift_of,
    hazard_of,
    pack_mesh,
    pack_values,
    proof_document,
    strip_document,
    supports_document,
)
from ..errors import CoreError
from ..hazards import Hazard, combined
from ..layers import alone_mm
from ..machines import Context, thin_limits
from ..marks import KEPT_FREE
from ..mesh import Mesh, ThinPlace, guess_unit, picture
from ..prints import OnTrial, tried
from ..process import process_of
from ..removal.cutter import locked_in
from ..removal.hands import held_gift, mean_lean, off_minutes, weights_at
from ..risk import ledger
from ..supports import (
    RAFT_MM,
    Carrying,
    Edit,
    SupportSet,
    Tip,
    make_supports,
    manner_of,
    margin_of,
    regions_of_tips,
    seen_weights,
    surface_margins,
    tip_hold,
    tip_loads,
    touched,
)
from .came import CAME, came_with
from .figure import coarse_of, preview_of
from .given import HeldGiven, PosedGiven, SupportedGiven, SupportsGiven
from .inputs import HeldInputs, PosedInputs
from .look import told_on_faces
from .pose import SMALL, numbers_of
from .regions import regions_of
from .shelf import Shelf
from .size import thin_of
from .tasks import Progress, task

NOTHING = 1e-5
"""A stack that holds less than this share of its box prints nothing to speak of."""


class PlanError(CoreError):
    """A plan that leads nowhere."""


SMALLEST_MM = 1.0
"""What is smaller in every direction was not meant in millimetres."""


def refuse_crumb(figure: Mesh) -> None:
    """Refuse a figure so small that its numbers cannot be millimetres.

    Raises:
        PlanError: `wrong-unit`.
    """
    largest = float(figure.size.max())
    if largest < SMALLEST_MM:
        unit = guess_unit(largest)
        raise PlanError(
            "wrong-unit",
            f"The figure measures {largest:.2g} mm: its numbers are no millimetres, more likely {unit}.",
            "its size",
            f"Give its height (the fold Size, or --height), or its unit (--unit {unit}).",
        )


def refuse_nothing(figure: Mesh, volume_mm3: float) -> None:
    """Refuse a figure whose layers hold next to nothing.

    Raises:
        PlanError: `wrong-unit`: it is no larger than a crumb; `holds-nothing`.
    """
    refuse_crumb(figure)
    box = float(np.prod(np.maximum(figure.size, 1e-9)))
    if volume_mm3 < NOTHING * box:
        raise PlanError(
            "holds-nothing",
            f"The layers hold {volume_mm3:.3g} mm³ in a figure of "
            f"{' x '.join(f'{v:.1f}' for v in figure.size)} mm: nothing would be printed.",
            "every layer read",
            "Make a new surface around it ('New surface' in the "
            "fold Size), or give it thickness where it was sculpted.",
        )


def placed_thin(shelf: Shelf, inputs: PosedInputs) -> list[ThinPlace]:
    """Thin places of the figure where it stands on the plate."""
    place = inputs.placed.place
    places = []
    for p in thin_of(shelf, inputs.given, inputs.printer):
        x, y, z = (float(v) for v in place.turn @ np.array([p.x, p.y, p.z]) + place.shift)
        a, b, c = (float(v) for v in place.turn @ np.array(p.axis))
        places.append(dataclasses.replace(p, x=x, y=y, z=z, axis=(a, b, c)))
    return places


def held_given(
    given: PosedGiven, *, height: float, risk: float, style: str = "pillars", edits: Sequence[EditAsk] = ()
) -> HeldGiven:
    """The inputs of a placed figure's set; what it came with counts where its own supports are asked for."""
    came = given.came if style == CAME and isinstance(given, SupportsGiven | SupportedGiven) else None
    return given.to(HeldGiven, height=height, risk=risk, style=style, edits=tuple(edits), came=came)


def edits_of(inputs: HeldInputs) -> list[Edit]:
    """Changes by hand, from the figure's frame at its size to where it is printed."""
    rows = inputs.held.edits
    if not rows:
        return []
    place = inputs.placed.place

    def placed(at: Sequence[float]) -> tuple[float, float, float]:
        x, y, z = (float(v) for v in place.turn @ np.array(at, float) + place.shift)
        return x, y, z

    return [
        Edit(
            row.op,
            placed(row.at),
            None if row.to is None else placed(row.to),
            raft=row.raft,
            gap_layers=row.gap_layers,
            density=row.density,
        )
        for row in rows
    ]


@task("held", HeldGiven, HeldDoc, rests_on=("proposed", "coarse", "thin"))
def held_task(shelf: Shelf, given: HeldGiven, progress: Progress) -> HeldDoc:
    """Place, prove, and say what it takes and what threatens it."""
    inputs = HeldInputs(shelf, given)
    context = inputs.placed_context()
    progress(0.05, "reading every layer without supports")
    before = inputs.before(context)
    refuse_nothing(inputs.placed.whole, before.stack.volume())
    progress(0.3, "placing and proving supports")
    came = came_with(shelf, inputs, given.came) if given.style == CAME else None
    support_set = make_supports(
        inputs.placed.whole,
        context,
        risk=given.risk,
        style=given.style,
        before=before,
        where=inputs.reachable(context),
        edits=edits_of(inputs),
        plinth=inputs.placed.plinth,
        came=None if came is None else (came.tips, came.braces, came.raft),
    )
    progress(0.8, "measuring thickness")
    thin = placed_thin(shelf, inputs)
    progress(0.9, "drawing")
    return held_document(shelf, inputs, context, support_set, thin)


def held_document(
    shelf: Shelf, inputs: HeldInputs, context: Context, support_set: SupportSet, thin: list[ThinPlace]
) -> HeldDoc:
    """Everything that later folds ask of a support set, without its layer stack."""
    proof = support_set.after
    use = process_of(inputs.printer).use_of(support_set.figure, support_set.props, proof, context)
    off = [tip for tip, inside in zip(support_set.tips, support_set.inside, strict=True) if not inside]
    locked = [tip for tip, shut in zip(off, locked_in(support_set.figure, off), strict=True) if shut]
    seen = dataclasses.replace(context, weights=seen_weights(context.weights))
    hazards = ledger(
        proof,
        seen,
        tips=support_set.tips,
        own=support_set.before,
        thin=thin,
        off=off,
        locked=locked,
        figure=support_set.figure,
        strings=use.strings,
        braces=support_set.braces,
    )
    supports = supports_document(support_set, regions_of(support_set, hazards, context))
    figure, weights = support_set.figure, context.weights
    breaking = _breaking(support_set, weights_at(figure, weights, support_set.tips), off)
    scars, lean, foot = (
        weights_at(figure, weights, off),
        mean_lean(figure, seen.weights),
        float(support_set.before.areas[0]),
    )
    packed = Carrying.of(support_set.before, context, inputs.reachable(context)).pack()
    carrying = Carrying.unpack(packed)  # as the trial will read it: to the same bits
    loads = tip_loads(carrying, support_set.before, support_set.tips, context)
    fails = _fails(support_set, carrying, loads.on, hazards, context)
    gift = held_gift(
        off,
        scars,
        lean,
        hazards=hazards,
        use=use,
        context=context,
        foot_mm2=foot,
        braces=support_set.braces,
        fails=fails,
    )
    risk = combined(hazards) if fails is None else sum(fails)
    manner = manner_of(context)
    pitch = manner.pitch_mm(0.0, manner.tip_mm(inputs.held.risk), inputs.held.risk)
    region = regions_of_tips(support_set.tips, pitch)
    row = SupportsRow(
        risk=inputs.held.risk,
        style=inputs.held.style,
        layer_height_mm=context.height,
        edits=[EditDoc.model_validate(row.model_dump()) for row in inputs.held.edits],
        spots=[
            SpotDoc(
                at=(t.x, t.y, t.z),
                reason=t.reason,
                inside=bool(support_set.inside[i]),
                breaks=i in breaking,
                stands_on_figure=t.scars_twice,
                diameter_mm=t.diameter,
                hold_n=float(tip_hold(context, t.diameter)),
                margin=float(loads.margin[i]) if carrying.peeled and np.isfinite(loads.margin[i]) else None,
                component=int(loads.on[i]),
                area_mm2=len(t.cells) * t.cell**2,
                gap_mm=t.gap,
                region=int(region[i]),
            )
            for i, t in enumerate(support_set.tips)
        ],
        tip_count=len(support_set.tips),
        on_model=sum(t.scars_twice for t in off),
        contact_mm2=contact_mm2(support_set.tips),
        off_min=inputs.printer.hands_times * off_minutes(off, scars, inputs.printer.process, support_set.braces),
        braces=len(support_set.braces),
        firm=supports.firm,
        raft=support_set.with_raft,
        footprint_mm=(float(support_set.whole.size[0]), float(support_set.whole.size[1])),
        several_s=list(use.several_s),
        lift_mm=supports.lift_mm,
        volume_ml=supports.volume_ml,
        islands_before=supports.islands_before,
        islands_after=supports.islands_after,
        overhang_after_mm2=supports.overhang_after_mm2,
        findings=[
            *_told_of(support_set, breaking),
            *told_on_faces(off, scars, inputs.printer.process),
            *supports.findings,
        ],
        hazards=[hazard_of(h) for h in hazards],
        strip=strip_document(proof, use, hazards, support_set.tips, context),
        numbers=numbers_of(support_set.figure, seen, use, risk),
        gift=gift_of(gift),
        matrix=inputs.placed.matrix,
        carrying_sha=shelf.put(packed),
        margins_sha=_margins(shelf, inputs, context, support_set, carrying) if carrying.peeled else None,
        wanted=margin_of(context, inputs.held.risk),
        supports_sha=None if support_set.mesh is None else shelf.put(pack_mesh(support_set.mesh)),
        picture_sha=shelf.put(_picture(shelf, inputs, support_set)),
    )
    document = proof_document(
        inputs.basics,
        proof,
        use,
        hazards=hazards,
        context=context,
        raft_mm=RAFT_MM if support_set.with_raft else 0.0,
        risk=risk,
    )
    return HeldDoc(row=row, supports=supports, proof=document)


def _breaking(support_set: SupportSet, costs: NDArray[np.float64], off: Sequence[Tip]) -> list[int]:
    """Tips, by number, that come off and stand on what is marked to fit or to be kept free."""
    comes_off = {id(tip) for tip in off}
    return [k for k, tip in enumerate(support_set.tips) if id(tip) in comes_off and costs[k] >= KEPT_FREE]


def _told_of(support_set: SupportSet, breaking: list[int]) -> list[Finding]:
    """The breach of a person's marks in words, with what it would cost not to."""
    if not breaking:
        return []
    tips = [support_set.tips[k] for k in breaking]
    on = touched(support_set.before, np.array([(t.x, t.y, t.z) for t in tips]))
    alone = [i for i in support_set.before.islands if i.component in set(on.tolist())]
    many = len(tips)
    text = f"{many} tip{' stands' if many == 1 else 's stand'} on what is marked to fit or to be kept free"
    if alone:
        area, high = sum(i.area for i in alone), max(alone_mm(i, support_set.before.stack.grid.height) for i in alone)
        parts = "one part starts" if len(alone) == 1 else f"{len(alone)} parts start"
        text += (
            f": {parts} in mid air there, {area:.1f} mm² in all, and "
            f"grow{'s' * (len(alone) == 1)} alone for up to {high:.1f} mm. "
            "Without these tips they are lost."
            if len(alone) > 1
            else f": {parts} in mid air there, {area:.1f} mm², and "
            f"grows alone for {high:.1f} mm. Without it that is lost."
        )
    else:
        text += ". Without them what hangs there sags."
    place = (tips[0].x, tips[0].y, tips[0].z)
    text += " Turn the figure, take away by hand what stands there, or say that it may."
    return [Finding(code="breaks-marks", severity="severe", count=many, message=text, place=place)]


def _fails(
    support_set: SupportSet, carrying: Carrying, on: NDArray[np.int32], hazards: list[Hazard], context: Context
) -> tuple[float, float] | None:
    """In which share of a thousand trial prints all is lost, or a part, as the fold Proof will tell; None where nothing
    is peeled and chances are all there is.
    """
    if not carrying.peeled:
        return None
    at = np.array([(t.x, t.y, t.z) for t in support_set.tips], float).reshape(-1, 3)
    strength = np.array([float(tip_hold(context, t.diameter)) for t in support_set.tips])
    grid = support_set.after.stack.grid
    tips = OnTrial(at, np.asarray(on, np.int32), strength)
    scatter = context.printer.scatter
    chances, _ = tried(carrying, tips, hazards, layers=grid.layers, height=grid.height, scatter=scatter)
    return chances.all / chances.prints, chances.part / chances.prints


def _margins(shelf: Shelf, inputs: HeldInputs, context: Context, support_set: SupportSet, carrying: Carrying) -> str:
    """The margin map on the shelf: for every corner of what the page turns."""
    _, preview = preview_of(shelf, inputs.given.sha)
    at = inputs.placed.place.apply(preview.scaled(inputs.factor)).vertices
    return shelf.put(pack_values(surface_margins(carrying, support_set.before, support_set.tips, context, at)))


def _picture(shelf: Shelf, inputs: PosedInputs, support_set: SupportSet) -> bytes:
    sketch = coarse_of(shelf, inputs.given.sha)
    figure = inputs.placed.place.apply(sketch.scaled(inputs.factor))
    seen = figure if support_set.mesh is None else Mesh.joined([figure, support_set.mesh])
    groups = np.zeros(len(seen.faces))
    groups[len(figure.faces) :] = 1
    return picture(seen, size=SMALL, groups=groups)


__all__ = ["PlanError", "held_document", "placed_thin", "refuse_nothing", "thin_limits"]
