"""Makes small glTF files, right and wrong, for the reader's tests."""

from __future__ import annotations

import base64
import json
import struct

import numpy as np

FLOAT, UINT, USHORT, UBYTE, BYTE, SHORT = 5126, 5125, 5123, 5121, 5120, 5122


class Maker:
    """A glTF document and its one buffer, growing."""

    def __init__(self) -> None:
        self.data = bytearray()
        self.json = {
            "asset": {"version": "2.0"},
            "buffers": [{"byteLength": 0}],
            "bufferViews": [],
            "accessors": [],
            "nodes": [],
            "meshes": [],
        }

    def view(self, raw: bytes, stride: int | None = None) -> int:
        self.data += b"\0" * (-len(self.data) % 4)
        view = {"buffer": 0, "byteOffset": len(self.data), "byteLength": len(raw)}
        if stride:
            view["byteStride"] = stride
        self.data += raw
        self.json["bufferViews"].append(view)
        self.json["buffers"][0]["byteLength"] = len(self.data)
        return len(self.json["bufferViews"]) - 1

    def accessor(self, values, component, kind, **more) -> int:
        values = np.asarray(values)
        entry = {"componentType": component, "count": len(values), "type": kind, **more}
        entry.setdefault("bufferView", self.view(values.tobytes()))
        self.json["accessors"].append(entry)
        return len(self.json["accessors"]) - 1

    def glb(self) -> bytes:
        text = json.dumps(self.json).encode()
        text += b" " * (-len(text) % 4)
        data = bytes(self.data) + b"\0" * (-len(self.data) % 4)
        head = struct.pack("<4sII", b"glTF", 2, 28 + len(text) + len(data))
        return head + struct.pack("<I4s", len(text), b"JSON") + text + struct.pack("<I4s", len(data), b"BIN\0") + data

    def gltf(self) -> str:
        self.json["buffers"][0]["uri"] = (
            "data:application/octet-stream;base64," + base64.b64encode(self.data).decode()
        )
        return json.dumps(self.json)


def skinned_strip() -> Maker:
    """Two joints and a strip of four triangles bound to them, with a clip that lifts the second joint."""
    maker = Maker()
    points = np.array([[x, y, 0] for y in (0, 1, 2) for x in (0, 1)], "<f4")
    triangles = np.array([0, 1, 2, 1, 3, 2, 2, 3, 4, 3, 5, 4], "<u2")
    joints = np.array([[0, 1, 0, 0]] * 6, np.uint8)
    weights = np.array([[1, 0, 0, 0]] * 2 + [[0.5, 0.5, 0, 0]] * 2 + [[0, 1, 0, 0]] * 2, "<f4")
    attributes = {
        "POSITION": maker.accessor(points, FLOAT, "VEC3"),
        "JOINTS_0": maker.accessor(joints, UBYTE, "VEC4"),
        "WEIGHTS_0": maker.accessor(weights, FLOAT, "VEC4"),
    }
    bind = np.tile(np.eye(4, dtype="<f4"), (2, 1, 1))
    bind[1, 3, 1] = -1
    maker.json["nodes"] = [
        {"name": "hip", "children": [1]},
        {"name": "tip", "translation": [0, 1, 0]},
        {"name": "cloth", "mesh": 0, "skin": 0},
    ]
    maker.json["meshes"] = [
        {
            "name": "cloth",
            "primitives": [{"attributes": attributes, "indices": maker.accessor(triangles, USHORT, "SCALAR")}],
        }
    ]
    maker.json["skins"] = [{"joints": [0, 1], "inverseBindMatrices": maker.accessor(bind, FLOAT, "MAT4")}]
    times = maker.accessor(np.array([0, 1], "<f4"), FLOAT, "SCALAR")
    lift = maker.accessor(np.array([[0, 1, 0], [0, 3, 0]], "<f4"), FLOAT, "VEC3")
    maker.json["animations"] = [
        {
            "name": "lift",
            "samplers": [{"input": times, "output": lift}],
            "channels": [{"sampler": 0, "target": {"node": 1, "path": "translation"}}],
        }
    ]
    return maker


def maker_of(made) -> Maker:
    """Return a document of a character of one part whose joints stand one on another, as `bodies` makes them."""
    maker = Maker()
    mesh, skeleton = made.mesh, made.skeleton
    count = len(skeleton.names)
    padded = np.zeros((2, len(mesh.positions), 4))
    padded[0, :, : mesh.joints.shape[1]], padded[1, :, : mesh.joints.shape[1]] = mesh.joints, mesh.weights
    attributes = {
        "POSITION": maker.accessor(mesh.positions, FLOAT, "VEC3"),
        "NORMAL": maker.accessor(mesh.normals, FLOAT, "VEC3"),
        "TEXCOORD_0": maker.accessor(mesh.uvs, FLOAT, "VEC2"),
        "JOINTS_0": maker.accessor(padded[0].astype("<u2"), USHORT, "VEC4"),
        "WEIGHTS_0": maker.accessor(padded[1].astype("<f4"), FLOAT, "VEC4"),
    }
    maker.json["nodes"] = [
        {
            "name": name,
            "translation": skeleton.rest[k, :3].tolist(),
            **({"children": [k + 1]} if k + 1 < count else {}),
        }
        for k, name in enumerate(skeleton.names)
    ]
    maker.json["nodes"].append({"name": "skin", "mesh": 0, "skin": 0})
    indices = maker.accessor(mesh.triangles.reshape(-1).astype("<u4"), UINT, "SCALAR")
    maker.json["meshes"] = [{"name": "skin", "primitives": [{"attributes": attributes, "indices": indices}]}]
    bind = np.ascontiguousarray(skeleton.inverse_bind.transpose(0, 2, 1))
    maker.json["skins"] = [{"joints": list(range(count)), "inverseBindMatrices": maker.accessor(bind, FLOAT, "MAT4")}]
    times = maker.accessor(np.array([0, 0.5, 1], "<f4"), FLOAT, "SCALAR")
    half = np.sin(0.01), np.cos(0.01)
    turns = maker.accessor(np.array([[0, 0, 0, 1], [0, 0, *half], [0, 0, 0, 1]], "<f4"), FLOAT, "VEC4")
    channels = [{"sampler": 0, "target": {"node": node, "path": "rotation"}} for node in range(count)]
    maker.json["animations"] = [
        {"name": "sway", "samplers": [{"input": times, "output": turns}], "channels": channels}
    ]
    return maker
