"""What stands in a window on space, as plain data."""

from __future__ import annotations

import base64
import zlib
from dataclasses import dataclass, field, fields
from typing import Any

import numpy as np

from ...record.figures import SpaceKind

DEFAULT_AZIMUTH, DEFAULT_ELEVATION = 35.0, 27.0

_TYPES = {"vertices": "<f4", "normals": "<i2", "triangles": "<u4", "params": "<f4", "tints": "<f4"}
_NORMAL = 32_000  # the length of a normal in whole numbers


@dataclass
class Shape:
    """Triangles with normals of length 1, in whole numbers of 1/32000; params: where on the sheet. tints: numbers as colour.

    vertices (n, 3), normals (n, 3), triangles (m, 3), params (n, 2), tints (n,). For lines and points only vertices count,
    NaN where a line is broken.
    """

    vertices: Any
    normals: Any = None
    triangles: Any = None
    params: Any = None
    tints: Any = None

    def __post_init__(self) -> None:
        # At once as they are kept, so that a figure that was kept is drawn again to the last byte.
        for name, kind in _TYPES.items():
            values = getattr(self, name)
            if values is None:
                continue
            if name == "normals" and np.asarray(values).dtype.kind == "f":
                values = np.round(np.asarray(values) * _NORMAL)
            setattr(self, name, np.ascontiguousarray(values, dtype=kind))

    @property
    def directions(self) -> Any:
        return self.normals.astype(np.float64) / _NORMAL


@dataclass
class Solid:
    """One drawn thing in space. Widths and sizes in points.

    scaled    coloured by the scale of colours: by its tints, or by height where it has none
    opacity   0: no sheet, only what runs on it, in the sheet's colours
    levels    heights (or tints) at which lines run on it; `banded` colours the steps between them evenly
    mesh      values of the two parameters at which lines run on it
    coarse    the same surface in fewer triangles, for turning it on screen
    formula   the functions behind it, as text of the language, in `variables`; for readings
    """

    id: str
    kind: SpaceKind
    line: int
    shape: Shape
    label: str | None = None
    colour: str | None = None
    opacity: float = 1.0
    width: float = 1.25
    size: float = 4.0
    dash: str | None = None
    marker: str | None = None  # None: by itself
    place: int = 0
    text: str | None = None
    side: str | None = None
    scaled: bool = False
    banded: bool = False
    levels: list[float] | None = None
    mesh: list[list[float]] | None = None
    coarse: Shape | None = None
    formula: list[str] | None = None
    variables: list[str] | None = None
    spot: float = 3.4  # how large the spot of a mark is
    what: str = ""  # explicit, parametric, implicit; floor: lines on the floor of the box; meeting: where two surfaces meet


@dataclass
class Scene:
    """azimuth, elevation: from where it is seen, in degrees; proportions: the box's edges along x, y, z; things in order."""

    azimuth: float
    elevation: float
    proportions: list[float]
    things: list[Solid] = field(default_factory=list)
    stretch: str = ""  # what the proportions do to the shape, in words


def packed(scene: Scene) -> dict[str, Any]:
    """As plain data for JSON; `unpacked` gives the same scene back."""

    def plain(thing: Any) -> Any:
        if isinstance(thing, Shape):
            return {name: pack(getattr(thing, name)) for name in _TYPES if getattr(thing, name) is not None}
        return {f.name: plain(value) if isinstance(value := getattr(thing, f.name), Shape) else value for f in fields(thing)}

    return {**plain(scene), "things": [plain(t) for t in scene.things]}


def unpacked(found: dict[str, Any]) -> Scene:
    """The scene that `packed` wrote."""
    things = []
    for thing in found["things"]:
        coarse = thing.get("coarse")
        things.append(Solid(**{**thing, "shape": _shape(thing["shape"]), "coarse": None if coarse is None else _shape(coarse)}))
    return Scene(**{**found, "things": things})


def _shape(found: dict[str, Any]) -> Shape:
    return Shape(**{name: unpack(found[name]) for name in _TYPES if name in found})


def pack(values: Any) -> dict[str, Any]:
    return {"type": values.dtype.str, "shape": list(values.shape), "data": base64.b64encode(zlib.compress(values.tobytes(), 6)).decode()}


def unpack(found: dict[str, Any]) -> Any:
    data = zlib.decompress(base64.b64decode(found["data"]))
    return np.frombuffer(data, dtype=found["type"]).reshape(found["shape"])
