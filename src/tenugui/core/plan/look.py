"""What people look at on a figure: its faces, its front, and the importance of every part of its surface."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from ..contract import FaceDoc, FacesDoc, Finding, FrontDoc, LookDoc, pack_values, triple, unpack_values
from ..look import Face, Look, find_faces, look_at, saliency
from ..marks import KEPT_FREE
from ..marks.propose import FACE_WEIGHT
from ..pose import Direction, front_of, unit
from ..supports import Tip, tip_minutes
from .figure import MadeDoc, coarse_of, mirror_of
from .given import FacedGiven, LookGiven, MeshGiven, UpGiven
from .shelf import Shelf
from .tasks import Progress, computed, quiet, task

F8 = NDArray[np.float64]
SAME_FRONT = 1 - 1e-6


@task("faces", UpGiven, FacesDoc, rests_on=("coarse",))
def faces(shelf: Shelf, given: UpGiven, progress: Progress) -> FacesDoc:
    """Faces that views from all around agree on, for a figure that stands as `up` says."""
    progress(0.1, "looking for faces")
    faces = find_faces(coarse_of(shelf, given.sha), unit(given.up))
    return FacesDoc(faces=[FaceDoc.of(face) for face in faces])


def faces_of(shelf: Shelf, sha: str, up: Direction) -> list[Face]:
    """The faces of a figure that stands on `up`, in its file's frame and unit."""
    return [face.face() for face in computed(shelf, "faces", UpGiven(sha=sha, up=up), FacesDoc).faces]


@task("salient", MeshGiven, MadeDoc, rests_on=("coarse",))
def salient(shelf: Shelf, given: MeshGiven, progress: Progress) -> MadeDoc:
    """Saliency of the coarse copy's faces."""
    return MadeDoc(sha=shelf.put(pack_values(saliency(coarse_of(shelf, given.sha)))))


def salient_of(shelf: Shelf, sha: str) -> F8:
    """Saliency of the coarse copy's faces."""
    return shelf.memory.recall(
        ("salient", sha),
        lambda: unpack_values(shelf.get(computed(shelf, "salient", MeshGiven(sha=sha), MadeDoc).sha)),
    )


@task("faced", FacedGiven, FrontDoc, rests_on=("coarse", "faces", "salient"))
def faced_task(shelf: Shelf, given: FacedGiven, progress: Progress) -> FrontDoc:
    """Where a figure that stands on `up` faces by itself; `faceless`: what is taken for a face is none."""
    sha, up = given.sha, unit(given.up)
    seen = [] if given.faceless else faces_of(shelf, sha, up)
    return FrontDoc(
        front=triple(front_of(coarse_of(shelf, sha), up, mirror_of(shelf, sha), seen, salient_of(shelf, sha)))
    )


def faced(shelf: Shelf, sha: str, up: Direction, *, faceless: bool = False) -> Direction:
    """Where a figure that stands on `up` faces by itself."""
    return computed(shelf, "faced", FacedGiven(sha=sha, up=up, faceless=faceless), FrontDoc).front


@task("looked", LookGiven, LookDoc, rests_on=("coarse", "faces", "salient", "faced"))
def looked(shelf: Shelf, given: LookGiven, progress: Progress) -> LookDoc:
    """Sight with the front counted, saliency, and the faces that were found, as one importance. `front`: as it was
    turned by hand; `faceless`: a person's word that it has no face.
    """
    sha, up = given.sha, unit(given.up)
    progress(0.05, "looking for faces")
    faceless = given.faceless
    faces = [] if faceless else faces_of(shelf, sha, up)
    front = unit(given.front) if given.front else faced(shelf, sha, up, faceless=faceless)
    look = look_at(
        coarse_of(shelf, sha),
        up,
        front,
        faces,
        salient=salient_of(shelf, sha),
        progress=lambda share: progress(0.3 + 0.7 * share, "looking at it from around the table"),
    )
    return LookDoc(
        front=triple(front),
        faces=[FaceDoc.of(face) for face in look.faces],
        importance_sha=shelf.put(pack_values(look.importance)),
        sight_sha=shelf.put(pack_values(look.sight)),
    )


def told_on_faces(tips: Sequence[Tip], costs: F8, process: str) -> list[Finding]:
    """Tips on a face in words, with their price: `costs` (n,) is what a scar costs at each."""
    on = [k for k, cost in enumerate(costs) if FACE_WEIGHT <= cost < KEPT_FREE]
    if not on:
        return []
    there = [tips[k] for k in on]
    dearer = float((tip_minutes(there, costs[on], process) - tip_minutes(there, np.ones(len(on)), process)).sum())
    many = "A tip touches" if len(on) == 1 else f"{len(on)} tips touch"
    text = (
        f"{many} the face: about {max(1, round(dearer))} minutes of sanding more than elsewhere. "
        "Another pose may spare it; in Marks you can say that it is no face."
    )
    first = there[0]
    return [
        Finding(code="tip-on-face", severity="warning", count=len(on), message=text, place=(first.x, first.y, first.z))
    ]


def turned_only(shelf: Shelf, given: LookGiven) -> LookGiven:
    """The inputs without a front that is the figure's own: it is looked at once, whether that was said or not."""
    if given.front is None:
        return given.to(LookGiven)
    up = unit(given.up)
    own = faced(shelf, given.sha, up, faceless=given.faceless)
    same = float(np.dot(own, unit(given.front))) > SAME_FRONT
    return given.to(LookGiven, front=None) if same else given.to(LookGiven)


def look_of(shelf: Shelf, given: LookGiven, progress: Progress = quiet) -> Look:
    """What people look at, by the faces of the figure's coarse copy."""
    document = computed(shelf, "looked", turned_only(shelf, given), LookDoc, progress)
    importance, sight = (unpack_values(shelf.get(sha)) for sha in (document.importance_sha, document.sight_sha))
    return Look(importance, sight, tuple(doc.face() for doc in document.faces))
