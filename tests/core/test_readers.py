"""OBJ, PLY, glTF, kits: round trips, what each may say in other words, and every bad file refused by name."""

from __future__ import annotations

import base64
import io
import json
import struct
import time
import zipfile
from collections.abc import Callable

import numpy as np
import pytest
from bench.trial import crossed_obj, nested_3mf
from bench.trial import zipped as zip_of
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tenugui.core.errors import CoreError
from tenugui.core.formats import (
    NO_LIMITS,
    FormatError,
    Limits,
    load,
    pack_whole,
    read,
    write_3mf,
    write_glb,
    write_obj,
    write_ply,
)
from tenugui.core.formats.polygons import triangulate
from tenugui.core.mesh import Mesh, MeshError, measure, weld
from tests.shapes import ball, box, knobbly, stl_bytes

CUBE_OBJ = """# a cube of quadrilaterals, wound outwards
mtllib none.mtl
v 0 0 0
v 2 0 0
v 2 2 0
v 0 2 0
v 0 0 2
v 2 0 2
v 2 2 2
v 0 2 2
f 4 3 2 1
f 5/1/1 6/2/1 7/3/1 8/4/1
f 1//1 2//1 6//1 5//1
f 2 3 7 6
f 3 4 8 7
f -4 -1 -5 -8
"""


def bytes_of(write: Callable[[io.BytesIO], None]) -> bytes:
    held = io.BytesIO()
    write(held)
    return held.getvalue()


STONE = weld(knobbly(fineness=3).corners().reshape(-1, 3).astype(np.float32))
WRITERS = {
    "stl": lambda h: h.write(stl_bytes(STONE)),
    "obj": lambda h: write_obj({"stone": STONE}, h),
    "ply": lambda h: write_ply(STONE, h),
    "ply, big end first": lambda h: write_ply(STONE, h, ">"),
    "packed": lambda h: h.write(pack_whole(STONE)),
}


@pytest.mark.parametrize("name", WRITERS)
def test_a_round_trip_is_exact(name: str) -> None:
    limits = NO_LIMITS if name == "packed" else Limits()  # our own form comes in by no door
    again = load(io.BytesIO(bytes_of(WRITERS[name])), limits)
    assert np.array_equal(again.corners(), STONE.corners())


@pytest.mark.parametrize(
    "write", [lambda h: write_glb(STONE, h), lambda h: write_3mf({"stone": STONE}, h)], ids=["glb", "3mf"]
)
def test_formats_with_a_unit_come_back_in_mm(write: Callable[[io.BytesIO], None]) -> None:
    held = read(io.BytesIO(bytes_of(write)))
    assert held.unit == "mm" and list(held.parts) == ["stone" if held.format == "3MF" else "figure"]
    assert np.abs(held.whole.corners() - STONE.corners()).max() < 2e-6 * STONE.size.max()


def test_obj_speaks_quads_slashes_and_negative_indices() -> None:
    basics = measure(load(io.BytesIO(CUBE_OBJ.encode())))
    assert basics.watertight and basics.triangles == 12 and basics.volume_mm3 == pytest.approx(8)
    windows = CUBE_OBJ.replace("\n", "\r\n").replace("v 2", "v\t2")
    assert measure(load(io.BytesIO(windows.encode()))).volume_mm3 == pytest.approx(8)


def test_obj_groups_are_parts_and_a_name_that_comes_again_goes_on() -> None:
    held = io.BytesIO()
    write_obj({"body": ball(3, fineness=2), "staff": box((9, 0, 0), (1, 1, 8))}, held)
    text = held.getvalue() + b"g body\nf 1 2 3\n"
    parts = read(io.BytesIO(text)).parts
    assert list(parts) == ["body", "staff"] and len(parts["body"].faces) == 321
    assert measure(parts["staff"]).volume_mm3 == pytest.approx(8)


def test_a_concave_polygon_is_cut_inside_its_outline() -> None:
    """An L of six corners covers 3 of its box's 4 units, whichever corner comes first; a fan from some corners would
    cover more.
    """
    outline = np.array([[0, 0, 0], [2, 0, 0], [2, 1, 0], [1, 1, 0], [1, 2, 0], [0, 2, 0]], np.float32)
    for turn in range(6):
        ring = np.roll(np.arange(6), turn)
        faces, first = triangulate(outline, np.array([0, 6]), ring)
        _, areas = Mesh(outline.astype(float), faces).normals_and_areas()
        assert first.tolist() == [0, 4] and areas.sum() == pytest.approx(3)
        normals, _ = Mesh(outline.astype(float), faces).normals_and_areas()
        assert (normals[:, 2] > 0.99).all()
    dart = np.array([[0, 0, 0], [2, 2, 0], [0, 0.5, 0], [-2, 2, 0]], np.float32)
    for turn in range(4):
        faces, _ = triangulate(dart, np.array([0, 4]), np.roll(np.arange(4), turn))
        assert Mesh(dart.astype(float), faces).normals_and_areas()[1].sum() == pytest.approx(1)


@pytest.mark.parametrize("order", ["ascii", "<", ">"])
def test_ply_passes_over_what_it_does_not_need(order: str) -> None:
    """Colours between the coordinates, quality after the list, a foreign element first, and faces of three and four
    corners.
    """
    kind = {"ascii": "ascii", "<": "binary_little_endian", ">": "binary_big_endian"}[order]
    header = (
        f"ply\nformat {kind} 1.0\ncomment of the marsh\nelement camera 1\nproperty "
        "float f\nelement vertex 5\nproperty double x\nproperty uchar red\n"
        "property double y\nproperty double z\nelement face 5\nproperty "
        "list uchar ushort vertex_index\nproperty float quality\nend_header\n"
    ).encode()
    points = [(0, 0, 0), (2, 0, 0), (2, 2, 0), (0, 2, 0), (1, 1, 3)]
    faces = [(3, 2, 1, 0), (0, 1, 4), (1, 2, 4), (2, 3, 4), (3, 0, 4)]
    if order == "ascii":
        body = (
            "1.5\n"
            + "".join(f"{x} 9 {y} {z}\n" for x, y, z in points)
            + "".join(f"{len(f)} {' '.join(map(str, f))} 0.5\n" for f in faces)
        )
        data = body.encode()
    else:
        data = struct.pack(order + "f", 1.5) + b"".join(struct.pack(order + "dBdd", x, 9, y, z) for x, y, z in points)
        data += b"".join(struct.pack(f"{order}B{len(f)}Hf", len(f), *f, 0.5) for f in faces)
    basics = measure(load(io.BytesIO(header + data)))
    assert basics.watertight and basics.volume_mm3 == pytest.approx(4)


def gltf_with(change: Callable[[dict], None]) -> bytes:  # type: ignore[type-arg]
    """A cube as a JSON glTF with its data inside, changed."""
    glb = bytes_of(lambda h: write_glb(box((0, 0, 1), (2, 2, 2)), h))
    length = struct.unpack_from("<I", glb, 12)[0]
    document = json.loads(glb[20 : 20 + length])
    document["buffers"][0]["uri"] = (
        "data:application/octet-stream;base64," + base64.b64encode(glb[28 + length :]).decode()
    )
    change(document)
    return json.dumps(document).encode()


def test_gltf_nodes_are_placed_by_their_ancestors() -> None:
    def nest(document: dict) -> None:  # type: ignore[type-arg]
        document["nodes"] = [
            {"children": [1, 2], "scale": [2, 2, 2]},
            {"mesh": 0, "name": "left", "translation": [-0.01, 0, 0]},
            {"mesh": 0, "name": "right", "matrix": [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0.01, 0, 0, 1]},
        ]

    held = read(io.BytesIO(gltf_with(nest)))
    assert list(held.parts) == ["left", "right"]
    left, right = held.parts.values()
    assert left.lower == pytest.approx([-22, -2, 0], abs=1e-4) and right.upper == pytest.approx([22, 2, 4], abs=1e-4)
    assert measure(left).volume_mm3 == pytest.approx(64, rel=1e-5) and measure(right).volume_mm3 == pytest.approx(
        64, rel=1e-5
    )


def put(path: tuple[str | int, ...], value: object) -> Callable[[dict], None]:  # type: ignore[type-arg]
    def change(document: dict) -> None:  # type: ignore[type-arg]
        at = document
        for step in path[:-1]:
            at = at[step]  # type: ignore[index]
        at[path[-1]] = value  # type: ignore[index]

    return change


PLY_HEAD = (
    b"ply\nformat ascii 1.0\nelement vertex %d\nproperty float x\nproperty float y\nproperty "
    b"float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n"
)
CORNERS = b"0 0 0\n1 0 0\n0 1 0\n0 0 1\n"
BAD = {
    "an OBJ that names a vertex it has not": (
        CUBE_OBJ.replace("f 2 3 7 6", "f 2 3 7 66").encode(),
        "bad-index",
        "face 4",
    ),
    "an OBJ that counts back too far": (CUBE_OBJ.replace("-4 -1", "-40 -1").encode(), "bad-index", "line 16"),
    "an OBJ with a word for a number": (CUBE_OBJ.replace("v 2 2 0", "v 2 two 0").encode(), "bad-number", "line 5"),
    "an OBJ face of two corners": (CUBE_OBJ.replace("f 4 3 2 1", "f 4 3").encode(), "bad-number", "line 11"),
    "an OBJ out of bounds": (CUBE_OBJ.replace("v 2 2 0", "v 2 1e99 0").encode(), "not-finite", "vertex 3"),
    "an OBJ without faces": (CUBE_OBJ.split("f 4")[0].encode(), "no-triangles", ""),
    "a PLY of a billion vertices": (PLY_HEAD % 10**9 + CORNERS + b"3 0 1 2\n", "truncated", "header"),
    "a PLY that ends early": (PLY_HEAD % 4 + CORNERS + b"3 0 1", "truncated", ""),
    "a PLY face that reaches out": (PLY_HEAD % 4 + CORNERS + b"3 0 1 9\n", "bad-index", "face 1"),
    "a PLY of two corners": (PLY_HEAD % 4 + CORNERS + b"2 0 1\n", "truncated", ""),
    "a PLY with nan": (PLY_HEAD % 4 + CORNERS.replace(b"1 0 0", b"nan 0 0") + b"3 0 1 2\n", "bad-number", "line 11"),
    "a PLY without an end to its header": (PLY_HEAD[:60] % 4, "bad-ply", ""),
    "a PLY with a negative count": ((PLY_HEAD % 4).replace(b"vertex 4", b"vertex -4"), "bad-ply", "header"),
    "a flat PLY": (PLY_HEAD % 4 + CORNERS + b"3 0 1 2\n", "flat", ""),
    "a glTF that reaches beyond its buffer": (
        gltf_with(put(("accessors", 0, "count"), 10**9)),
        "truncated",
        "accessor 0",
    ),
    "a glTF with its data elsewhere": (gltf_with(put(("buffers", 0, "uri"), "../../etc/passwd")), "outside-data", ""),
    "a glTF that is compressed": (
        gltf_with(put(("extensionsRequired",), ["KHR_draco_mesh_compression"])),
        "compressed-gltf",
        "",
    ),
    "a glTF whose nodes go round in a circle": (gltf_with(put(("nodes", 0, "children"), [0])), "too-deep", "node 0"),
    "a glTF without its accessor": (gltf_with(put(("meshes", 0, "primitives", 0, "indices"), 7)), "bad-gltf", ""),
    "a glTF of lines": (gltf_with(put(("meshes", 0, "primitives", 0, "mode"), 1)), "no-triangles", ""),
    "a kit that climbs out": (zip_of({"../../root.stl": stl_bytes(ball(3))}), "bad-path", ""),
    "a kit from the root": (zip_of({"/etc/figure.stl": stl_bytes(ball(3))}), "bad-path", ""),
    "a kit of nothing": (zip_of({"readme.txt": b"hello"}), "no-figure", ""),
    "a kit with a broken part": (
        zip_of({"good.stl": stl_bytes(ball(3)), "bad.stl": stl_bytes(ball(3))[:900]}),
        "truncated",
        "bad.stl",
    ),
    "a kit within a kit": (zip_of({"inner.3mf": zip_of({"a.stl": stl_bytes(ball(3))})}), "nested-zip", "inner.3mf"),
    "an archive cut off": (zip_of({"a.stl": stl_bytes(ball(3))})[:-40], "bad-zip", ""),
}


@pytest.mark.parametrize("name", BAD)
def test_a_bad_file_is_refused_by_name(name: str) -> None:
    body, code, where = BAD[name]
    with pytest.raises(CoreError) as refused:
        load(io.BytesIO(body))
    assert refused.value.code == code and where in refused.value.where
    assert refused.value.what and refused.value.remedy


def test_a_bomb_is_stopped_by_what_it_unpacks_to_not_by_what_it_says() -> None:
    bomb = zip_of({"zeros.stl": bytes(40_000_000)})
    assert len(bomb) < 100_000
    with pytest.raises(FormatError, match="unpacks to more"):
        load(io.BytesIO(bomb), Limits(unpacked_bytes=10_000_000))


def test_xml_entities_in_a_3mf_are_not_expanded() -> None:
    inner = bytes_of(lambda h: write_3mf({"a": box((0, 0, 0), (1, 1, 1))}, h))
    with zipfile.ZipFile(io.BytesIO(inner)) as source:
        entries = {name: source.read(name) for name in source.namelist()}
    model = next(name for name in entries if name.endswith(".model"))
    laughs = (
        b'<!DOCTYPE lolz [<!ENTITY a "ha"><!ENTITY b "'
        + b"&a;" * 500
        + b'"><!ENTITY c "'
        + b"&b;" * 500
        + b'"><!ENTITY d "'
        + b"&c;" * 500
        + b'">]>'
    )
    declaration, rest = entries[model].split(b"?>", 1)
    entries[model] = (
        declaration
        + b"?>"
        + laughs
        + rest.replace(b"</model>", b"<!-- --><metadata name='Title'>&d;</metadata></model>")
    )
    with pytest.raises(FormatError, match="document type"):
        load(io.BytesIO(zip_of(entries)))


def test_a_mesh_placed_a_million_times_is_counted_where_it_stands() -> None:
    def crowd(document: dict) -> None:  # type: ignore[type-arg]
        document["nodes"] = [{"mesh": 0} for _ in range(2000)]
        document["scenes"] = [{"nodes": list(range(2000))}]

    with pytest.raises(FormatError, match="the limit is 1,000"):
        load(io.BytesIO(gltf_with(crowd)), Limits(triangles=1000))


SEEDS = {
    "stl": stl_bytes(ball(3, fineness=1)),
    "obj": CUBE_OBJ.encode(),
    "ply": PLY_HEAD % 4 + CORNERS + b"3 0 1 3\n",
    "binary ply": bytes_of(lambda h: write_ply(ball(3, fineness=1), h)),
    "glb": bytes_of(lambda h: write_glb(ball(3, fineness=1), h)),
    "gltf": gltf_with(lambda document: None),
    "kit": zip_of({"a.stl": stl_bytes(ball(3, fineness=1)), "b.obj": CUBE_OBJ.encode()}),
    "3mf": bytes_of(lambda h: write_3mf({"a": ball(3, fineness=1)}, h)),
}


@pytest.mark.parametrize("name", SEEDS)
@settings(max_examples=60, deadline=None, suppress_health_check=[HealthCheck.too_slow])
@given(data=st.data())
def test_a_damaged_file_is_read_or_refused_and_nothing_else(name: str, data: st.DataObject) -> None:
    """Bytes changed, cut out or doubled: a sound mesh or a `CoreError`, never another exception."""
    body = bytearray(SEEDS[name])
    for _ in range(data.draw(st.integers(1, 6))):
        at = data.draw(st.integers(0, len(body) - 1))
        what = data.draw(st.sampled_from(("set", "cut", "double", "end")))
        if what == "set":
            body[at] = data.draw(st.integers(0, 255))
        elif what == "cut":
            del body[at : at + data.draw(st.integers(1, 64))]
        elif what == "double":
            body[at:at] = body[at : at + data.draw(st.integers(1, 64))]
        else:
            del body[max(at, 8) :]
        if not body:
            break
    try:
        mesh = load(io.BytesIO(bytes(body)), Limits(triangles=100_000, unpacked_bytes=10_000_000))
    except CoreError:
        return
    assert (
        len(mesh.faces)
        and np.isfinite(mesh.vertices).all()
        and mesh.faces.min() >= 0
        and mesh.faces.max() < len(mesh.vertices)
    )


def test_components_of_components_are_counted_before_they_are_walked() -> None:
    """Ten to the tenth placements of an empty mesh: once three minutes in the library before it was refused."""
    began = time.process_time()
    with pytest.raises(FormatError) as refused:
        load(io.BytesIO(nested_3mf()))
    assert refused.value.code == "too-many-parts" and time.process_time() - began < 5
    with pytest.raises(FormatError) as deep:
        load(io.BytesIO(nested_3mf(deep=20, wide=1)))
    assert deep.value.code == "too-deep"
    with pytest.raises((FormatError, MeshError)) as empty:
        load(io.BytesIO(nested_3mf(deep=3, wide=4)))
    assert empty.value.code == "no-triangles"


def test_many_large_polygons_are_refused_and_one_is_not() -> None:
    with pytest.raises(FormatError) as refused:
        load(io.BytesIO(crossed_obj(12)))
    assert refused.value.code == "huge-polygon" and "12 faces" in str(refused.value)
    with pytest.raises(MeshError) as flat:
        load(io.BytesIO(crossed_obj(1, 600)))
    assert flat.value.code == "flat"


def test_coordinates_beyond_all_sense_are_refused_in_words() -> None:
    far = stl_bytes(Mesh(ball(3).vertices * 1e30, ball(3).faces))
    with pytest.raises(MeshError) as refused:
        load(io.BytesIO(far))
    assert refused.value.code == "too-far"
