"""glTF 2.0 meshes, from a GLB or from a JSON with its data inside: positions and triangles of every node of the scene,
in place.

The format's unit is the metre and its y points up: lengths become mm, and z points up. Materials, skins and animations
are passed over; compressed geometry is refused by name. (Khronos, glTF 2.0 specification.)
"""

from __future__ import annotations

import base64
import binascii
import struct
from typing import Any, BinaryIO

import numpy as np
import orjson
from numpy.typing import NDArray

from ..mesh import Mesh, require_figure, weld
from .problems import AGAIN, DEFAULT_LIMITS, FormatError, Limits, check_size, check_triangles

F8 = NDArray[np.float64]
COMPONENT = {5120: "<i1", 5121: "<u1", 5122: "<i2", 5123: "<u2", 5125: "<u4", 5126: "<f4"}
WIDTH = {"SCALAR": 1, "VEC3": 3}
JSON_CHUNK, BINARY_CHUNK = 0x4E4F534A, 0x004E4942
UPRIGHT = np.array([[1000.0, 0, 0], [0, 0, -1000.0], [0, 1000.0, 0]])
"""y up and metres to z up and mm."""
DEEPEST = 64
TRIANGLES, STRIP, FAN = 4, 5, 6


def _refuse(what: str, where: str = "") -> FormatError:
    return FormatError("bad-gltf", what, where, AGAIN)


class _Document:
    """The JSON, the GLB's binary chunk, and bounded access to both."""

    def __init__(self, body: bytes, limits: Limits) -> None:
        self.limits = limits
        text, self.chunk = (body, b"") if body[:4] != b"glTF" else _chunks(body)
        try:
            self.json: dict[str, Any] = orjson.loads(text)
        except orjson.JSONDecodeError as reason:
            raise _refuse(f"The JSON cannot be read: {reason}.") from reason
        if not isinstance(self.json, dict) or not str(self.json.get("asset", {}).get("version", "")).startswith("2"):
            raise _refuse("This is not a glTF of version 2.")
        needed = set(self.json.get("extensionsRequired", [])) - {"KHR_materials_unlit", "KHR_texture_transform"}
        if needed:
            raise FormatError(
                "compressed-gltf",
                f"The file needs {', '.join(sorted(map(str, needed)))}.",
                remedy="Export it without compression.",
            )
        self.buffers: dict[int, bytes] = {}
        self.seen: set[int] = set()
        self.triangles = 0

    def buffer(self, index: int) -> bytes:
        """One buffer's bytes.

        Raises:
            FormatError: `outside-data`.
        """
        if index not in self.buffers:
            uri = self.json["buffers"][index].get("uri")
            if uri is None:
                self.buffers[index] = self.chunk
            elif str(uri).startswith("data:") and ";base64," in uri[:200]:
                self.buffers[index] = base64.b64decode(uri.split(",", 1)[1], validate=True)
            else:
                raise FormatError(
                    "outside-data",
                    f"The figure's data lie in another file, '{str(uri)[:60]}'.",
                    remedy="Export it as one GLB file.",
                )
        return self.buffers[index]

    def array(self, index: int, kind: str) -> NDArray[Any]:
        """An accessor as (n,) or (n, 3); refused where it reaches beyond its buffer.

        Raises:
            FormatError: `truncated`.
        """
        accessor = self.json["accessors"][index]
        dtype, width, count = (
            np.dtype(COMPONENT[accessor["componentType"]]),
            WIDTH[accessor["type"]],
            int(accessor["count"]),
        )
        if accessor["type"] != kind or "sparse" in accessor or "bufferView" not in accessor:
            raise _refuse(f"Accessor {index} is of a kind that figures do not need.")
        view = self.json["bufferViews"][accessor["bufferView"]]
        data = self.buffer(view["buffer"])
        step = int(view.get("byteStride", dtype.itemsize * width))
        start = int(view.get("byteOffset", 0)) + int(accessor.get("byteOffset", 0))
        if (
            start < 0
            or count < 1
            or step < dtype.itemsize * width
            or start + (count - 1) * step + dtype.itemsize * width > len(data)
        ):
            raise FormatError(
                "truncated",
                f"Accessor {index} announces {count:,} items; its buffer holds {len(data):,} bytes.",
                f"accessor {index}",
                AGAIN,
            )
        flat = np.ndarray((count, width), dtype, data, start, (step, dtype.itemsize))
        return flat[:, 0] if width == 1 else flat


def _chunks(body: bytes) -> tuple[bytes, bytes]:
    text = binary = b""
    at = 12
    while at + 8 <= len(body):
        length, kind = struct.unpack_from("<II", body, at)
        if at + 8 + length > len(body):
            raise FormatError(
                "truncated",
                f"A chunk announces {length:,} bytes, the file has {len(body) - at - 8:,} left.",
                f"byte {at}",
                AGAIN,
            )
        if kind == JSON_CHUNK:
            text = body[at + 8 : at + 8 + length]
        elif kind == BINARY_CHUNK:
            binary = body[at + 8 : at + 8 + length]
        at += 8 + length
    return text, binary


def _matrix(node: dict[str, Any]) -> F8:
    if "matrix" in node:
        return np.array(node["matrix"], float).reshape(4, 4).T
    x, y, z, w = (float(v) for v in node.get("rotation", (0, 0, 0, 1)))
    turn = np.array(
        [
            [1 - 2 * (y * y + z * z), 2 * (x * y - w * z), 2 * (x * z + w * y)],
            [2 * (x * y + w * z), 1 - 2 * (x * x + z * z), 2 * (y * z - w * x)],
            [2 * (x * z - w * y), 2 * (y * z + w * x), 1 - 2 * (x * x + y * y)],
        ]
    )
    whole = np.eye(4)
    whole[:3, :3] = turn * np.array(node.get("scale", (1, 1, 1)), float)
    whole[:3, 3] = np.array(node.get("translation", (0, 0, 0)), float)
    return whole


def _faces(document: _Document, primitive: dict[str, Any], vertices: int) -> NDArray[np.int64]:
    order = (
        document.array(primitive["indices"], "SCALAR").astype(np.int64)
        if "indices" in primitive
        else np.arange(vertices)
    )
    mode = primitive.get("mode", TRIANGLES)
    if len(order) and order.max() >= vertices:
        raise FormatError(
            "bad-index", f"A face names vertex {int(order.max()):,}; the mesh has 0 to {vertices - 1:,}.", remedy=AGAIN
        )
    if mode == TRIANGLES:
        return order[: len(order) // 3 * 3].reshape(-1, 3)
    if mode == STRIP:
        strip = np.stack([order[:-2], order[1:-1], order[2:]], axis=1)
        strip[1::2] = strip[1::2, [1, 0, 2]]
        return strip
    if mode == FAN:
        return np.stack([np.full(len(order) - 2, order[0]), order[1:-1], order[2:]], axis=1)
    return np.empty((0, 3), np.int64)


def _walk(document: _Document, index: int, above: F8, depth: int, parts: dict[str, list[NDArray[np.float32]]]) -> None:
    if depth > DEEPEST or index in document.seen:
        raise FormatError(
            "too-deep",
            f"The nodes nest more than {DEEPEST} deep, or one hangs in two places.",
            f"node {index}",
            "Flatten the assembly.",
        )
    document.seen.add(index)
    node = document.json["nodes"][index]
    placed = above @ _matrix(node)
    if "mesh" in node:
        mesh = document.json["meshes"][node["mesh"]]
        name = str(node.get("name") or mesh.get("name") or f"object {index}")[:80]
        for primitive in mesh["primitives"]:
            points = document.array(primitive["attributes"]["POSITION"], "VEC3").astype(np.float64)
            faces = _faces(document, primitive, len(points))
            document.triangles += len(faces)
            check_triangles(document.triangles or 1, document.limits)
            moved = (points @ placed[:3, :3].T + placed[:3, 3]) @ UPRIGHT.T
            if np.linalg.det(placed[:3, :3]) < 0:
                faces = faces[:, ::-1]
            if len(faces):
                parts.setdefault(name, []).append(moved.astype(np.float32)[faces].reshape(-1, 3))
    for child in node.get("children", []):
        _walk(document, int(child), placed, depth + 1, parts)


def read_gltf(handle: BinaryIO, size: int, limits: Limits = DEFAULT_LIMITS) -> dict[str, Mesh]:
    """Every node's mesh by name, in mm, in place. Raises `FormatError` or `MeshError`."""
    check_size(size, limits)
    parts: dict[str, list[NDArray[np.float32]]] = {}
    try:
        document = _Document(handle.read(size), limits)
        scenes, nodes = document.json.get("scenes"), document.json.get("nodes", [])
        roots = scenes[document.json.get("scene", 0)].get("nodes", []) if scenes else range(len(nodes))
        for root in roots:
            _walk(document, int(root), np.eye(4), 0, parts)
    except (KeyError, IndexError, TypeError, ValueError, AttributeError, binascii.Error, OverflowError) as reason:
        raise _refuse(f"The file does not hold together: {type(reason).__name__} at {reason}.") from reason
    check_triangles(sum(len(c) for cs in parts.values() for c in cs) // 3, limits)
    for name, corners in parts.items():
        for part in corners:
            if not np.isfinite(part).all():
                raise FormatError("not-finite", "Some coordinates are not numbers.", name, AGAIN)
    parts_read = {name: weld(np.concatenate(corners)) for name, corners in parts.items()}
    require_figure(Mesh.joined(list(parts_read.values())))
    return parts_read


def write_glb(mesh: Mesh, handle: BinaryIO, name: str = "figure") -> None:
    """Write one mesh in mm as a GLB in metres with y up."""
    points = (mesh.vertices @ np.linalg.inv(UPRIGHT).T).astype("<f4")
    faces = mesh.faces.astype("<u4")
    data = points.tobytes() + faces.tobytes()
    text = orjson.dumps(
        {
            "asset": {"version": "2.0", "generator": "tenugui"},
            "scene": 0,
            "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0, "name": name}],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
            "buffers": [{"byteLength": len(data)}],
            "bufferViews": [
                {"buffer": 0, "byteLength": points.nbytes},
                {"buffer": 0, "byteOffset": points.nbytes, "byteLength": faces.nbytes},
            ],
            "accessors": [
                {
                    "bufferView": 0,
                    "componentType": 5126,
                    "type": "VEC3",
                    "count": len(points),
                    "min": points.min(axis=0).tolist(),
                    "max": points.max(axis=0).tolist(),
                },
                {"bufferView": 1, "componentType": 5125, "type": "SCALAR", "count": faces.size},
            ],
        }
    )
    text += b" " * (-len(text) % 4)
    handle.write(struct.pack("<4sII", b"glTF", 2, 12 + 8 + len(text) + 8 + len(data)))
    handle.write(struct.pack("<II", len(text), JSON_CHUNK) + text + struct.pack("<II", len(data), BINARY_CHUNK) + data)
