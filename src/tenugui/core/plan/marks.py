"""The fold Marks: what the figure says of itself, whole and on the preview."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..contract import ProposalDoc, ProposalsDoc, pack_labels, plane_of, unpack_labels
from ..marks import PROPOSALS, propose, transfer
from ..pose import Z_UP, unit
from .figure import SAID, MadeDoc, coarse_of, file_marks, mirror_of, nearest_of, preview_of, working
from .shelf import Shelf
from .tasks import Given, Progress, computed, quiet, task, within

B1 = NDArray[np.bool_]


def _packed(found: dict[str, B1]) -> NDArray[np.uint8]:
    """A bit a proposal for every face."""
    bits: Any = np.bitwise_or.reduce([found[name].astype(np.uint8) << index for index, name in enumerate(PROPOSALS)])
    return np.asarray(bits, np.uint8)


@task("proposed", ("sha", "up"), MadeDoc, rests_on=("coarse",))
def proposed_task(shelf: Shelf, given: Given, progress: Progress) -> MadeDoc:
    """Each proposal's faces, made once for every mesh."""
    mesh = working(shelf, given["sha"]).mesh
    found = propose(
        mesh,
        lambda share: progress(share, "looking at it from around the table"),
        coarse=coarse_of(shelf, given["sha"]),
        up=unit(given.get("up", Z_UP)),
        near=nearest_of(shelf, given["sha"]),
    )
    return MadeDoc(sha=shelf.put(pack_labels(_packed(found.faces))))


def _bits(shelf: Shelf, given: Given, progress: Progress = quiet) -> NDArray[np.uint8]:
    return unpack_labels(shelf.get(computed(shelf, "proposed", given, MadeDoc, progress).sha))


def proposed(shelf: Shelf, given: Given) -> dict[str, B1]:
    """Each proposal's faces of the working mesh `sha` that stands as `up` says."""
    bits = _bits(shelf, given)
    return {name: (bits >> index) & 1 == 1 for index, name in enumerate(PROPOSALS)}


@task("proposals", ("sha", "up", "marks", "marks_of"), ProposalsDoc, rests_on=("proposed", "preview"))
def proposals(shelf: Shelf, given: Given, progress: Progress) -> ProposalsDoc:
    """What might be marked: a bit a proposal for every face of the preview; the mirror's plane; what the file itself
    marks.
    """
    progress(0.02, "reading the figure")
    mesh = working(shelf, given["sha"]).mesh
    preview_sha, preview = preview_of(shelf, given["sha"])
    bits = _bits(shelf, given, within(progress, 0.1, 0.8))
    progress(0.85, "looking for its mirror")
    own = None
    if "marks" in given:
        own = transfer(mesh, file_marks(shelf, given["marks"], given), preview)
    _, area = mesh.normals_and_areas()
    total = max(float(area.sum()), 1e-12)
    shares = {name: float(area[(bits >> index) & 1 == 1].sum()) / total for index, name in enumerate(PROPOSALS)}
    return ProposalsDoc(
        proposals=[
            ProposalDoc(name=name, kind=kind, share=shares[name], soft=(name, kind) in SAID)
            for name, kind in PROPOSALS.items()
        ],
        plane=plane_of(mirror_of(shelf, given["sha"])),
        preview_sha=preview_sha,
        labels_sha=shelf.put(pack_labels(transfer(mesh, bits, preview))),
        file_sha=None if own is None else shelf.put(pack_labels(own)),
    )
