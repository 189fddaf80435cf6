"""Where two surfaces meet: the curve that lies on both, and how long it is.

Triangles of the two that cross give a rough line; its places are then moved onto both surfaces at once, each step to the
place nearest by that lies on both tangent planes (Newton's method for two equations in three coordinates, the shortest
solution; A. Ben-Israel, J. Math. Anal. Appl. 15 (1966) 243-252), and more are put between them until no chord is seen to
leave the curve. Where the surfaces touch and do not cross, or lie upon each other, there is no such curve. A closed line
smaller than a triangle of the rough surfaces may be missed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from ..curves.branches import Extrapolated, extrapolated, halved, joined, length_of, runs
from .isosurface import ImplicitField
from .mesh import Array, Mesh, sides_of

_GROUP = 8  # boxes joined to a larger one
_STEPS = 8
_FINER = 6  # rounds of places between places
_NUDGE = 3e-7  # of the size: so that no corner of one lies on an edge of the other by its very making
_ON = 1e-9  # of the size: so near to both surfaces a place counts as on them
_NEAR, _TOUCHING = 0.02, 1e-3  # of the size: an end is no farther from the rough one; what may be missing where edges are touched
_BESIDE = 1e-7  # of the size: so near to an edge a place lies on it
_AT_REST = 1e-15  # of the size: steps so short change nothing
_LEVEL = 1e-6  # sine of the angle between the surfaces: less, and they touch
_SMALL = 0.35  # a sine that may be about to vanish
_REACH = 4.0  # in cells: so near to a place where the surfaces touch a rough line is not followed
_LEADS = 60
_BORDERING = 5  # pieces one after another along the edges of both
_ALONG = 1e-4  # of the size on paper: a piece so near to an edge runs along it


class TangentFace(Protocol):
    """A surface as its tangent planes: foot, normal and params of the place on it near each place (n, 3) of space."""

    def plane(self, places: Array, params: Array | None) -> tuple[Array, Array, Array | None]: ...


@dataclass(frozen=True, slots=True)
class LevelFace:
    """Zeros of one of several fields, of each place that which is nearest."""

    fields: list[ImplicitField]

    def plane(self, places: Array, params: Array | None) -> tuple[Array, Array, Array | None]:
        """Nearest points (n, 3), normals (n, 3) and parameters of the tangent planes at places (n, 3)."""
        best: tuple[Array, Array, Array] | None = None
        for field in self.fields:
            value, slope = field.at(places), field.gradient(places)
            with np.errstate(all="ignore"):
                size = (slope * slope).sum(axis=1)
                away = np.where(size > 0, value / size, np.nan)
                foot = places - away[:, None] * slope
                distance = np.nan_to_num(np.abs(away) * np.sqrt(size), nan=np.inf)
            if best is None:
                best = foot, slope, distance
            else:
                nearer = distance < best[2]
                best = (np.where(nearer[:, None], foot, best[0]), np.where(nearer[:, None], slope, best[1]), np.minimum(distance, best[2]))
        assert best is not None
        return best[0], best[1], params


@dataclass(frozen=True, slots=True)
class SheetFace:
    """position: of two arrays (n,), to (n, 3); tangents: to the derivatives along both, each (n, 3)."""

    position: Callable[[Array, Array], Array]
    tangents: Callable[[Array, Array], tuple[Array, Array]]

    def plane(self, places: Array, params: Array | None) -> tuple[Array, Array, Array | None]:
        """Nearest points (n, 3), normals (n, 3) and parameters (n, 2) of the tangent planes at places (n, 3)."""
        assert params is not None
        with np.errstate(all="ignore"):
            du, dv = self.tangents(*params.T)
            away = places - self.position(*params.T)
            # The foot on the tangent plane in its own two directions (normal equations of two unknowns).
            uu, uv, vv = ((p * q).sum(axis=1) for p, q in ((du, du), (du, dv), (dv, dv)))
            a, b = (away * du).sum(axis=1), (away * dv).sum(axis=1)
            turn = uu * vv - uv * uv
            step = np.column_stack([a * vv - b * uv, b * uu - a * uv]) / turn[:, None]
            params = params + step
            foot = self.position(*params.T)
            normal = np.cross(*self.tangents(*params.T))
        return foot, normal, params

    def edge(self, params: Array | None, which: int, limit: float) -> tuple[Array, float]:
        """The plane, its normal and offset, that stands on the surface along its edge, where one of its params is at a limit."""
        assert params is not None
        at = params.copy()
        at[:, which] = limit
        tangents = self.tangents(*at.T)
        normal = np.cross(np.cross(*tangents), tangents[1 - which])[0]
        return normal, float(normal @ self.position(*at.T)[0])


@dataclass
class Meeting:
    """places (n, 3): branches divided by NaN; length: of all, with how far the last refinement moved it."""

    places: Array
    branches: int
    closed: int
    length: Extrapolated


def meeting(
    one: Mesh, other: Mesh, faces: tuple[TangentFace, TangentFace], scale: Array, tolerance: float, window: Array | None = None
) -> Meeting:
    """The curve on both surfaces, given as triangles and as faces.

    scale   (3,): coordinates times this are lengths on paper, like the tolerance that chords keep
    window  (3, 2): the box that it ends at, where triangles are too coarse to tell that it leaves; infinite where there is no end
    """
    lines = _rough(one, other, scale)
    if not lines:
        return Meeting(np.empty((0, 3)), 0, 0, (0.0, 0.0))
    curve = _Curve(faces, scale, one, other)
    found: list[Array] = []
    for line in lines:
        for branch in curve.exact(line, tolerance):
            found += [branch] if window is None else curve.within(branch, window)
    lengths = [[length_of(stage[:, :3]) for stage in halved(branch, curve.onto_both)] for branch in found]
    # Only now: where a closed sheet has its seam, params jump.
    whole = _welded([b[:, :3] for b in found], 1e-7 * curve.size)
    closed = sum(_apart(b[0], b[-1]) < 1e-7 * curve.size for b in whole)
    length, moved = extrapolated(lengths)
    return Meeting(joined(whole, 3), len(whole), closed, (length, moved + curve.doubt))


class _Curve:
    """Rows of places: three coordinates, then the two params on each surface (NaN where it has none)."""

    def __init__(self, faces: tuple[TangentFace, TangentFace], scale: Array, one: Mesh, other: Mesh) -> None:
        self.faces, self.scale = faces, scale
        seen = np.concatenate([one.vertices, other.vertices])
        self.size = float(np.ptp(seen, axis=0).max())
        self.paper = float((np.ptp(seen, axis=0) * scale).max())
        # Where surfaces end: faces of the box, spans of heights.
        self.meshes = (one, other)
        self.limits = [{float(v) for m in (one, other) for v in (m.vertices[:, k].min(), m.vertices[:, k].max())} for k in range(3)]
        self.doubt = 0.0  # of the length, from ends that are known only as well as the triangles

    def onto_both(self, rows: Array) -> Array:
        return self._moved(rows)[0]

    def _moved(self, rows: Array) -> tuple[Array, Array, Array]:
        """Rows moved onto both surfaces, whether each came to lie there, and the surfaces' normals crossed: a vector
        along the curve, as long as the sine of the angle between the surfaces."""
        places, params = rows[:, :3].copy(), [rows[:, 3:5].copy(), rows[:, 5:7].copy()]
        for _ in range(_STEPS):
            planes = []
            for k, face in enumerate(self.faces):
                foot, normal, params[k] = face.plane(places, params[k])
                planes.append((foot, normal))
            with np.errstate(all="ignore"):
                (p, n), (q, m) = ((f, v / np.linalg.norm(v, axis=1, keepdims=True)) for f, v in planes)
                # Away from the two planes, and the shortest move that brings it onto both.
                a, b = ((p - places) * n).sum(axis=1), ((q - places) * m).sum(axis=1)
                c = (n * m).sum(axis=1)
                along = np.cross(n, m)
                turn = (along * along).sum(axis=1)
                move = ((a - c * b) / turn)[:, None] * n + ((b - c * a) / turn)[:, None] * m
                length = np.linalg.norm(move, axis=1)
                places = np.where(np.isfinite(length)[:, None], places + move, places)
            if not (length > _AT_REST * self.size).any():
                break
        with np.errstate(all="ignore"):
            good = (length < _ON * self.size) & (turn > _LEVEL**2)
        return np.column_stack([places, *params]), good, along

    def exact(self, line: Array, tolerance: float) -> list[Array]:
        """The branches that a rough line becomes. Where the surfaces touch in a place the curve crosses itself there, and
        the rough line knows nothing: it is cut before, and the ends are led into that place."""
        closed = bool((line[0, :3] == line[-1, :3]).all())
        line, cell = _thinned(line)
        placed, good, along = self._moved(line)
        paper = np.linalg.norm((placed[:, :3] - line[:, :3]) * self.scale, axis=1)
        good &= paper < 0.05 * self.paper
        calm = self._calm(placed, along, good, cell)
        kept = np.ones(len(placed), dtype=bool)
        for run in runs(calm):
            # The angle may turn before it comes to nothing: then the surfaces only come near to touching.
            sides = [np.arange(run.start - 2, run.start), np.arange(run.stop + 1, run.stop - 1, -1)]
            for side in sides if closed else [s for s in sides if s.min() >= 0 and s.max() < len(placed)]:
                rows = placed[side % (len(placed) - 1) if closed else side]
                if self._led(rows, cell) is rows:
                    # Rough places say little there: others are put between those before and after.
                    calm[run] = False
                    kept[run] = run.start == 0 or run.stop == len(placed)
        good &= ~calm
        placed, good = placed[kept], good[kept]
        if closed and not good.all() and good[0]:
            start = int(np.argmin(good))
            placed, good = (np.concatenate([v[start:-1], v[: start + 1]]) for v in (placed, good))
        found = []
        for run in runs(good):
            branch = placed[run]
            if run.start > 0 or (closed and not good.all()):
                branch = self._led(branch[::-1], cell)[::-1]
            if run.stop < len(placed) or (closed and not good.all()):
                branch = self._led(branch, cell)
            if len(branch) < 2:
                continue
            if not closed and run.start == 0:
                branch = self._ended(branch[::-1], line[0])[::-1]
            if not closed and run.stop == len(placed):
                branch = self._ended(branch, line[-1])
            found.append(self._finer(branch, tolerance))
        return found

    def _ended(self, branch: Array, rough: Array) -> Array:
        """The branch up to the very edge of a surface: the place on both surfaces and on the plane in which one of them ends, an
        axis' or one along the edge of a sheet. Where that does not settle it, the end stays as the triangles had it, and that
        is doubted."""
        for edge in self._edges(rough):
            end = self._on_edge(branch[-1], edge)
            if end is not None and _apart(end[:3], rough[:3]) < _NEAR * self.size:
                beyond = (end[:3] - branch[-1][:3]) @ (branch[-1][:3] - branch[-2][:3]) < 0
                return np.concatenate([branch[:-1] if beyond else branch, end[None]])
        self.doubt += 2 * _apart(branch[-1][:3], rough[:3]) + _TOUCHING * self.size
        return branch

    def _edges(self, rough: Array) -> Iterator[Callable[[list[Array | None]], tuple[Array, float]]]:
        """Edges that a place lies on: from the params to a plane, its normal and offset."""
        for k in range(3):
            for limit in self.limits[k]:
                if abs(rough[k] - limit) < _BESIDE * self.size:
                    yield lambda _, k=k, limit=limit: (np.eye(3)[k], limit)  # type: ignore[misc]
        for j, (face, mesh) in enumerate(zip(self.faces, self.meshes, strict=True)):
            if not isinstance(face, SheetFace) or mesh.params is None:
                continue
            for which in range(2):
                for limit in (float(mesh.params[:, which].min()), float(mesh.params[:, which].max())):
                    if abs(rough[3 + 2 * j + which] - limit) < _BESIDE * float(np.ptp(mesh.params[:, which])):
                        yield lambda params, j=j, face=face, which=which, limit=limit: face.edge(params[j], which, limit)  # type: ignore[misc]

    def _on_edge(self, row: Array, edge: Callable[[list[Array | None]], tuple[Array, float]]) -> Array | None:
        place, params = row[:3].copy(), [row[None, 3:5], row[None, 5:7]]
        for _ in range(_STEPS):
            planes, feet = [], []
            for j, face in enumerate(self.faces):
                foot, normal, params[j] = face.plane(place[None], params[j])
                planes.append(normal[0])
                feet.append(float(normal[0] @ foot[0]))
            normal, offset = edge(params)
            sides = np.array([*planes, normal])
            sizes = np.linalg.norm(sides, axis=1)
            if not np.isfinite(sizes).all() or sizes.min() == 0 or abs(np.linalg.det(sides / sizes[:, None])) < 1e-3:
                return None  # the curve only touches the edge
            before, place = place, np.linalg.solve(sides, np.array([*feet, offset]))
        return np.concatenate([place, params[0][0], params[1][0]]) if _apart(place, before) < _ON * self.size else None

    def within(self, branch: Array, window: Array) -> list[Array]:
        """The parts of a branch that lie in a box, each up to the very face of it."""
        branch = self._peaked(branch, window)
        room = _BESIDE * self.size
        outside = ((branch[:, :3] < window[:, 0] - room) | (branch[:, :3] > window[:, 1] + room)).any(axis=1)
        if not outside.any():
            return [branch]
        if (branch[0, :3] == branch[-1, :3]).all():
            start = int(np.argmax(outside))
            branch, outside = (np.concatenate([v[start:-1], v[: start + 1]]) for v in (branch, outside))
        found = []
        for run in runs(~outside):
            part = branch[run]
            if run.stop < len(branch):
                part = self._to_face(part, branch[run.stop], window)
            if run.start > 0:
                part = self._to_face(part[::-1], branch[run.start - 1], window)[::-1]
            if len(part) > 1:
                found.append(part)
        return found

    def _peaked(self, branch: Array, window: Array) -> Array:
        """With a place more where a coordinate is largest or smallest between places, and may be so beyond the window."""
        peaks: dict[int, list[Array]] = {}
        for k in range(3):
            for limit, side in zip(window[k], (-1.0, 1.0), strict=True):
                if not np.isfinite(limit):
                    continue
                t = side * branch[:, k]
                a, b, c = t[:-2], t[1:-1], t[2:]
                bend = 2 * b - a - c
                top = np.flatnonzero((b >= a) & (b >= c) & (bend > 0) & (b <= side * limit))
                # The parabola through three places in equal steps of a parameter.
                shift = (c[top] - a[top]) / (2 * bend[top])
                high = b[top] + (c[top] - a[top]) ** 2 / (8 * bend[top])
                for i, d in zip(top[high > side * limit], shift[high > side * limit], strict=True):
                    j, share = (i + 1, d) if d > 0 else (i, 1 + d)
                    peaks.setdefault(int(j) + 1, []).append(branch[j] * (1 - share) + branch[j + 1] * share)
        if not peaks:
            return branch
        places = np.array([k for k, rows in peaks.items() for _ in rows])
        moved, good, _ = self._moved(np.array([r for rows in peaks.values() for r in rows]))
        return np.insert(branch, places[good], moved[good], axis=0)

    def _to_face(self, part: Array, beyond: Array, window: Array) -> Array:
        """A part with its last end led to the face of the window that lies before the next place, which is beyond."""
        best: tuple[float, Array] | None = None
        step = beyond[:3] - part[-1][:3]
        for k in range(3):
            for limit, side in zip(window[k], (-1.0, 1.0), strict=True):
                if not side * beyond[k] > side * limit:
                    continue
                end = self._on_edge(part[-1], lambda _, k=k, limit=limit: (np.eye(3)[k], limit))  # type: ignore[misc]
                along = np.nan if end is None else float((end[:3] - part[-1][:3]) @ step / (step @ step))
                if end is not None and -0.1 <= along <= 1.1 and (best is None or along < best[0]):
                    best = along, end
        if best is None:
            self.doubt += float(np.linalg.norm(step))
            return part
        return np.concatenate([part, best[1][None]])

    def _calm(self, placed: Array, along: Array, good: Array, cell: float) -> Array:
        """Which places lie within a few cells of one where the surfaces touch, as the fall of the angle tells."""
        with np.errstate(all="ignore"):
            sine = np.nan_to_num(np.linalg.norm(along, axis=1))
            steps = np.linalg.norm(np.diff(placed[:, :3], axis=0), axis=1)
            fall = np.nan_to_num(np.abs(np.diff(sine)) / steps)
        fall = np.maximum(np.append(fall, 0.0), np.append(0.0, fall))
        return np.asarray(good & (sine < _REACH * cell * fall) & (sine < _SMALL))

    def _led(self, branch: Array, cell: float) -> Array:
        """The branch with its last end led along the curve into the place where the surfaces touch; as it was if there is none."""
        if len(branch) < 2:
            return branch
        rows = [branch[-2], branch[-1]]
        _, _, along = self._moved(np.array(rows))
        sines = np.linalg.norm(along, axis=1).tolist()
        for _ in range(_LEADS):
            step = rows[-1][:3] - rows[-2][:3]
            size = float(np.linalg.norm(step))
            ahead = along[-1] / sines[-1]
            ahead = ahead if ahead @ step > 0 else -ahead
            fall = (sines[-2] - sines[-1]) / size if size else 0.0
            if not fall > 0:
                return branch
            left = sines[-1] / fall
            if left < 1e-3 * cell:
                last = rows[-1].copy()
                last[:3] += ahead * left
                return np.concatenate([branch, np.array([*rows[2:], last])])
            if left > 12 * cell:
                return branch
            guess = rows[-1].copy()
            guess[:3] += ahead * min(0.6 * left, cell)
            placed, good, along = self._moved(guess[None])
            if not good[0] or _apart(placed[0, :3], guess[:3]) > cell:
                return branch
            rows.append(placed[0])
            sines.append(float(np.linalg.norm(along[0])))
        return branch

    def _finer(self, branch: Array, tolerance: float) -> Array:
        for _ in range(_FINER):
            middle, good, _ = self._moved((branch[:-1] + branch[1:]) / 2)
            chord = (branch[:-1, :3] + branch[1:, :3]) / 2
            bend = np.linalg.norm((middle[:, :3] - chord) * self.scale, axis=1)
            half = np.linalg.norm((branch[1:, :3] - branch[:-1, :3]) * self.scale, axis=1)
            wanted = np.flatnonzero(good & (bend > tolerance) & (bend < half))
            if not wanted.size or len(branch) > 20_000:
                break
            branch = np.insert(branch, wanted + 1, middle[wanted], axis=0)
        return branch


# ------------------------------------------------------------ the rough line


def _rough(one: Mesh, other: Mesh, scale: Array) -> list[Array]:
    """Lines along which triangles of the two cross, as rows of places with params."""
    a = one.vertices * scale
    size = float(np.ptp(a, axis=0).max()) or 1.0
    b = other.vertices * scale + _NUDGE * size * np.array([0.618, -0.414, 0.732])
    left, right = _near(a, one.triangles, b, other.triangles)
    if not left.size or (_upon(one, left) and _upon(other, right)):
        return []
    keys, places = [], []
    for (p, mesh, t), (q, against, u), first in (((a, one, left), (b, other, right), True), ((b, other, right), (a, one, left), False)):
        for k in range(3):
            ends = mesh.triangles[t][:, [k, (k + 1) % 3]]
            ends = np.sort(ends, axis=1)  # an edge is the same from both its triangles, to the last bit
            share, within, r, s = _pierced(p[ends[:, 0]], p[ends[:, 1]], *(q[against.triangles[u][:, j]] for j in range(3)))
            at = np.flatnonzero(within)
            if not at.size:
                continue
            rows = _row(mesh, against, ends[at], share[at], u[at], r[at], s[at], first)
            edge = ends[at, 0].astype(np.int64) * len(mesh.vertices) + ends[at, 1]
            keys.append(np.column_stack([np.full(at.size, first), edge, u[at], at]))
            places.append(rows)
    if not keys:
        return []
    every, row = np.concatenate(keys), np.concatenate(places)
    _, keep, node = np.unique(every[:, :3], axis=0, return_index=True, return_inverse=True)
    # Each pair of triangles that crosses holds two places: a piece of the line.
    order = np.argsort(every[:, 3], kind="stable")
    pair, ends_of = every[order, 3], node.ravel()[order]
    start = np.flatnonzero(np.diff(pair, prepend=-1))
    count = np.diff(np.append(start, len(pair)))
    start = start[count == 2]
    # Along an edge that the two have in common, triangles cross or do not as rounding has it.
    middle = (row[keep[ends_of[start]], :3] + row[keep[ends_of[start + 1]], :3]) / 2 * scale
    lost = _along_edge(one, left[pair[start]], middle, scale, size) & _along_edge(other, right[pair[start]], middle, scale, size)
    found = []
    for nodes, pieces in _chained(np.column_stack([ends_of[start], ends_of[start + 1]])):
        kept = np.ones(len(pieces), dtype=bool)
        for run in runs(lost[pieces]):
            if run.stop - run.start > _BORDERING:
                kept[run] = False
        found += [row[keep[nodes[run.start : run.stop + 1]]] for run in runs(kept)]
    return found


def _along_edge(mesh: Mesh, triangles: Array, places: Array, scale: Array, size: float) -> Array:
    """Which places (n, 3) on paper, each on a triangle of a mesh, lie on a side that is no other triangle's, or on its end."""
    edges, side, count = sides_of(mesh)
    alone = count == 1
    ends = np.zeros(len(mesh.vertices), dtype=bool)
    ends[edges[alone].ravel()] = True
    found = np.zeros(len(triangles), dtype=bool)
    for k in range(3):
        here = side[triangles, k]
        p, q = (mesh.vertices[edges[here, j]] * scale for j in range(2))
        with np.errstate(all="ignore"):
            share = np.clip(((places - p) * (q - p)).sum(axis=1) / ((q - p) ** 2).sum(axis=1), 0, 1)
        away = np.linalg.norm(places - p - share[:, None] * (q - p), axis=1)
        found |= alone[here] & (away < _ALONG * size)
        corner = mesh.triangles[triangles, k]
        found |= ends[corner] & (np.linalg.norm(places - mesh.vertices[corner] * scale, axis=1) < _ALONG * size)
    return found


def _upon(mesh: Mesh, near: Array) -> bool:
    """Whether so many triangles come near the other surface that the two lie upon each other."""
    return len(np.unique(near)) > 0.6 * len(mesh.triangles)


def _row(mesh: Mesh, against: Mesh, ends: Array, share: Array, u: Array, r: Array, s: Array, first: bool) -> Array:
    def along(values: Array) -> Array:
        return values[ends[:, 0]] * (1 - share)[:, None] + values[ends[:, 1]] * share[:, None]

    none = np.full((len(ends), 2), np.nan)
    own = none if mesh.params is None else along(mesh.params)
    theirs = none
    if against.params is not None:
        corners = against.params[against.triangles[u]]
        theirs = corners[:, 0] * (1 - r - s)[:, None] + corners[:, 1] * r[:, None] + corners[:, 2] * s[:, None]
    return np.column_stack([along(mesh.vertices), *((own, theirs) if first else (theirs, own))])


def _pierced(p: Array, q: Array, a: Array, b: Array, c: Array) -> tuple[Array, Array, Array, Array]:
    """Where segments pq go through triangles abc: share along pq, whether they do, shares of b and c. (T. Möller and
    B. Trumbore, J. Graphics Tools 2 (1997) 21-28.)"""
    along, u, v, away = q - p, b - a, c - a, p - a
    with np.errstate(all="ignore"):
        h = np.cross(along, v)
        turn = (u * h).sum(axis=1)
        r = (away * h).sum(axis=1) / turn
        k = np.cross(away, u)
        s = (along * k).sum(axis=1) / turn
        share = (v * k).sum(axis=1) / turn
        within = (r >= 0) & (s >= 0) & (r + s <= 1) & (share >= 0) & (share <= 1)
    return share, within & np.isfinite(share), r, s


def _chained(pieces: Array) -> list[tuple[Array, Array]]:
    """Pieces (k, 2) between numbered places, put end to end: the places and the pieces between them. A closed line ends with
    the place that it begins with."""
    at: dict[int, list[int]] = {}
    for k, (i, j) in enumerate(pieces.tolist()):
        at.setdefault(i, []).append(k)
        at.setdefault(j, []).append(k)
    left = set(range(len(pieces)))
    ends = [k for k, (i, j) in enumerate(pieces.tolist()) if len(at[i]) == 1 or len(at[j]) == 1]
    found = []
    for first in [*ends, *range(len(pieces))]:
        if first not in left:
            continue
        left.discard(first)
        i, j = pieces[first].tolist()
        if len(at[j]) == 1 and len(at[i]) != 1:
            i, j = j, i
        chain, used = [i, j], [first]
        while True:
            ahead = next((k for k in at[chain[-1]] if k in left), None)
            if ahead is None:
                break
            left.discard(ahead)
            used.append(ahead)
            i, j = pieces[ahead].tolist()
            chain.append(j if i == chain[-1] else i)
        found.append((np.array(chain), np.array(used)))
    return found


def _thinned(line: Array) -> tuple[Array, float]:
    """Triangles give places at any distance: only such as lie a usual step apart, and the length of that step."""
    steps = np.linalg.norm(np.diff(line[:, :3], axis=0), axis=1)
    cell = float(np.quantile(steps, 0.75))
    along = np.concatenate([[0.0], np.cumsum(steps)])
    count = max(int(along[-1] / cell), 3) if cell > 0 else 1
    keep = np.unique(np.searchsorted(along, np.linspace(0, along[-1], count + 1)))
    keep = np.minimum(keep, len(line) - 1)
    return line[np.unique(np.concatenate([[0], keep, [len(line) - 1]]))], cell


def _near(a: Array, ta: Array, b: Array, tb: Array) -> tuple[Array, Array]:
    """Pairs of triangles whose boxes overlap: boxes of boxes, looked at from the largest down."""
    one, other = (_Tree(p, t, q[u.ravel()]) for p, t, q, u in ((a, ta, b, tb), (b, tb, a, ta)))
    if not one.order.size or not other.order.size:
        return np.empty(0, dtype=int), np.empty(0, dtype=int)
    depth = min(len(one.levels), len(other.levels))
    i, j = (v.ravel() for v in np.meshgrid(np.arange(one.count(depth - 1)), np.arange(other.count(depth - 1)), indexing="ij"))
    for level in range(depth - 1, -1, -1):
        p, q = one.levels[level], other.levels[level]
        good = ((p[0][i] <= q[1][j]) & (q[0][j] <= p[1][i])).all(axis=1)
        i, j = i[good], j[good]
        if level == 0:
            break
        i, j = (v.ravel() for v in np.broadcast_arrays(
            (i[:, None] * _GROUP + np.arange(_GROUP))[:, :, None], (j[:, None] * _GROUP + np.arange(_GROUP))[:, None, :]))  # fmt: skip
        good = (i < one.count(level - 1)) & (j < other.count(level - 1))
        i, j = i[good], j[good]
    return one.order[i], other.order[j]


class _Tree:
    """Boxes around triangles that lie near each other, and around groups of these; of those within the reach of others."""

    def __init__(self, places: Array, triangles: Array, others: Array) -> None:
        low, high = others.min(axis=0), others.max(axis=0)
        beyond: Array = np.concatenate([places < low, places > high], axis=1)
        chosen = np.flatnonzero(~beyond[triangles].all(axis=1).any(axis=1))
        self.order: Array = chosen
        self.levels: list[tuple[Array, Array]] = []
        if not chosen.size:
            return
        corners = places[triangles[chosen]]
        middle = corners.mean(axis=1)
        low = middle.min(axis=0)
        cell = np.clip(((middle - low) / max(float((middle.max(axis=0) - low).max()), 1e-300) * 1023), 0, 1023).astype(np.int64)
        code = np.zeros(len(chosen), dtype=np.int64)
        for bit in range(10):  # the bits of the three coordinates in turn (Z-order)
            for axis in range(3):
                code |= ((cell[:, axis] >> bit) & 1) << (3 * bit + axis)
        order = np.argsort(code, kind="stable")
        corners = corners[order]
        self.order = chosen[order]
        self.levels = [(corners.min(axis=1), corners.max(axis=1))]
        while len(self.levels[-1][0]) > _GROUP:
            starts = np.arange(0, len(self.levels[-1][0]), _GROUP)
            below = self.levels[-1]
            self.levels.append((np.minimum.reduceat(below[0], starts), np.maximum.reduceat(below[1], starts)))

    def count(self, level: int) -> int:
        return len(self.levels[level][0])


def _apart(p: Array, q: Array) -> float:
    return float(np.linalg.norm(p - q))


def _welded(branches: list[Array], near: float) -> list[Array]:
    """Branches of places whose ends fell together as one; closed ones are left as they are."""
    found = list(branches)
    k = 0
    while k < len(found):
        joint = None
        for j in range(k + 1, len(found)):
            if any(_apart(b[0], b[-1]) < near for b in (found[k], found[j])):
                continue
            joint = next((np.concatenate([p, q[1:]]) for p in (found[k], found[k][::-1]) for q in (found[j], found[j][::-1])
                          if _apart(p[-1], q[0]) < near), None)  # fmt: skip
            if joint is not None:
                found[k] = joint
                del found[j]
                break
        if joint is None:
            k += 1
    return found


__all__ = ["TangentFace", "LevelFace", "Meeting", "SheetFace", "meeting"]
