"""Triangles whose corners lie on a surface, with its true normals there."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

Array = Any  # numpy arrays; shapes are said where they are made


@dataclass
class Mesh:
    """vertices, normals (n, 3), normals of length 1; triangles (m, 3); params (n, 2): where on the sheet, or None."""

    vertices: Array
    normals: Array
    triangles: Array
    params: Array | None = None

    @property
    def empty(self) -> bool:
        return len(self.triangles) == 0


def empty_mesh() -> Mesh:
    return Mesh(np.empty((0, 3)), np.empty((0, 3)), np.empty((0, 3), dtype=np.int32), np.empty((0, 2)))


def corners(mesh: Mesh) -> Array:
    """(m, 3 corners, 3 coordinates)."""
    return mesh.vertices[mesh.triangles]


def area(mesh: Mesh) -> float:
    """The area of the triangles: a little less than that of the curved surface."""
    a, b, c = np.moveaxis(corners(mesh), 1, 0)
    return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2)


def enclosed_volume(mesh: Mesh) -> float:
    """The volume inside of a closed mesh whose triangles are turned alike (the divergence theorem)."""
    a, b, c = np.moveaxis(corners(mesh), 1, 0)
    return float(abs(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6)


def sides_of(mesh: Mesh) -> tuple[Array, Array, Array]:
    """Edges (e, 2), the lower corner first; for each triangle (m, 3) the places among them of its edges 01, 12, 20; how many
    triangles have each (e,)."""
    t = mesh.triangles.astype(np.int64)
    ends = np.sort(np.concatenate([t[:, [0, 1]], t[:, [1, 2]], t[:, [2, 0]]]), axis=1)
    # As one number each: pairs take many times longer to sort.
    count = max(len(mesh.vertices), 1)
    keys, place, times = np.unique(ends[:, 0] * count + ends[:, 1], return_inverse=True, return_counts=True)
    return np.column_stack([keys // count, keys % count]), place.reshape(3, -1).T, times


def unit(vectors: Array) -> Array:
    """Vectors (n, 3) at length 1; those without a length stay NaN."""
    with np.errstate(all="ignore"):
        return vectors / np.linalg.norm(vectors, axis=1, keepdims=True)


def mended_normals(mesh: Mesh) -> Mesh:
    """Normals that no derivative gives (a tip, the edge of a domain) are the means of those of the triangles around."""
    bad = ~np.isfinite(mesh.normals).all(axis=1)
    if bad.any() and not mesh.empty:
        a, b, c = np.moveaxis(corners(mesh), 1, 0)
        faces = np.cross(b - a, c - a)
        # Turned like the known normals at their corners.
        near = np.nan_to_num(mesh.normals)[mesh.triangles].sum(axis=1)
        faces *= np.where(np.einsum("ij,ij->i", faces, near) < 0, -1.0, 1.0)[:, None]
        sums = np.zeros_like(mesh.vertices)
        for k in range(3):
            np.add.at(sums, mesh.triangles[:, k], faces)
        mesh.normals[bad] = np.nan_to_num(unit(sums[bad]), nan=0.0)
        still = bad & (np.abs(mesh.normals).sum(axis=1) == 0)
        mesh.normals[still] = (0.0, 0.0, 1.0)
    return mesh


def clipped(mesh: Mesh, axis: int, limit: float, keep_below: bool) -> Mesh:
    """What of a mesh lies on one side of a plane across an axis; triangles that cross it are cut along it."""
    if mesh.empty:
        return mesh
    away = mesh.vertices[:, axis] - limit
    away = away if keep_below else -away

    def between(edges: Array) -> Mesh:
        found = _mixed(mesh, edges, away[edges[:, 0]] / (away[edges[:, 0]] - away[edges[:, 1]]))
        found.vertices[:, axis] = limit
        return found

    return severed(mesh, away > 0, between)


def severed(mesh: Mesh, outside: Array, between: Callable[[Array], Mesh]) -> Mesh:
    """What of a mesh has its corners not outside (n,); triangles with corners on both sides are cut.

    between: from edges (e, 2), the inner corner first, to a mesh of one corner on each of them
    """
    count = outside[mesh.triangles].sum(axis=1)
    if not count.any():
        return mesh
    whole = mesh.triangles[count == 0]
    cut = mesh.triangles[(count == 1) | (count == 2)]
    if not len(cut):
        return compact(mesh, whole)
    # Turned so that the corner that is alone on its side comes first.
    out = outside[cut]
    alone = np.where(out.sum(axis=1) == 1, np.argmax(out, axis=1), np.argmin(out, axis=1))
    cut = np.take_along_axis(cut, (alone[:, None] + np.arange(3)) % 3, axis=1)
    pairs = np.concatenate([cut[:, [0, 1]], cut[:, [0, 2]]])
    pairs = np.where(outside[pairs[:, :1]], pairs[:, ::-1], pairs)
    first = len(mesh.vertices)
    keys, place = np.unique(pairs[:, 0].astype(np.int64) * first + pairs[:, 1], return_inverse=True)
    edges = np.column_stack([keys // first, keys % first])
    mixed = between(edges)
    one, two = place.reshape(2, -1) + first
    single = out.sum(axis=1) == 2  # the corner that is alone is inside
    inner = np.column_stack([cut[:, 0], one, two])[single]
    quads = np.concatenate([np.column_stack([one, cut[:, 1], cut[:, 2]])[~single], np.column_stack([one, cut[:, 2], two])[~single]])
    joined = Mesh(
        np.concatenate([mesh.vertices, mixed.vertices]), np.concatenate([mesh.normals, mixed.normals]),
        np.concatenate([whole, inner, quads]).astype(np.int32),
        None if mesh.params is None or mixed.params is None else np.concatenate([mesh.params, mixed.params]),
    )  # fmt: skip
    return compact(joined, joined.triangles)


def _mixed(mesh: Mesh, edges: Array, share: Array) -> Mesh:
    def between(values: Array) -> Array:
        return values[edges[:, 0]] * (1 - share)[:, None] + values[edges[:, 1]] * share[:, None]

    params = None if mesh.params is None else between(mesh.params)
    return Mesh(between(mesh.vertices), unit(between(mesh.normals)), np.empty((0, 3), dtype=np.int32), params)


def compact(mesh: Mesh, triangles: Array) -> Mesh:
    """Only these triangles, and the corners that they use."""
    used = np.zeros(len(mesh.vertices), dtype=bool)
    used[triangles.ravel()] = True
    place = np.cumsum(used) - 1
    return Mesh(
        mesh.vertices[used], mesh.normals[used], place[triangles].astype(np.int32),
        None if mesh.params is None else mesh.params[used],
    )  # fmt: skip


def boxed(mesh: Mesh, box: Array) -> Mesh:
    """What of a mesh lies in a box, shape (3, 2)."""
    for axis in range(3):
        mesh = clipped(clipped(mesh, axis, float(box[axis][1]), True), axis, float(box[axis][0]), False)
    return mesh


def together(meshes: list[Mesh]) -> Mesh:
    """Several meshes as one; where each has params they are kept."""
    if len(meshes) == 1:
        return meshes[0]
    starts = np.cumsum([0, *(len(m.vertices) for m in meshes[:-1])])
    triangles = np.concatenate([m.triangles + s for m, s in zip(meshes, starts, strict=True)])
    params = [m.params for m in meshes if m.params is not None]
    return Mesh(
        np.concatenate([m.vertices for m in meshes]), np.concatenate([m.normals for m in meshes]), triangles.astype(np.int32),
        np.concatenate(params) if len(params) == len(meshes) else None,
    )  # fmt: skip
