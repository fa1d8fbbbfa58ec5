"""The inputs of a task as the core's own things: figure, machine, marks, place. Each is made once and stays in memory
for the next task.

`Inputs` open those of a figure, `PosedInputs` those of one in its pose, `HeldInputs` those of one with its supports.
"""

from __future__ import annotations

import hashlib
from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
import orjson
from numpy.typing import NDArray

from ..contract import BasicsDoc, StrokeDoc, basics_of
from ..errors import CoreError
from ..formats import read_whole
from ..layers import Proof, prove
from ..machines import Context, Material, Printer, load_material, load_printer
from ..marks import (
    KINDS,
    gathered,
    nearest_faces,
    replay,
    scar_weights,
    soft_weights,
    strokes_from,
    to_hold,
    underside,
)
from ..mesh import Mesh
from ..pose import Direction, Placement, height_along, placement, unit
from ..pose.place import plinth_under
from ..pose.price import PLINTH_MM, PLINTH_SINK_MM
from ..supports import INSIDE_WEIGHT, Reachable, raised, reachable
from .cut_out import outer_of
from .figure import MadeDoc, coarse_of, file_marks, mirror_of, nearest_of, sized, working
from .given import BodyGiven, FigureGiven, HeldGiven, LookGiven, PosedGiven
from .look import faced, look_of
from .marks import proposed
from .shelf import Shelf
from .tasks import computed

PLINTH_WEIGHT = 0.2
"""What a scar costs on a plinth: as on what is hidden."""
SHOW = KINDS.index("show") + 1
U1 = NDArray[np.uint8]
F8 = NDArray[np.float64]
LOOKED = tuple(LookGiven.model_fields)
FIGURE = tuple(FigureGiven.model_fields)
PLACED = ("down", "plinth", "hollow")


@dataclass(frozen=True)
class Placed:
    """A figure in build coordinates, raised where it hangs; the way there from the figure at its size, and the matrix
    from its file.

    `plinth`: what it stands on, where the pose wants one; `whole` has both in one mesh, the plinth's faces last.
    """

    figure: Mesh
    place: Placement
    matrix: list[float]
    plinth: Mesh | None = None

    @cached_property
    def whole(self) -> Mesh:
        """Figure and plinth."""
        return self.figure if self.plinth is None else Mesh.joined([self.figure, self.plinth])


def matrix_of(place: Placement, factor: float) -> list[float]:
    """Column-major 4 x 4 from the file's frame to build coordinates, as the page's renderer takes it."""
    whole = np.eye(4)
    whole[:3, :3] = place.turn * factor
    whole[:3, 3] = place.shift
    return [float(v) for v in whole.T.ravel()]


class Inputs:
    """What a task was given of a figure, opened on demand."""

    def __init__(self, shelf: Shelf, given: FigureGiven) -> None:
        self.shelf, self.given = shelf, given

    @cached_property
    def file(self) -> Mesh:
        """The working mesh in its file's frame."""
        return working(self.shelf, self.given.sha).mesh

    @cached_property
    def factor(self) -> float:
        """From the file's numbers to mm."""
        return float(self.given.factor)

    @cached_property
    def figure(self) -> Mesh:
        """The working mesh at its printed size."""
        return sized(self.shelf, self.given)

    @cached_property
    def up(self) -> Direction:
        """Which way of the file's frame is up."""
        return unit(self.given.up)

    @cached_property
    def front(self) -> Direction:
        """Where the figure faces: as it was turned, else as it looks."""
        said = self.given.front
        if said is not None:
            return unit(said)
        return faced(self.shelf, self.given.sha, self.up, faceless=self.given.faceless)

    @cached_property
    def tall(self) -> float:
        """The figure's height along its own up."""
        return self.factor * height_along(self.file.vertices, self.up)

    @cached_property
    def basics(self) -> BasicsDoc:
        """What is measured of the figure at its size."""
        return self.shelf.memory.recall(self._key("basics", "sha", "factor"), lambda: basics_of(self.figure))

    @cached_property
    def printer(self) -> Printer:
        """The printer."""
        return load_printer(self.given.printer)

    @cached_property
    def material(self) -> Material:
        """The material."""
        return load_material(self.given.material, self.printer)

    @cached_property
    def labels(self) -> U1 | None:
        """Marks of the working mesh's faces by the plan's strokes; None where there are none."""
        rows = self.given.strokes
        return (
            None
            if not rows
            else self.shelf.memory.recall(
                self._key("labels", *LOOKED, "strokes", "marks_of"), lambda: self._replayed(rows)
            )
        )

    def _replayed(self, rows: Sequence[StrokeDoc]) -> U1:
        strokes = strokes_from([row.model_dump(exclude_none=True) for row in rows])
        faces = proposed(self.shelf, self.given) if any(s.tool == "propose" for s in strokes) else None
        plane = mirror_of(self.shelf, self.given.sha) if any(s.mirror for s in strokes) else None
        own = next((s.what for s in strokes if s.tool == "file"), None)
        return replay(
            self.file,
            strokes,
            faces,
            plane,
            None if own is None else file_marks(self.shelf, own, self.given.marks_of or self.given.sha, self.given.sha),
        )

    @cached_property
    def soft(self) -> F8:
        """What a scar costs on each face where nobody has marked anything: by how much people look at it."""
        return self.shelf.memory.recall(self._key("soft", *LOOKED), self._said)

    def _said(self) -> F8:
        sha = self.given.sha
        near, look = nearest_of(self.shelf, sha), look_of(self.shelf, self.given)
        told = proposed(self.shelf, self.given)
        under = underside(coarse_of(self.shelf, sha), self.given.up, look.sight)[near]
        # A peg is low and unseen, and is what must not be scarred.
        return soft_weights(look.importance[near], told["cuts"], under & ~told["fits"])

    def context(self, height: float | None = None) -> Context:
        """Machine, material, layer height (the given one, else the task's, else the customary), and what the marks
        say.
        """
        context = Context.of(self.printer, self.material, self.height if height is None else height)
        return Context(context.printer, context.material, context.height, self.weights, self.hold)

    @property
    def height(self) -> float | None:
        """Of a layer, where the task is given one."""
        return None

    @cached_property
    def weights(self) -> F8 | None:
        """What a scar costs on each face: by the marks where there are any, else softly by the figure's own word,
        unless it is bare.
        """
        soft = None if self.given.bare else self.soft
        if self.labels is None:
            return soft
        painted = scar_weights(self.labels)
        if soft is None:
            return painted
        # A face that is shown is dearer than what else is.
        dearest = np.where(self.labels == SHOW, np.maximum(painted, soft), painted)
        return np.where(self.labels > 0, dearest, soft)

    @cached_property
    def light(self) -> F8 | None:
        """`weights` on the coarse copy."""
        if self.weights is None:
            return None
        sha = self.given.sha
        return gathered(self.file, self.weights, nearest_of(self.shelf, sha), coarse_of(self.shelf, sha))

    @cached_property
    def hold(self) -> NDArray[np.bool_] | None:
        """Faces that are to be held."""
        return None if self.labels is None else to_hold(self.labels)

    def placed_as(self, down: Sequence[float]) -> Placement:
        """The figure's way to the plate with `down` downwards, not raised."""
        x, y, z = (float(v) for v in down)
        return placement(self.figure, (x, y, z), self.printer.build_mm, self.printer.name)

    def matrix_as(self, down: Sequence[float]) -> list[float]:
        """`placed_as` from its file's frame, as the page's renderer takes it."""
        return matrix_of(self.placed_as(down), self.factor)

    def _key(self, kind: str, *names: str) -> tuple[Hashable, ...]:
        own = {name: value for name, value in self._plain.items() if name in names}
        return kind, hashlib.sha256(orjson.dumps(own, option=orjson.OPT_SORT_KEYS)).hexdigest()

    @cached_property
    def _plain(self) -> dict[str, Any]:
        return self.given.plain()


class PosedInputs(Inputs):
    """What a task was given of a figure in its pose."""

    def __init__(self, shelf: Shelf, given: PosedGiven) -> None:
        super().__init__(shelf, given)
        self.posed = given

    def placed_context(self, height: float | None = None) -> Context:
        """`context` for the placed figure with its plinth, whose faces nobody sees."""
        context, plinth = self.context(height), self.placed.plinth
        if self.posed.hollow is not None:
            unsaid = np.ones(len(self.figure.faces)) if context.weights is None else context.weights
            weights: F8 | None = self.carried(unsaid, INSIDE_WEIGHT)
            hold = None if context.hold is None else self.carried(context.hold, False)
            context = replace(context, weights=weights, hold=hold)
        if plinth is None:
            return context
        more = len(plinth.faces)
        weights = None if context.weights is None else np.concatenate([context.weights, np.full(more, PLINTH_WEIGHT)])
        hold = None if context.hold is None else np.concatenate([context.hold, np.zeros(more, np.bool_)])
        return replace(context, weights=weights, hold=hold)

    @cached_property
    def placed(self) -> Placed:
        """The figure on its way to the plate: where it hangs, raised."""
        return self.shelf.memory.recall(self._key("placed", "sha", "factor", "printer", *PLACED), self._place)

    @cached_property
    def body(self) -> Mesh:
        """What is printed, at its size in its file's frame: the figure, or what is left of it where it is hollowed."""
        if self.posed.hollow is None:
            return self.figure
        body = BodyGiven(sha=self.given.sha, factor=self.factor, hollow=self.posed.hollow)
        sha = computed(self.shelf, "body", body, MadeDoc).sha
        return self.shelf.memory.recall(("body", sha), lambda: read_whole(self.shelf.get(sha)))

    @cached_property
    def on_body(self) -> NDArray[np.int64]:
        """For each face of the body the figure's face that it is or lies on, -1 for what looks into a cavity."""

        cut = self.posed.hollow
        assert cut is not None

        def found() -> NDArray[np.int64]:
            # What was cut away left every corner of the outside as it was; a cavity and its bores have none of them.
            corners, ours = (_as_keys(m.vertices) for m in (outer_of(self.shelf, self.given, cut), self.body))
            outside = np.isin(ours, corners)[self.body.faces].any(axis=1)
            return np.where(outside, nearest_faces(self.figure, self.body), -1)

        return self.shelf.memory.recall(self._key("on_body", "sha", "factor", "hollow"), found)

    def carried(self, values: NDArray[Any], inside: Any) -> NDArray[Any]:
        """Values of the figure's faces on the body's; `inside` for those that look into a cavity."""
        if self.posed.hollow is None:
            return values
        return np.where(self.on_body >= 0, values[np.maximum(self.on_body, 0)], inside)

    def _place(self) -> Placed:
        printer, down = self.printer, self.posed.down
        try:
            place = placement(self.figure, down, printer.room_mm, printer.name)
        except CoreError as tight:
            if tight.code != "does-not-fit":
                raise
            place = placement(
                self.figure, down, printer.build_mm, printer.name
            )  # without room for supports all round; the proof says so
        flat = place.apply(self.figure)
        side = self.posed.plinth
        lift = PLINTH_MM - PLINTH_SINK_MM if side else float(raised(flat, printer).lower[2])
        place = place.raised(max(0.0, lift))
        figure = place.apply(self.body) if lift > 0 or self.body is not self.figure else flat
        return Placed(figure, place, matrix_of(place, self.factor), plinth_under(flat, side) if side else None)

    def before(self, context: Context) -> Proof:
        """The placed figure's own proof at a layer height, without supports."""
        key = self._key("before", "sha", "factor", "printer", "material", *PLACED)
        return self.shelf.memory.recall(
            (*key, context.height),
            lambda: prove(self.placed.whole, context.height, context.reach, bridge=context.bridge),
        )

    def reachable(self, context: Context) -> Reachable:
        """Where tips can push against the placed figure at a layer height, by its marks."""
        key = self._key("reachable", *FIGURE, *PLACED)
        before = self.before(context)
        return self.shelf.memory.recall((*key, context.height), lambda: reachable(self.placed.whole, before, context))


class HeldInputs(PosedInputs):
    """What a task was given of a figure with its supports."""

    def __init__(self, shelf: Shelf, given: HeldGiven) -> None:
        super().__init__(shelf, given)
        self.held = given

    @property
    def height(self) -> float:
        """Of a layer."""
        return self.held.height


def _as_keys(vertices: F8) -> NDArray[Any]:
    """Points (n, 3) as one comparable thing each, to 32 bits."""
    whole = np.ascontiguousarray(vertices.astype(np.float32) + np.float32(0.0))
    return whole.view([("", np.float32)] * 3).ravel()
