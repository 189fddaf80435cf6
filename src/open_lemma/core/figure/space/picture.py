"""Surfaces of a scene as a picture at a given resolution, and how deep it reaches, for what is drawn over it."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from matplotlib.colors import to_rgb

from ..style import Theme
from .camera import Camera
from .scene import Scene, Solid

_BAND_SAMPLES = 400_000
_LINE = (0.09, 0.10, 0.13)
_MESH_SHARE = 0.55
_MESH_PT, _LEVEL_PT = 0.35, 0.5
_ALONE = 1.7  # times as wide where there is no sheet under them


@dataclass
class Picture:
    """pixels (h, w, 4) as bytes, colours not multiplied; `depth` (h, w): of the nearest surface that hides, -inf for none.

    left, top   where the picture's corner lies, in pixels from the sheet's left and top
    """

    pixels: Any
    depth: Any
    left: int
    top: int


@dataclass(frozen=True, slots=True)
class Looks:
    """How a scene is dressed: share of the scale of colours for numbers, its colours, colour of a thing."""

    theme: Theme
    grey: bool
    share: Callable[[Any], Any] | None
    colours: Any  # (k, 3)
    colour_of: Callable[[Solid], str]


def taken(scene: Scene, camera: Camera, size: tuple[int, int], per_point: float, looks: Looks, samples: int) -> Picture | None:
    """The picture of all surfaces; None where there are none.

    camera      places to pixels, y upwards from the bottom of the picture
    size        width and height in pixels
    per_point   pixels a point; samples: how many each way in a pixel
    """
    solids = [s for s in scene.things if s.kind in ("surface", "plane") and s.shape.triangles is not None and len(s.shape.triangles)]
    if not solids:
        return None
    return _Taking(scene, camera, size, per_point, looks, samples, solids).picture()


class _Taking:
    def __init__(
        self, scene: Scene, camera: Camera, size: tuple[int, int], per_point: float, looks: Looks, samples: int, solids: list[Solid]
    ) -> None:
        self.scene, self.looks, self.samples, self.solids = scene, looks, samples, solids
        self.per_sample = per_point * samples
        # Only the part of the sheet where surfaces are is worked out.
        seen = np.concatenate([camera.project(s.shape.vertices)[:, :2] for s in solids])
        left, low = np.maximum(np.floor(seen.min(axis=0)).astype(int) - 1, 0)
        right, high = np.minimum(np.ceil(seen.max(axis=0)).astype(int) + 1, size)
        self.size = (max(int(right - left), 1), max(int(high - low), 1))
        self.left, self.top = int(left), int(size[1] - high)
        self.camera = camera.scaled(camera.factor * samples, ((camera.origin[0] - left) * samples, (camera.origin[1] - low) * samples))

    def picture(self) -> Picture:
        # Here and not above: what compiles it is slow to load, and most figures are in the plane.
        from . import raster

        n = self.samples
        width, height = self.size[0] * n, self.size[1] * n
        places, normals, values, triangles, surface = self._gathered(height)
        looks = self._dressed()
        translucent = any(s.opacity < 1 for s in self.solids)
        layers = raster.LAYERS if translucent else 1
        rows = max(n, int(_BAND_SAMPLES / (width * layers)) // n * n)
        lowest = places[triangles, 1].min(axis=1)
        highest = places[triangles, 1].max(axis=1)
        pixels = np.zeros((self.size[1], self.size[0], 4))
        deep = np.full((self.size[1], self.size[0]), -np.inf)
        for top in range(0, height, rows):
            count = min(rows, height - top)
            order = np.flatnonzero((highest >= top) & (lowest <= top + count))
            if not order.size:
                continue
            shape = (count, width, layers)
            depth, owner = np.full(shape, -np.inf), np.full(shape, -1, dtype=np.int32)
            first, second = np.zeros(shape, dtype=np.float32), np.zeros(shape, dtype=np.float32)
            raster.fill(places, triangles, order, top, count, depth, owner, first, second)
            part = slice(top // n, (top + count) // n)
            layers_of = (depth, owner, first, second)
            given = (*layers_of, *looks, raster.light(), self.plain, n, pixels[part], deep[part])
            raster.shade(places, normals, values, triangles, surface, *given)
        cover = np.where(pixels[..., 3:] > 0, pixels[..., 3:], 1.0)
        pixels[..., :3] *= 255 / cover
        pixels[..., 3] *= 255
        pixels += 0.5
        return Picture(np.clip(pixels, 0, 255, out=pixels).astype(np.uint8), deep / n, self.left, self.top)

    def _gathered(self, height: int) -> tuple[Any, Any, Any, Any, Any]:
        places, normals, values, triangles, surface = [], [], [], [], []
        first = 0
        for k, solid in enumerate(self.solids):
            shape = solid.shape
            vertices = shape.vertices.astype(np.float64)
            paper = self.camera.project(vertices)
            paper[:, 1] = height - paper[:, 1]
            places.append(paper)
            normals.append(self.camera.turned(shape.directions))
            values.append(self._values(solid, vertices))
            triangles.append(shape.triangles.astype(np.int64) + first)
            surface.append(np.full(len(shape.triangles), k, dtype=np.int64))
            first += len(vertices)
        joined = [np.ascontiguousarray(np.concatenate(v)) for v in (places, normals, values, triangles, surface)]
        return joined[0], joined[1], joined[2], joined[3], joined[4]

    def _values(self, solid: Solid, vertices: Any) -> Any:
        found = np.zeros((len(vertices), 4))
        raw = vertices[:, 2] if solid.shape.tints is None else solid.shape.tints.astype(np.float64)
        if solid.scaled and self.looks.share is not None:
            found[:, 0] = np.nan_to_num(np.asarray(self.looks.share(raw), dtype=float))
        found[:, 1] = np.nan_to_num(raw)
        if solid.shape.params is not None:
            found[:, 2:4] = solid.shape.params
        return found

    def _dressed(self) -> tuple[Any, ...]:
        """Of each surface its colours, bands and lines, as arrays."""
        solids, looks = self.solids, self.looks
        grey = looks.grey
        colours = np.array([_paper_grey(k) if grey and not s.scaled else to_rgb(looks.colour_of(s)) for k, s in enumerate(solids)])
        opacities = np.array([s.opacity for s in solids], dtype=float)
        self.plain = np.array([int(s.opacity < 1) for s in solids])
        scaled = np.array([int(s.scaled and looks.share is not None) for s in solids])
        bands: list[tuple[float, float]] = []
        band_ends, line_ends = [], []
        lines: list[tuple[int, int, int, float, tuple[float, ...]]] = []
        levels: list[float] = []

        def run(column: int, at: list[float], width: float, colour: tuple[float, ...]) -> None:
            lines.append((column, len(levels), len(levels) + len(at), width * self.per_sample * looks.theme.weight, colour))
            levels.extend(at)

        for s in solids:
            start = len(bands)
            if s.banded and s.levels and looks.share is not None:
                edges = [0.0, *np.clip(np.asarray(looks.share(np.array(s.levels)), dtype=float), 0, 1).tolist(), 1.0]
                bands += [(a, (a + b) / 2) for a, b in itertools.pairwise(edges)]
            band_ends.append((start, len(bands)))
            start = len(lines)
            if s.mesh is not None:
                for column, at in ((2, s.mesh[0]), (3, s.mesh[1])):
                    if at:
                        run(column, sorted(at), _MESH_PT, (*_LINE, _MESH_SHARE))
            if s.levels:
                run(1, sorted(s.levels), _LEVEL_PT * (_ALONE if s.opacity == 0 else 1.0), (*_LINE, 0.9))
            line_ends.append((start, len(lines)))
        line_array = np.array([(c, a, b) for c, a, b, _, _ in lines], dtype=np.int64).reshape(-1, 3)
        ends = np.array(line_ends, dtype=np.int64)
        return (
            colours, opacities, scaled, looks.colours, np.array(bands, dtype=float).reshape(-1, 2),
            *np.array(band_ends, dtype=np.int64).T.copy(), *ends.T.copy(), *line_array.T.copy(),
            np.array([w for *_, w, _ in lines], dtype=float), np.array([c for *_, c in lines], dtype=float).reshape(-1, 4),
            np.array(levels, dtype=float),
        )  # fmt: skip


def _paper_grey(k: int) -> tuple[float, float, float]:
    share = (0.72, 0.9, 0.56, 0.8)[k % 4]
    return share, share, share
