"""Surfaces as triangles for printing in plastic and for slides (STL, PLY, OBJ, glTF), level lines as GeoJSON (RFC 7946)."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
from matplotlib.colors import to_rgb

from ..core.figure.about import About
from ..core.figure.model import FigureData, plain
from ..core.figure.space.scene import Solid
from ..core.figure.space.window import solid_colour
from ..core.numerics.curves.branches import parted
from ..core.run.readings import NotRead

_MAKER = "Open Lemma"
_STL_HEADER = 80
MESHES = ("stl", "ply", "obj", "glb")


def surfaces_of(figure: FigureData) -> list[Solid]:
    return [t for w in figure.windows() if w.space is not None for t in w.space.things if t.kind == "surface"]


def as_mesh(figure: FigureData, fmt: str, about: About | None = None) -> bytes:
    """All surfaces of a figure in their own units, z upwards, with where they came from. Raises NotRead where there are none.

    In glTF each surface is a mesh of its own with its colour, turned so that y points upwards as that format has it.
    """
    import trimesh

    solids = surfaces_of(figure)
    if not solids:
        raise NotRead("this figure has no surface")
    meshes = [_mesh(trimesh, s) for s in solids]
    found: Any
    if fmt == "glb":
        turn = np.array([[1, 0, 0, 0], [0, 0, 1, 0], [0, -1, 0, 0], [0, 0, 0, 1]], dtype=float)
        scene = trimesh.Scene()
        for solid, mesh in zip(solids, meshes, strict=True):
            mesh.apply_transform(turn)
            scene.add_geometry(mesh, node_name=plain(solid.label) or solid.id, geom_name=plain(solid.label) or solid.id)
        found = scene.export(file_type="glb", tree_postprocessor=lambda tree: tree["asset"].update(_asset(about)))
    else:
        joined: Any = meshes[0] if len(meshes) == 1 else trimesh.util.concatenate(meshes)
        said = {"header": about.text() if about is not None else _MAKER} if fmt == "obj" else {}
        found = joined.export(file_type=fmt, **said)
    data = found if isinstance(found, bytes) else str(found).encode()
    return data if about is None else _stamped(data, fmt, about)


def _asset(about: About | None) -> dict[str, Any]:
    """glTF 2.0, section 5.8 (asset), `extras` for what is one's own."""
    return {"generator": _MAKER, **({"extras": {"source": about.text()}} if about is not None else {})}


def _stamped(data: bytes, fmt: str, about: About) -> bytes:
    if fmt == "stl":
        # Eighty bytes of the writer's choice, which must not begin with "solid".
        return about.brief(_STL_HEADER).encode().ljust(_STL_HEADER, b"\0") + data[_STL_HEADER:]
    if fmt == "ply":
        return data.replace(b"\nelement", b"\ncomment " + about.text().encode() + b"\nelement", 1)
    return data


def _mesh(trimesh: Any, solid: Solid) -> Any:
    shape = solid.shape
    colours = np.tile([*(round(c * 255) for c in to_rgb(solid_colour(solid))), round(solid.opacity * 255)], (len(shape.vertices), 1))
    mesh = trimesh.Trimesh(
        shape.vertices.astype(float), shape.triangles.astype(int), vertex_normals=shape.directions, vertex_colors=colours.astype(np.uint8),
        process=False,
    )  # fmt: skip
    # What lies closed must come out closed: corners that fell together are one, and triangles without an area go.
    mesh.merge_vertices(merge_norm=True, merge_tex=True)
    mesh.update_faces(mesh.nondegenerate_faces())
    mesh.update_faces(mesh.unique_faces())
    mesh.remove_unreferenced_vertices()
    return mesh


def as_geojson(figure: FigureData, about: About | None = None) -> bytes:
    """Level lines, one feature a level, in the numbers of the axes (these are no degrees on the globe unless the script's are).
    Where they came from stands beside them (RFC 7946, section 6.1)."""
    features = []
    for panel in figure.windows():
        for series in panel.series:
            if series.kind != "contours" or series.tints is None:
                continue
            for level in series.levels or []:
                places = np.column_stack([np.where(series.tints == level, series.x, np.nan), series.y])
                lines = [p.tolist() for p in parted(places) if len(p) > 1]
                if lines:
                    properties = {"level": level, **({"label": plain(series.label)} if series.label else {})}
                    geometry = {"type": "MultiLineString", "coordinates": lines}
                    features.append({"type": "Feature", "properties": properties, "geometry": geometry})
    if not features:
        raise NotRead("this figure has no level lines in the plane")
    origin = {} if about is None else {"source": about.text()}
    return json.dumps({"type": "FeatureCollection", **origin, "features": features}, separators=(",", ":")).encode()
