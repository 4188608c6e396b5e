"""The camera: from a view to the numbers that projection needs."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from wraithon.project.project import View


LOWEST_EYE = 0.04


@dataclass(frozen=True)
class Camera:
    """A pinhole camera in world space."""

    eye: NDArray[np.float32]
    """(3,) metres."""
    basis: NDArray[np.float32]
    """(3, 3) rows: right, up, forward."""
    lens: float
    """Half the picture's height over the tangent of half the field of view, in picture heights."""

    def project(self, points: NDArray[np.float32], width: int, height: int) -> NDArray[np.float64]:
        """Return pixel x, pixel y and distance ahead (N, 3) of world points (N, 3)."""
        local = (np.asarray(points, np.float64) - self.eye) @ self.basis.T.astype(np.float64)
        depth = np.where(np.abs(local[:, 2]) < 1e-6, 1e-6, local[:, 2])
        focal = self.lens * height
        x = width / 2 + local[:, 0] / depth * focal
        y = height / 2 - local[:, 1] / depth * focal
        return np.stack([x, y, local[:, 2]], axis=1)

    def ahead(self, points: NDArray[np.float32]) -> NDArray[np.float32]:
        """Return how far ahead of the eye world points (N, 3) are, in metres (N,)."""
        return (points - self.eye) @ self.basis[2]

    def shaken(self, across: float, up: float) -> Camera:
        """Return the camera turned by so many degrees to its right and upwards, without rolling."""
        if not (across or up):
            return self
        yaw, pitch = math.radians(-across), math.radians(up)
        sine, cosine = math.sin(yaw), math.cos(yaw)
        about = np.array(((cosine, 0.0, sine), (0.0, 1.0, 0.0), (-sine, 0.0, cosine)))
        right, over, ahead = self.basis.astype(np.float64) @ about.T
        rows = (
            right, over * math.cos(pitch) - ahead * math.sin(pitch), ahead * math.cos(pitch) + over * math.sin(pitch),
        )  # fmt: skip
        return Camera(self.eye, np.array(rows, np.float32), self.lens)

    def ray(self, x: float, y: float, width: int, height: int) -> NDArray[np.float64]:
        """Return the unit direction (3,) of the ray through a pixel."""
        focal = self.lens * height
        local = np.array([(x - width / 2) / focal, (height / 2 - y) / focal, 1.0])
        direction = local @ self.basis.astype(np.float64)
        return direction / np.linalg.norm(direction)


def camera_of(view: View, centre: tuple[float, float, float]) -> Camera:
    """Return the camera of a view; `centre` is where the character stands, in metres."""
    # Plain numbers: arrays this small would take many times as long.
    tx, ty, tz = (a + b for a, b in zip(view.target, centre if view.follow else (0.0, 0.0, 0.0), strict=True))
    azimuth, elevation = math.radians(view.azimuth), math.radians(view.elevation)
    ex = tx + math.sin(azimuth) * math.cos(elevation) * view.distance
    ey = max(ty + math.sin(elevation) * view.distance, LOWEST_EYE)
    ez = tz + math.cos(azimuth) * math.cos(elevation) * view.distance
    far = math.dist((tx, ty, tz), (ex, ey, ez))
    fx, fy, fz = (tx - ex) / far, (ty - ey) / far, (tz - ez) / far
    across = math.hypot(fx, fz)
    rx, rz = -fz / across, fx / across
    basis = ((rx, 0.0, rz), (-rz * fy, rz * fx - rx * fz, rx * fy), (fx, fy, fz))
    lens = 0.5 / math.tan(math.radians(view.fov) / 2)
    return Camera(np.array((ex, ey, ez), np.float32), np.array(basis, np.float32), lens)
