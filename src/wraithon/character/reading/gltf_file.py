"""The outside of a glTF file: container, JSON, buffers and accessors, all checked before use."""

from __future__ import annotations

import base64
import binascii
import json
import struct
from os.path import normpath
from pathlib import Path
from typing import TYPE_CHECKING, Any, NoReturn
from urllib.parse import unquote

import numpy as np

from wraithon.support.errors import CharacterError
from wraithon.support.plain_files import path_inside, read_plain

if TYPE_CHECKING:
    from numpy.typing import NDArray


LARGEST_FILE = 2 * 2**30
"""Bytes of a character file."""
LARGEST_ACCESSOR = 512 * 2**20
"""Bytes an accessor may decode to; a count beyond it is a lie or not for a game."""

MAX_IMPLIED = 64 * 2**20
"""Bytes of noughts that a file may stand for without holding them."""
FARTHEST = 1e6
"""Metres from the middle that anything of a character may be."""
LARGEST_NUMBER = 1e30
"""What a number of the JSON may be at most: far beyond any scene, and well within float32."""

COMPONENTS = {
    5120: np.int8,
    5121: np.uint8,
    5122: np.int16,
    5123: np.uint16,
    5125: np.uint32,
    5126: np.float32,
}
SHAPES = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT2": 4, "MAT3": 9, "MAT4": 16}
MATRIX_SIDES = {"MAT2": 2, "MAT3": 3, "MAT4": 4}

SUPPORTED = frozenset(
    {
        "KHR_mesh_quantization",
        "KHR_materials_unlit",
        "KHR_materials_emissive_strength",
        "KHR_lights_punctual",
        "KHR_texture_transform",
    }
)


class GltfFile:
    """A glTF 2.0 file, opened and held in memory; its parts are decoded when asked for.

    Every failure is a CharacterError that names the file and the place in it. Links must not lead out of
    `within`, when that is given.
    """

    def __init__(self, path: Path, within: Path | None = None) -> None:
        self.path = path
        raw = self._read(path, within)
        self._binary: memoryview | None = None
        text = self._split(raw) if bytes(raw[:4]) == b"glTF" else raw
        self.json = self._parse(text)
        self._buffers: dict[int, memoryview] = {}
        self._lists: dict[str, list[dict[str, Any]]] = {}
        """Lists of the JSON that were looked through already."""
        self._implied = 0
        self._check_version()

    def fail(self, location: str, problem: str) -> NoReturn:
        """Raise the error that says what is wrong and where."""
        raise CharacterError(f"{self.path.name}: {location}: {problem}")

    def _read(self, path: Path, within: Path | None) -> memoryview:
        try:
            return memoryview(read_plain(path, LARGEST_FILE, within))
        except FileNotFoundError as error:
            raise CharacterError(f"{path}: there is no such file; check the path") from error
        except OSError as error:
            raise CharacterError(f"{path}: cannot be read ({error.strerror}); choose another file") from error

    def _split(self, raw: memoryview) -> memoryview:
        """Take the chunks of a .glb apart and return the JSON."""
        if len(raw) < 20:
            self.fail("header", f"the file is cut off after {len(raw)} bytes; export it again")
        _, version, length = struct.unpack_from("<4sII", raw)
        if version != 2:
            self.fail("header", f"binary glTF version {version} is not supported; export as glTF 2.0")
        if length > len(raw):
            self.fail("header", f"{length} bytes are announced but {len(raw)} are there; the file is cut off")
        chunks: dict[int, memoryview] = {}
        at = 12
        while at + 8 <= length:
            size, kind = struct.unpack_from("<II", raw, at)
            if at + 8 + size > length:
                self.fail(f"chunk at byte {at}", f"it claims {size} bytes, more than are left")
            chunks.setdefault(kind, raw[at + 8 : at + 8 + size])
            at += 8 + size + (-size % 4)
        if 0x4E4F534A not in chunks:
            self.fail("header", "there is no JSON chunk; export the file again")
        self._binary = chunks.get(0x004E4942)
        return chunks[0x4E4F534A]

    def _parse(self, text: memoryview) -> dict[str, Any]:
        try:
            data = json.loads(bytes(text).decode("utf-8-sig"))
        except UnicodeDecodeError as error:
            self.fail("JSON", f"byte {error.start} is not UTF-8; this is not a glTF file")
        except RecursionError:
            self.fail("JSON", "nested too deeply to be a glTF file")
        except ValueError as error:
            self.fail("JSON", f"{error}; this is not a glTF file, or it is damaged")
        if not isinstance(data, dict):
            self.fail("JSON", "the top is not an object; this is not a glTF file")
        return data

    def _check_version(self) -> None:
        asset = self.json.get("asset")
        version = asset.get("version") if isinstance(asset, dict) else None
        if not isinstance(version, str) or not version.startswith("2."):
            self.fail("asset.version", f"{version!r} is not supported; export as glTF 2.0")
        required = self.json.get("extensionsRequired", [])
        if not isinstance(required, list):
            self.fail("extensionsRequired", "must be a list")
        for name in required:
            if not isinstance(name, str) or name not in SUPPORTED:
                self.fail("extensionsRequired", f"{name} is not supported; export again without it")

    # ---- checked access to the JSON -------------------------------------------------------------

    def items(self, key: str, owner: dict[str, Any] | None = None, location: str = "") -> list[dict[str, Any]]:
        """Return the list of objects under `key`; an absent one is empty."""
        if owner is None and key in self._lists:
            return self._lists[key]
        value = (self.json if owner is None else owner).get(key, [])
        where = f"{location}.{key}".lstrip(".")
        if not isinstance(value, list):
            self.fail(where, "must be a list")
        for i, item in enumerate(value):
            if not isinstance(item, dict):
                self.fail(f"{where}[{i}]", "must be an object")
        if owner is None:
            self._lists[key] = value
        return value

    def item(self, key: str, index: object, location: str) -> dict[str, Any]:
        """Return the object number `index` of the top-level list `key`, which `location` refers to."""
        things = self.items(key)
        if not isinstance(index, int) or isinstance(index, bool) or not 0 <= index < len(things):
            self.fail(location, f"refers to {key}[{index}], but there are {len(things)}")
        return things[index]

    def integer(self, owner: dict[str, Any], key: str, location: str, default: int | None = None) -> int:
        """Return a whole number of zero or more."""
        value = owner.get(key, default)
        if not isinstance(value, int) or isinstance(value, bool) or value < 0:
            self.fail(f"{location}.{key}", f"must be a whole number of 0 or more, not {value!r}")
        return value

    def numbers(
        self, owner: dict[str, Any], key: str, location: str, default: tuple[float, ...]
    ) -> tuple[float, ...]:
        """Return as many finite numbers as `default` has."""
        value = owner.get(key, default)
        good = isinstance(value, list | tuple) and len(value) == len(default)
        if not good or not all(isinstance(x, int | float) and abs(x) <= LARGEST_NUMBER for x in value):
            self.fail(f"{location}.{key}", f"must be {len(default)} numbers within {LARGEST_NUMBER:g}")
        return tuple(float(x) for x in value)

    def name(self, owner: dict[str, Any], default: str) -> str:
        """Return an object's name, or `default` when it has none."""
        value = owner.get("name")
        if not isinstance(value, str):
            return default
        # Halves of characters and control characters cannot be shown or saved.
        text = "".join(c if c.isprintable() else " " for c in value.encode("utf-8", "replace").decode("utf-8"))
        return text.strip()[:120] or default

    # ---- buffers --------------------------------------------------------------------------------

    def buffer(self, index: object, location: str) -> memoryview:
        """Return the bytes of a buffer."""
        spec = self.item("buffers", index, location)
        number = int(index)  # type: ignore[call-overload]  # item() has checked it
        if number not in self._buffers:
            here = f"buffers[{number}]"
            length = self.integer(spec, "byteLength", here)
            if "uri" in spec:
                data = self.resource(spec["uri"], here)
            elif number == 0 and self._binary is not None:
                data = self._binary
            else:
                self.fail(here, "it has neither a uri nor a binary chunk; export the file again")
            if len(data) < length:
                self.fail(here, f"{length} bytes are announced but {len(data)} are there")
            self._buffers[number] = data[:length]
        return self._buffers[number]

    def resource(self, uri: object, location: str) -> memoryview:
        """Return the bytes a uri stands for: inline data, or a file beside this one."""
        if not isinstance(uri, str):
            self.fail(f"{location}.uri", "must be text")
        if uri.startswith("data:"):
            head, comma, body = uri.partition(",")
            if not comma or not head.endswith(";base64"):
                self.fail(f"{location}.uri", "inline data must be base64")
            try:
                return memoryview(base64.b64decode(body, validate=True))
            except binascii.Error:
                self.fail(f"{location}.uri", "the inline base64 data is damaged")
        return self._beside(unquote(uri), location)

    def _beside(self, name: str, location: str) -> memoryview:
        try:
            path = path_inside(self.path.parent, normpath(name) if name else name)
        except OSError:
            self.fail(f"{location}.uri", f"{name!r} lies outside the file's own folder, which is not read")
        try:
            return memoryview(read_plain(path, LARGEST_FILE, self.path.parent))
        except FileNotFoundError:
            self.fail(f"{location}.uri", f"the file {name!r} is missing; put it beside {self.path.name}")
        except OSError as error:
            self.fail(f"{location}.uri", f"the file {name!r} cannot be read: {error.strerror}")

    def view(self, index: object, location: str) -> tuple[memoryview, int]:
        """Return the bytes of a buffer view and its stride (0: tightly packed)."""
        spec = self.item("bufferViews", index, location)
        here = f"bufferViews[{index}]"
        data = self.buffer(spec.get("buffer"), here)
        offset = self.integer(spec, "byteOffset", here, 0)
        length = self.integer(spec, "byteLength", here)
        if offset + length > len(data):
            self.fail(here, f"bytes {offset} to {offset + length} lie outside its buffer of {len(data)}")
        stride = self.integer(spec, "byteStride", here, 0)
        if stride and not 4 <= stride <= 252:
            self.fail(f"{here}.byteStride", f"must be 4 to 252, not {stride}")
        return data[offset : offset + length], stride

    # ---- accessors ------------------------------------------------------------------------------

    def accessor(self, index: object, location: str, kinds: tuple[str, ...]) -> NDArray[Any]:
        """Return an accessor's values as (count, components), integers and floats as they are stored.

        Normalised integers come as float32 (glTF 2.0, section 3.6.2.2).
        """
        spec = self.item("accessors", index, location)
        here = f"accessors[{index}]"
        kind = spec.get("type")
        if kind not in kinds:
            self.fail(f"{here}.type", f"{location} needs {' or '.join(kinds)}, not {kind!r}")
        component = spec.get("componentType")
        if not isinstance(component, int) or component not in COMPONENTS:
            self.fail(f"{here}.componentType", f"{component!r} is not one of glTF's")
        dtype = np.dtype(COMPONENTS[component]).newbyteorder("<")
        count = self.integer(spec, "count", here)
        width = SHAPES[kind]
        if count * width * max(dtype.itemsize, 4) > LARGEST_ACCESSOR:
            self.fail(f"{here}.count", f"{count} is absurd; the file is damaged")
        if "bufferView" in spec:
            data, stride = self.view(spec["bufferView"], here)
            offset = self.integer(spec, "byteOffset", here, 0)
            values = self._strided(data, offset, stride, count, kind, dtype, here)
        else:
            self._implied += count * width * dtype.itemsize
            if self._implied > MAX_IMPLIED:
                self.fail(f"{here}.count", f"{count} values that are not in the file are too many; export it again")
            values = np.zeros((count, width), dtype)
        if "sparse" in spec:
            values = self._sparse(spec["sparse"], values, kind, dtype, here)
        if spec.get("normalized") is True and dtype.kind in "iu":
            values = _normalised(values)
        return values

    def _strided(
        self,
        data: memoryview,
        offset: int,
        stride: int,
        count: int,
        kind: str,
        dtype: np.dtype[Any],
        here: str,
    ) -> NDArray[Any]:
        side = MATRIX_SIDES.get(kind, 0)
        # Columns of small matrices start on four-byte boundaries (glTF 2.0, section 3.6.2.4).
        column = -(-side * dtype.itemsize // 4) * 4 if side else 0
        size = column * side if side else SHAPES[kind] * dtype.itemsize
        step = stride or size
        if step < size:
            self.fail(here, f"a stride of {step} is too short for {kind} of {size} bytes")
        needed = offset + step * (count - 1) + size if count else 0
        if needed > len(data):
            self.fail(here, f"needs {needed} bytes but its buffer view has {len(data)}")
        if count == 0:
            return np.zeros((0, SHAPES[kind]), dtype)
        shape, strides = (
            ((count, side, side), (step, column, dtype.itemsize))
            if side
            else ((count, SHAPES[kind]), (step, dtype.itemsize))
        )
        view: NDArray[Any] = np.ndarray(shape, dtype, data, offset, strides)
        return view.reshape(count, -1)

    def _sparse(self, spec: object, values: NDArray[Any], kind: str, dtype: np.dtype[Any], here: str) -> NDArray[Any]:
        location = f"{here}.sparse"
        if not isinstance(spec, dict):
            self.fail(location, "must be an object")
        count = self.integer(spec, "count", location)
        index_spec, value_spec = spec.get("indices"), spec.get("values")
        if not isinstance(index_spec, dict) or not isinstance(value_spec, dict):
            self.fail(location, "it needs indices and values")
        component = index_spec.get("componentType")
        if not isinstance(component, int) or component not in {5121, 5123, 5125}:
            self.fail(f"{location}.indices.componentType", f"{component!r} is not allowed")
        if count > len(values):
            self.fail(f"{location}.count", f"{count} is more than the {len(values)} values there are")
        data, _ = self.view(index_spec.get("bufferView"), location)
        offset = self.integer(index_spec, "byteOffset", location, 0)
        index_type = np.dtype(COMPONENTS[component]).newbyteorder("<")
        rows = self._strided(data, offset, 0, count, "SCALAR", index_type, location)[:, 0].astype(np.int64)
        if count and (int(rows.max()) >= len(values) or bool(np.any(np.diff(rows) <= 0))):
            self.fail(f"{location}.indices", "must rise and stay below the accessor's count")
        data, _ = self.view(value_spec.get("bufferView"), location)
        offset = self.integer(value_spec, "byteOffset", location, 0)
        result = values.copy()
        result[rows] = self._strided(data, offset, 0, count, kind, dtype, location)
        return result

    def positions(self, index: object, location: str) -> NDArray[np.float32]:
        """Return an accessor of positions (count, 3), none farther than FARTHEST from the middle."""
        values = self.floats(index, location, ("VEC3",))
        far = (np.abs(values) > FARTHEST).any(axis=1)
        if far.any():
            self.fail(
                f"accessors[{index}]",
                f"{location}: vertex {int(far.argmax())} lies more than {FARTHEST:,.0f} m away; mend the mesh",
            )
        return values

    def floats(self, index: object, location: str, kinds: tuple[str, ...]) -> NDArray[np.float32]:
        """Return an accessor as finite float32 (count, components)."""
        values = np.ascontiguousarray(self.accessor(index, location, kinds), dtype=np.float32)
        bad = ~np.isfinite(values).all(axis=1)
        if bad.any():
            problem = f"{location}: value {int(bad.argmax())} is not a finite number; mend it and export again"
            self.fail(f"accessors[{index}]", problem)
        return values

    def check_count(self, values: NDArray[Any], count: int, location: str) -> None:
        """Refuse values that are not one a vertex."""
        if len(values) != count:
            self.fail(location, f"{len(values)} values for {count} vertices")

    def indices(self, index: object, location: str, below: int) -> NDArray[np.int32]:
        """Return an accessor of whole numbers, each checked to be less than `below`."""
        values = self.accessor(index, location, ("SCALAR", "VEC4"))
        if values.dtype.kind != "u":
            self.fail(f"accessors[{index}]", f"{location} needs whole numbers of an unsigned kind")
        if values.size and int(values.max()) >= below:
            self.fail(f"accessors[{index}]", f"{location}: index {int(values.max())} is out of range (below {below})")
        return np.ascontiguousarray(values, dtype=np.int32)


def _normalised(values: NDArray[Any]) -> NDArray[np.float32]:
    limit = np.float32(np.iinfo(values.dtype).max)
    return np.maximum(values.astype(np.float32) / limit, np.float32(-1.0))
