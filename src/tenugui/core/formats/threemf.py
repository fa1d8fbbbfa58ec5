"""3MF through the consortium's own library: figure and supports as separate, named objects, in millimetres."""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Mapping
from ctypes import c_uint8, c_uint64
from typing import Any, BinaryIO

import lib3mf
import numpy as np
from numpy.typing import NDArray

from ..marks import KINDS
from ..mesh import Mesh, require_figure, weld
from .beams import SIDES, Beams, add_beams, beams_in, rods
from .kit import FAULTS
from .problems import AGAIN, DEFAULT_LIMITS, FormatError, Limits, check_parts, check_size, check_triangles, unused

U1 = NDArray[np.uint8]
F8 = NDArray[np.float64]
BEAM_FACES = 4 * SIDES
NO_MARK = "unmarked"
MARK_COLOURS = ((217, 211, 198), (180, 85, 29), (111, 143, 188), (32, 55, 95), (122, 36, 36), (76, 107, 60))
"""Display colours of no mark and of each kind, as any reader of 3MF shows them."""
UNIT_MM = {0: 0.001, 1: 1.0, 2: 10.0, 3: 25.4, 4: 304.8, 5: 1000.0}
"""lib3mf's ModelUnit: micrometre, millimetre, centimetre, inch, foot, metre."""


SETTINGS_PART, SETTINGS_RELATION = "/Metadata/tenugui-settings.json", "urn:tenugui:settings"
"""The attachment in which a plan's settings travel: a metadata's text is read back only up to 65,535 characters."""
NAMESPACE, SETTINGS = "urn:tenugui:settings", "settings"
"""Of the metadata in which short settings travelled before."""


def new_model() -> Any:
    """An empty model in millimetres."""
    model = lib3mf.get_wrapper().CreateModel()
    model.SetUnit(lib3mf.ModelUnit.MilliMeter)
    return model


def write_3mf(
    parts: Mapping[str, Mesh],
    handle: BinaryIO,
    marks: Mapping[str, U1] | None = None,
    settings: str | None = None,
    beams: Mapping[str, Beams] | None = None,
) -> None:
    """Write each named mesh, and each set of beams, as an object of its own with a build item. `marks`: labels (faces,)
    of marked parts, kept as triangle properties;
    `settings`: JSON of how the parts came about, kept as an attachment of the package.
    """
    model = new_model()
    if settings is not None:
        model.AddAttachment(SETTINGS_PART, SETTINGS_RELATION).ReadFromBuffer(settings.encode())
    for name, mesh in parts.items():
        thing = model.AddMeshObject()
        thing.SetName(name)
        set_geometry(thing, mesh)
        if marks and name in marks and marks[name].any():
            _write_marks(model, thing, marks[name])
        model.AddBuildItem(thing, lib3mf.get_wrapper().GetIdentityTransform())
    for name, struts in (beams or {}).items():
        model.AddBuildItem(add_beams(model, name, struts), lib3mf.get_wrapper().GetIdentityTransform())
    handle.write(bulk(model.QueryWriter("3mf"), "lib3mf_writer_writetobuffer", c_uint8, np.uint8).tobytes())


def set_geometry(thing: Any, mesh: Mesh) -> None:
    """A mesh's corners and faces, by the library's own call with whole arrays: its Python wrapper copies them one
    corner at a time.
    """
    vertices, faces = mesh.vertices.astype(np.float32), mesh.faces.astype(np.uint32)
    positions = (lib3mf.Position * len(vertices)).from_buffer(vertices)
    triangles = (lib3mf.Triangle * len(faces)).from_buffer(faces)
    code = thing._wrapper.lib.lib3mf_meshobject_setgeometry(
        thing._handle, c_uint64(len(vertices)), positions, c_uint64(len(faces)), triangles
    )
    thing._wrapper.checkError(thing, code)


def _write_marks(model: Any, thing: Any, labels: U1) -> None:
    """One base material a kind of mark, named by it: what any reader of 3MF shows, and this one reads back."""
    group = model.AddBaseMaterialGroup()
    colours = [lib3mf.Color(*rgb, 255) for rgb in MARK_COLOURS]
    own = np.array(
        [group.AddMaterial(name, colour) for name, colour in zip((NO_MARK, *KINDS), colours, strict=True)], np.uint32
    )
    rows = np.empty((len(labels), 4), np.uint32)
    rows[:, 0] = group.GetResourceID()
    rows[:, 1:] = own[labels][:, None]
    properties = (lib3mf.TriangleProperties * len(rows)).from_buffer_copy(rows)
    count = c_uint64(len(rows))
    thing._wrapper.checkError(
        thing, thing._wrapper.lib.lib3mf_meshobject_setalltriangleproperties(thing._handle, count, properties)
    )
    thing.SetObjectLevelProperty(group.GetResourceID(), int(own[0]))


def _has_marks(model: Any) -> bool:
    """Whether any base material is named as a mark: asking every triangle takes as long as reading them."""
    groups = model.GetBaseMaterialGroups()
    while groups.MoveNext():
        group = groups.GetCurrentBaseMaterialGroup()
        if any(group.GetName(own) in KINDS for own in group.GetAllPropertyIDs()):
            return True
    return False


def _read_marks(model: Any, body: Any) -> U1 | None:
    """Labels (faces,) of a mesh object whose triangles carry base materials named as marks; None where it has none."""
    rows = bulk(body, "lib3mf_meshobject_getalltriangleproperties", lib3mf.TriangleProperties, np.uint32).reshape(-1, 4)
    labels = np.zeros(len(rows), np.uint8)
    for resource in np.unique(rows[:, 0][rows[:, 0] > 0]).tolist():
        try:
            group = model.GetBaseMaterialGroupByID(resource)
        except lib3mf.ELib3MFException:
            continue  # colours or textures: no business of marks
        for own in group.GetAllPropertyIDs():
            name = group.GetName(own)
            if name in KINDS:
                labels[(rows[:, 0] == resource) & (rows[:, 1] == own)] = KINDS.index(name) + 1
    return labels if labels.any() else None


def bulk(body: Any, call: str, kind: Any, dtype: Any) -> Any:
    """A list of the library's plain structs as one array: its own Python wrapper makes an object of each, which is far
    slower.
    """
    fetch = getattr(body._wrapper.lib, call)
    needed = c_uint64(0)
    body._wrapper.checkError(body, fetch(body._handle, c_uint64(0), needed, (kind * 0)()))
    buffer = (kind * needed.value)()
    body._wrapper.checkError(body, fetch(body._handle, needed, needed, buffer))
    return np.frombuffer(buffer, dtype).copy()


def _guard(body: bytes, limits: Limits) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(body)) as archive:
            unpacked = sum(entry.file_size for entry in archive.infolist())
            if unpacked <= limits.unpacked_bytes:
                _refuse_entities(archive)
                _refuse_many(archive)
    except FAULTS as reason:
        raise FormatError(
            "not-3mf", f"This is not a 3MF archive: {reason}.", remedy="Export or download the file again."
        ) from reason
    if unpacked > limits.unpacked_bytes:
        raise FormatError(
            "too-large",
            f"The archive unpacks to {unpacked / 2**20:.0f} MB; the limit is {limits.unpacked_bytes / 2**20:.0f} MB.",
            remedy="Decimate the figure first.",
        )


def _refuse_entities(archive: zipfile.ZipFile) -> None:
    """No 3MF needs a document type; one that brings it means to have its entities expanded."""
    for entry in archive.infolist():
        if entry.filename.lower().endswith((".model", ".xml", ".rels")):
            with archive.open(entry) as source:
                head = source.read(65536)
            if b"<!DOCTYPE" in head or b"<!ENTITY" in head:
                raise FormatError(
                    "bad-3mf",
                    "The 3MF brings a document type of its own, which no 3MF needs.",
                    entry.filename[:80],
                    AGAIN,
                )


def _read_settings(model: Any) -> str | None:
    """What `write_3mf` kept; None where nothing of the kind is told.

    Raises:
        FormatError: `bad-settings`.
    """
    for index in range(model.GetAttachmentCount()):
        attachment = model.GetAttachment(index)
        if attachment.GetRelationShipType() == SETTINGS_RELATION:
            try:
                return bulk(attachment, "lib3mf_attachment_writetobuffer", c_uint8, np.uint8).tobytes().decode()
            except UnicodeDecodeError as reason:
                where = f"{SETTINGS_PART}, byte {reason.start:,}"
                raise FormatError(
                    "bad-settings", "The plan's settings in the file are no text.", where, AGAIN
                ) from reason
    group = model.GetMetaDataGroup()
    for index in range(group.GetMetaDataCount()):
        one = group.GetMetaData(index)
        if (one.GetNameSpace(), one.GetName()) == (NAMESPACE, SETTINGS):
            return str(one.GetValue())
    return None


PLACES = re.compile(
    rb"<(?:\w+:)?(?:(?P<thing>object)\b[^>]*?\bid|(?P<part>component)\b[^>]*?\bobjectid|item\b[^>]*?\bobjectid)\s*=\s*[\"'](\d+)[\"']"
)


def _refuse_many(archive: zipfile.ZipFile) -> None:
    """Count what a model places before the library walks it: components of components multiply, and a kilobyte can
    place a mesh ten billion times.
    """
    for entry in archive.infolist():
        if not entry.filename.lower().endswith(".model"):
            continue
        body = archive.read(entry)
        if b"component" not in body:
            continue
        holds: dict[int, list[int]] = {}
        placed, inside = list[int](), 0
        for place in PLACES.finditer(body):
            number = int(place[3])
            if place["thing"]:
                inside = number
                holds.setdefault(inside, [])
            elif place["part"]:
                holds.setdefault(inside, []).append(number)
            else:
                placed.append(number)
        many: dict[int, int] = {}
        if sum(_placements(number, holds, many, 0) for number in placed) > MOST_VISITS:
            raise _too_many()


def _placements(number: int, holds: dict[int, list[int]], many: dict[int, int], depth: int) -> int:
    """How many objects placing one comes to, itself and all within it."""
    if depth > DEEPEST:
        raise _too_deep()
    if number not in many:
        many[number] = 1 + sum(_placements(one, holds, many, depth + 1) for one in holds.get(number, ()))
    return many[number]


def _too_many() -> FormatError:
    return FormatError(
        "too-many-parts", f"The 3MF places more than {MOST_VISITS:,} objects.", remedy="Flatten the assembly."
    )


def _too_deep() -> FormatError:
    return FormatError(
        "too-deep", f"The 3MF nests its components more than {DEEPEST} deep.", remedy="Flatten the assembly."
    )


def read_3mf(
    handle: BinaryIO,
    size: int,
    limits: Limits = DEFAULT_LIMITS,
    marks: dict[str, U1] | None = None,
    settings: list[str] | None = None,
) -> dict[str, Mesh]:
    """Every build item's meshes in mm, by object name, with transforms applied; the labels of marked ones into `marks`,
    and the settings of a plan that the file was written from into `settings`.

    Raises `FormatError` or `MeshError`.
    """
    check_size(size, limits)
    body = handle.read(size)
    _guard(body, limits)
    model = new_model()
    try:
        reader = model.QueryReader("3mf")
        reader.AddRelationToRead(SETTINGS_RELATION)
        reader.ReadFromBuffer(body)
    except lib3mf.ELib3MFException as reason:
        raise FormatError(
            "bad-3mf", f"The 3MF cannot be read: {reason}.", remedy="Export or download the file again."
        ) from reason
    scale = UNIT_MM[int(model.GetUnit())]
    if settings is not None and (text := _read_settings(model)) is not None:
        settings.append(text)
    if marks is not None and not _has_marks(model):
        marks = None
    walk = _Walk(model, scale, limits, marks)
    items = model.GetBuildItems()
    while items.MoveNext():
        item = items.GetCurrent()
        walk.collect(item.GetObjectResource(), np.array(item.GetObjectTransform().Fields, float))
    if not walk.parts:
        raise FormatError(
            "no-triangles", "The 3MF places no mesh on its plate.", remedy="Export the figure again as a mesh."
        )
    require_figure(Mesh.joined(list(walk.parts.values())))
    return walk.parts


MOST_VISITS = 20_000
"""Objects that may be placed, empty ones too: a small file can place one mesh a million times."""
DEEPEST = 16


class _Walk:
    """A walk over build items and their components, which counts what is placed, not what is stored."""

    def __init__(self, model: Any, scale: float, limits: Limits, marks: dict[str, U1] | None) -> None:
        self.model, self.scale, self.limits, self.marks = model, scale, limits, marks
        self.parts: dict[str, Mesh] = {}
        self._faces = self._visits = 0
        self._times: dict[str, int] = {}

    def collect(self, thing: Any, placed: Any, depth: int = 0) -> None:
        """An object and its components; `placed` is the 4x3 transform from the object to the plate, row vectors.

        Raises:
            FormatError: too deep, too many, too much.
        """
        if depth > DEEPEST:
            raise _too_deep()
        self._visits += 1
        if self._visits > MOST_VISITS:
            raise _too_many()
        if thing.IsComponentsObject():
            holder = self.model.GetComponentsObjectByID(thing.GetUniqueResourceID())
            for index in range(holder.GetComponentCount()):
                component = holder.GetComponent(index)
                inner = np.array(component.GetTransform().Fields, float)
                whole = np.vstack([inner[:3] @ placed[:3], inner[3] @ placed[:3] + placed[3]])
                self.collect(component.GetObjectResource(), whole, depth + 1)
        elif thing.IsMeshObject():
            self._take(thing, placed)

    def _beams(self, body: Any, vertices: F8) -> Mesh | None:
        try:
            beams = beams_in(body, vertices, self.limits.triangles // BEAM_FACES)
        except ValueError as reason:
            raise FormatError("too-large", f"The 3MF holds {reason}.", remedy="Export it as a mesh.") from reason
        return None if beams is None else rods(beams)

    def _take(self, thing: Any, placed: Any) -> None:
        body = self.model.GetMeshObjectByID(thing.GetUniqueResourceID())
        count = body.GetTriangleCount()
        vertices = bulk(body, "lib3mf_meshobject_getvertices", lib3mf.Position, np.float32).reshape(-1, 3)
        struts = self._beams(body, vertices.astype(float))
        if not count and struts is None:
            return
        self._faces += count + (0 if struts is None else len(struts.faces))
        check_triangles(self._faces, self.limits)
        check_parts(len(self.parts) + 1, self.limits)
        faces = bulk(body, "lib3mf_meshobject_gettriangleindices", lib3mf.Triangle, np.int32).reshape(-1, 3)
        plain = Mesh(vertices.astype(np.float64), faces)
        if struts is not None:
            plain = Mesh.joined([plain, struts]) if count else struts
        mesh = plain.transformed(placed[:3].T, placed[3]).scaled(self.scale)
        name = unused(thing.GetName() or f"object {thing.GetUniqueResourceID()}", self.parts, self._times)
        self.parts[name] = weld(np.ascontiguousarray(mesh.corners().reshape(-1, 3), np.float32))
        marks = None if self.marks is None or struts is not None else _read_marks(self.model, body)
        if self.marks is not None and marks is not None:
            self.marks[name] = marks
