"""The computations behind the folds. Each takes its inputs and a way to report progress, and returns a document."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import asdict
from typing import Any

import numpy as np

from ..core.choice import compare_heights, cusp_quantiles, use_of
from ..core.contract import (
    PREVIEW_FACES,
    cuts_document,
    health_document,
    layers_document,
    map_document,
    pack_labels,
    pack_mesh,
    pack_values,
    pose_document,
    proof_document,
    repair_document,
    run_sheet_for,
    strip_document,
    supports_document,
    unpack_labels,
    unpack_mesh,
    unpack_values,
)
from ..core.contract.documents import hazard_row, island_row, material_row
from ..core.contract.plan import thin_parts
from ..core.errors import CoreError
from ..core.formats import NO_LIMITS, load, pack_whole, read_whole, write_3mf, write_run_sheet, write_stl
from ..core.layers import cut, grid_for, prove
from ..core.machines import (
    Material,
    Printer,
    allowed_step,
    default_height,
    load_material,
    load_printer,
    printer_heights,
    thin_limits,
    weak_parts,
)
from ..core.marks import PROPOSALS, mirror_plane, propose, replay, scar_weights, strokes_from, to_hold, transfer
from ..core.mesh import Mesh, ThinPlace, decimate, examine, local_thickness, picture, thin_places, vertex_thickness
from ..core.pose import Placement, PoseTable, Search, hull_points, placement, rank_poses, search_poses, wish_of
from ..core.repair import find_props, repair, without_faces
from ..core.risk import combined, ledger
from ..core.supports import SupportSet, make_supports, raised
from ..store import blobs, jobs
from ..store.db import Store, StoreError
from .inputs import key_of

Document = dict[str, Any]
Progress = Callable[[float, str], None]
PICTURE_FACES = 60_000
RIBBON = 300
"""Columns of a before-and-after ribbon."""
RISKS = (0.01, 0.05, 0.2)
"""The three accepted risks that the supports board compares."""


def _figure(store: Store, given: Document) -> Mesh:
    mesh = load(io.BytesIO(blobs.get(store, given["sha"])), NO_LIMITS)
    return mesh.scaled(given["factor"]) if "factor" in given else mesh


def _machine(given: Document) -> tuple[Printer, Material]:
    printer = load_printer(given["printer"])
    return printer, load_material(given["material"], printer)


def _matrix(place: Placement, factor: float) -> list[float]:
    """Column-major 4x4 from the file's frame to build coordinates, as the page's renderer takes it."""
    whole = np.eye(4)
    whole[:3, :3] = place.turn * factor
    whole[:3, 3] = place.shift
    return [float(v) for v in whole.T.ravel()]


def intake(store: Store, given: Document, progress: Progress) -> Document:
    """What came in: health, the preview the page turns, a picture, and the upright outline."""
    progress(0.05, "reading the file")
    mesh = _figure(store, given)
    progress(0.2, "examining the surface")
    document = health_document(examine(mesh))
    progress(0.5, "making the preview")
    preview = decimate(mesh, PREVIEW_FACES)
    document["preview_sha"] = blobs.put_bytes(store, pack_mesh(preview))
    progress(0.7, "looking for supports and cut faces")
    props = find_props(mesh)
    document["props"] = None if props is None else {"count": props.count, "raft": props.raft, "told_by": props.told_by}
    document["cuts"] = cuts_document(mesh)
    document["hull"] = hull_points(mesh).round(5).tolist()
    progress(0.85, "drawing")
    document["picture_sha"] = blobs.put_bytes(store, picture(preview, size=(220, 260)))
    document["silhouette_sha"] = blobs.put_bytes(store, picture(preview, size=(220, 260), azimuth=-90, elevation=0))
    document["lower"] = mesh.lower.tolist()
    return document


def _sections(mesh: Mesh) -> Document:
    """The ribbon of a figure as it stands in its file: section by height, in the file's units."""
    placed = mesh.dropped()
    height = float(placed.size[2]) / RIBBON
    stack = cut(placed, grid_for(placed, height, max(height / 2, float(placed.size[:2].max()) / 1500)))
    return {"layer_height_mm": height, "area_mm2": stack.areas().round(5).tolist(), "base": float(mesh.lower[2])}


def mend(store: Store, given: Document, progress: Progress) -> Document:
    """A copy of the figure: repaired, united, remeshed, or bared of the supports it came with; and what was changed."""
    progress(0.05, "reading the file")
    mesh = start = _figure(store, given)
    way = given["way"]
    gone = np.zeros(len(mesh.faces), np.bool_)
    if way == "bare":
        props = find_props(mesh)
        if props is None:
            raise CoreError("no-supports", "No supports were found on this figure.", remedy="Repair it instead.")
        gone = props.faces
        mesh = without_faces(mesh, gone)
    progress(0.2, "mending")
    done = repair(mesh, join_shells=way == "united", last_resort=way == "remeshed")
    progress(0.6, "reading both figures' sections")
    changed = Mesh(done.mesh.vertices, done.mesh.faces[done.new]) if done.new.any() and not done.new.all() else None
    taken = Mesh(start.vertices, start.faces[gone]) if gone.any() else None
    preview = decimate(done.mesh, PREVIEW_FACES)
    document = {"schema": "tenugui/mend@1", "way": way, **repair_document(done), "before": _sections(start), "after": _sections(done.mesh)}
    progress(0.85, "making the preview")
    document |= {
        "findings": health_document(examine(done.mesh))["findings"],
        "sha": blobs.put_bytes(store, pack_whole(done.mesh)) if done.mesh is not start else given["sha"],
        "preview_sha": blobs.put_bytes(store, pack_mesh(preview)),
        "changed_sha": blobs.put_bytes(store, pack_mesh(changed)) if changed else None,
        "taken_sha": blobs.put_bytes(store, pack_mesh(taken)) if taken else None,
        "lower": done.mesh.lower.tolist(),
    }
    return document


def weak(store: Store, given: Document, progress: Progress) -> Document:
    """Parts too thin to survive at the printed size, with what would cure each; and the thickness that the turntable dyes."""
    progress(0.1, "reading the figure")
    figure = _figure(store, given)
    printer = load_printer(given["printer"])
    progress(0.3, "measuring thickness")
    limits = thin_limits(printer)
    widest = max(limits.values())
    places = thin_places(figure, local_thickness(figure, beyond=widest), widest)
    progress(0.7, "dyeing the preview")
    preview = unpack_mesh(blobs.get(store, given["preview_sha"])).scaled(given["factor"])
    found = weak_parts(places, printer, float(figure.size[2]))
    rows = [{**asdict(w.place), "limit": w.limit, "scale": w.scale, "remedies": w.remedies} for w in found]
    return {
        "schema": "tenugui/weak@1",
        "limits": limits,
        "parts": rows,
        "cure": max((w.scale for w in found), default=1.0),
        "thickness_sha": blobs.put_bytes(store, pack_values(vertex_thickness(preview, beyond=3 * widest))),
    }


def _numbers(figure: Mesh, height: float, risk: float, time_s: float, cost: float, material: Document) -> Document:
    """The four running figures of an alternative, and what they stand on."""
    return {
        "finish_mm": cusp_quantiles(figure)[1] * height,
        "risk": risk,
        "time_s": time_s,
        "cost": cost,
        **{k: material[k] for k in ("volume_ml", "mass_g")},
    }


def pose(store: Store, given: Document, progress: Progress) -> Document:
    """Four poses, and those that the user pinned, each with a full layer stack: islands, cups, pull and time, and its ribbon; and the map."""
    file = _figure(store, {"sha": given["sha"]})
    mesh = file.scaled(given["factor"])
    printer, material = _machine(given)
    progress(0.05, "reading the marks" if given.get("strokes") else "reading the figure")
    weights = _marked(_labels(store, given, file)).get("weights")
    progress(0.1, "weighing some 1,000 directions")
    wish = wish_of(printer, given.get("priorities"))
    search = searched(store, given, mesh, weights)
    pinned = [(float(x), float(y), float(z)) for x, y, z in given.get("pinned", [])]
    choice = rank_poses(mesh, search, printer, 4, weights, wish, pinned)
    document = pose_document(choice) | {"map": map_document(search, choice.on_front, wish)}
    height = default_height(printer)
    coarse = decimate(mesh, PICTURE_FACES)
    for index, (candidate, row) in enumerate(zip(choice.candidates, document["candidates"], strict=True)):
        progress(0.4 + 0.14 * index, f"reading every layer of pose {index + 1} of {len(choice.candidates)}")
        place = placement(mesh, candidate.down, printer)
        figure = place.apply(mesh)
        proof = prove(figure, height, allowed_step(printer, material, height))
        use = use_of(proof.stack, proof.areas, printer, material)
        hazards = ledger(proof, printer, material, [], False, [])
        row |= {
            "matrix": _matrix(place, given["factor"]),
            "islands": [island_row(i) for i in proof.islands],
            "sealed_mm3": sum(s.volume for s in proof.voids.sealed),
            "overhang_mm2": proof.hang.total,
            "peak_area_mm2": float(proof.areas.max()),
            "strip": strip_document(proof, use, hazards, [], printer, material),
            "numbers": _numbers(figure, height, combined(hazards), use.time_s, use.cost, material_row(use)) | {"unheld": True},
            "picture_sha": blobs.put_bytes(store, picture(place.apply(coarse), size=(112, 112))),
        }
    return document


def _labels(store: Store, given: Document, file: Mesh) -> np.ndarray[Any, Any] | None:
    """Marks of the faces of the file's mesh by the plan's strokes; None where there are none."""
    rows = given.get("strokes")
    if not rows:
        return None
    strokes = strokes_from(rows)
    faces = _proposed(store, given["sha"], file) if any(s.tool == "propose" for s in strokes) else None
    plane = mirror_plane(file) if any(s.mirror for s in strokes) else None
    own = next((s.what for s in strokes if s.tool == "file"), None)
    return replay(file, strokes, faces, plane, None if own is None else _file_marks(store, own, given["marks_of"], given["sha"], file))


def _file_marks(store: Store, sha: str, original: str, here: str, mesh: Mesh) -> np.ndarray[Any, Any]:
    """The labels that the figure's own file gave, carried to a mended copy where the plan has taken one."""
    labels = unpack_labels(blobs.get(store, sha))
    return labels if here == original else transfer(_figure(store, {"sha": original}), labels, mesh)


def _marked(labels: np.ndarray[Any, Any] | None) -> dict[str, np.ndarray[Any, Any]]:
    """What supports and heights are told of the marks: the cost of a scar and what is to be held; nothing where nothing is marked."""
    return {} if labels is None else {"weights": scar_weights(labels), "hold": to_hold(labels)}


def _packed(found: dict[str, np.ndarray[Any, Any]]) -> np.ndarray[Any, Any]:
    """A bit a proposal for every face."""
    return np.bitwise_or.reduce([found[name].astype(np.uint8) << index for index, name in enumerate(PROPOSALS)])


def _proposed(
    store: Store, sha: str, file: Mesh, progress: Callable[[float], None] = lambda share: None
) -> dict[str, np.ndarray[Any, Any]]:
    """Each proposal's faces, made once for every mesh."""
    key = key_of("proposed", {"sha": sha})
    document = jobs.result(store, key)
    if document is None:
        found = propose(file, progress).faces
        jobs.keep_result(store, key, "proposed", {"sha": blobs.put_bytes(store, pack_labels(_packed(found)))})
        return found
    bits = unpack_labels(blobs.get(store, document["sha"]))
    return {name: (bits >> index) & 1 == 1 for index, name in enumerate(PROPOSALS)}


def proposals(store: Store, given: Document, progress: Progress) -> Document:
    """What might be marked: a bit a proposal for every face, of the whole mesh and of the preview; and the mirror's plane."""
    progress(0.02, "reading the figure")
    file = _figure(store, given)
    preview = decimate(file, PREVIEW_FACES)
    found = _proposed(store, given["sha"], file, lambda share: progress(0.1 + 0.7 * share, "looking at it from around the table"))
    bits = _packed(found)
    progress(0.85, "looking for its mirror")
    own = None
    if "marks" in given:
        own = transfer(file, _file_marks(store, given["marks"], given["marks_of"], given["sha"], file), preview)
    plane = mirror_plane(file)
    _, area = file.normals_and_areas()
    total = max(float(area.sum()), 1e-12)
    return {
        "schema": "tenugui/proposals@1",
        "proposals": [{"name": n, "kind": k, "share": float(area[found[n]].sum()) / total} for n, k in PROPOSALS.items()],
        "plane": None if plane is None else asdict(plane),
        "preview_sha": blobs.put_bytes(store, pack_mesh(preview)),
        "labels_sha": blobs.put_bytes(store, pack_labels(transfer(file, bits, preview))),
        "file_sha": None if own is None else blobs.put_bytes(store, pack_labels(own)),
    }


SEARCHED = ("sha", "factor", "printer", "material", "strokes")
"""What a search for poses depends on; priorities only rank what it found."""


def searched(store: Store, given: Document, mesh: Mesh | None = None, weights: np.ndarray[Any, Any] | None = None) -> Search:
    """The search for poses of these inputs, kept; made with `mesh` (at its size) and its scar weights where it is not there yet."""
    own = {name: given[name] for name in SEARCHED if name in given}
    key = key_of("search", own)
    printer, material = _machine(given)
    document = jobs.result(store, key)
    if document is None:
        if mesh is None:
            raise StoreError("not-computed", "The poses have not been searched yet.", "Open the fold Pose and wait for them.", 409)
        made = search_poses(mesh, printer, material, weights=weights)
        document = {
            "down": made.table.down.round(9).tolist(),
            "aims": made.table.aims.tolist(),
            "fits": made.fits.tolist(),
            "coarse_sha": blobs.put_bytes(store, pack_whole(made.coarse)),
            "weights_sha": None if made.weights is None else blobs.put_bytes(store, pack_values(made.weights)),
            "limit_angle": made.limit_angle,
        }
        jobs.keep_result(store, key, "search", document)
        return made
    light = None if document["weights_sha"] is None else unpack_values(blobs.get(store, document["weights_sha"]))
    return Search(
        PoseTable(np.array(document["down"]), np.array(document["aims"])),
        np.array(document["fits"], np.bool_),
        read_whole(blobs.get(store, document["coarse_sha"])),
        light,
        document["limit_angle"],
    )


def _support_row(
    store: Store, supports: SupportSet, printer: Printer, material: Material, height: float, matrix: list[float], thin: list[ThinPlace]
) -> Document:
    proof = supports.after
    use = use_of(proof.stack, proof.areas, printer, material)
    lifted = bool(supports.figure.lower[2] > 0)
    hazards = ledger(proof, printer, material, supports.tips, lifted, thin)
    row = supports_document(supports)
    row["tip_count"] = len(row["tips"])
    row["on_model"] = sum(t["on"] == "model" for t in row.pop("tips"))
    row["contact_mm2"] = float(sum(np.pi * t.diameter**2 / 4 for t in supports.tips))
    coarse = decimate(supports.figure, PICTURE_FACES)
    seen = coarse if supports.mesh is None else Mesh.joined([coarse, supports.mesh])
    groups = np.zeros(len(seen.faces))
    groups[len(coarse.faces) :] = 1
    return row | {
        "strip": strip_document(proof, use, hazards, supports.tips, printer, material),
        "hazards": [hazard_row(h) for h in hazards],
        "numbers": _numbers(supports.figure, height, combined(hazards), use.time_s, use.cost, material_row(use)),
        "supports_sha": blobs.put_bytes(store, pack_mesh(supports.mesh)) if supports.mesh is not None else None,
        "matrix": matrix,
        "picture_sha": blobs.put_bytes(store, picture(seen, size=(112, 112), groups=groups)),
    }


def _placed(store: Store, given: Document) -> tuple[Mesh, Printer, Material, list[float], np.ndarray[Any, Any] | None]:
    """The posed figure, raised where it hangs on its supports, the matrix that puts the file there, and the marks on it."""
    file = _figure(store, {"sha": given["sha"]})
    mesh = file.scaled(given["factor"])
    printer, material = _machine(given)
    place = placement(mesh, given["down"], printer)
    figure = raised(place.apply(mesh), printer)
    return figure, printer, material, _matrix(place.raised(max(0.0, float(figure.lower[2]))), given["factor"]), _labels(store, given, file)


def supports(store: Store, given: Document, progress: Progress) -> Document:
    """Three support sets, from held by all means to as few as hold, each proved."""
    progress(0.02, "posing the figure")
    figure, printer, material, matrix, labels = _placed(store, given)
    marked = _marked(labels)
    height = given["height"]
    before = prove(figure, height, allowed_step(printer, material, height))
    progress(0.1, "measuring thickness")
    thin = thin_parts(figure, printer)
    rows = []
    for index, risk in enumerate(RISKS):
        progress(0.2 + 0.26 * index, f"placing and proving supports, set {index + 1} of {len(RISKS)}")
        made = make_supports(figure, printer, material, height, risk, before=before, **marked)
        rows.append({"risk": risk, **_support_row(store, made, printer, material, height, matrix, thin)})
    return {"schema": "tenugui/supports-board@1", "choices": rows, "recommended": 1, "layer_height_mm": height}


def layers(store: Store, given: Document, progress: Progress) -> Document:
    """Four layer heights of the supported figure, cut and compared."""
    progress(0.05, "placing supports")
    figure, printer, material, matrix, labels = _placed(store, given)
    marked = _marked(labels)
    made = make_supports(figure, printer, material, given["height"], given["risk"], **marked)
    progress(0.3, "measuring thickness")
    thin = thin_parts(made.figure, printer)
    offered = printer_heights(printer)
    heights = compare_heights(
        made.figure,
        printer,
        material,
        offered,
        given["risk"],
        thin,
        lambda done: progress(0.4 + 0.6 * done / len(offered), f"supporting and cutting at {sorted(offered)[done]:g} mm"),
        **marked,
    )
    document = layers_document(heights)
    base = _support_row(store, made, printer, material, given["height"], matrix, thin)
    for row, choice in zip(document["choices"], heights.choices, strict=True):
        row["numbers"] = {
            "finish_mm": choice.cusp[1],
            "risk": choice.risk,
            "time_s": choice.time_s,
            "cost": choice.cost,
            "volume_ml": choice.volume_ml,
            "mass_g": choice.mass_g,
        }
    return document | {key: base[key] for key in ("strip", "matrix", "supports_sha")}


def proof(store: Store, given: Document, progress: Progress) -> Document:
    """The proof of the whole plan at its layer height, and the files to take away."""
    progress(0.05, "placing supports at the chosen layer height")
    figure, printer, material, matrix, labels = _placed(store, given)
    made = make_supports(figure, printer, material, given["height"], given["risk"], **_marked(labels))
    progress(0.5, "reading every layer")
    use = use_of(made.after.stack, made.after.areas, printer, material)
    thin = thin_parts(made.figure, printer)
    hazards = ledger(made.after, printer, material, made.tips, bool(made.figure.lower[2] > 0), thin)
    document = proof_document(made.whole, made.after, use, hazards, printer, material)
    document |= _support_row(store, made, printer, material, given["height"], matrix, thin)
    progress(0.75, "writing files")
    parts = {"figure": made.figure} | ({"supports": made.mesh} if made.mesh is not None else {})
    stl, package, sheet = io.BytesIO(), io.BytesIO(), io.BytesIO()
    write_stl(made.whole, stl)
    write_3mf(parts, package, None if labels is None else {"figure": labels})
    write_run_sheet(run_sheet_for(given["name"], made, made.after, use, hazards, printer, material), sheet)
    document["files"] = {name: blobs.put(store, handle) for name, handle in (("stl", stl), ("3mf", package), ("pdf", sheet))}
    return document


TASKS: dict[str, Callable[[Store, Document, Progress], Document]] = {
    "intake": intake,
    "mend": mend,
    "weak": weak,
    "proposals": proposals,
    "pose": pose,
    "supports": supports,
    "layers": layers,
    "proof": proof,
}
