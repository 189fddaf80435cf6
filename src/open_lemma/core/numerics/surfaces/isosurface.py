"""Surfaces F(x, y, z) = 0 in a box: marching cubes, then every corner moved onto the surface itself.

Method: W. E. Lorensen and H. E. Cline's cubes in the form of T. Lewiner and others (Journal of Graphics Tools 8 (2003) 1-15),
as scikit-image has it, on a grid that is worked out only near the surface; Newton steps along the gradient, on the faces of
the box along the gradient's part within the face; triangles halved until they lie close enough. What is smaller than a cell
of the first grid (a seventieth of the box) may be missed.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from skimage.measure import marching_cubes

from .mesh import Array, Mesh, compact, empty_mesh, mended_normals, severed, sides_of, together, unit

MOST_TRIANGLES = 240_000
_CELLS = 70
_STEPS = 4
_MANY_STEPS = 40
_CALM = 0.12  # of the usual change of F: where it is less, a tip may be near
_MOST_TIPS = 16
_LED_ON = 3  # cells beyond the edge of the domain
_BISECTIONS = 30
_LEADS = 40
_ON = 1e-6  # of a cell: how near to the surface a corner must be to count as on it
_FARTHEST = 1000.0  # from the origin: what lies beyond is not looked for
_NEARER = 0.25  # of it: a surface that reaches no farther than it did there has an end
_REACHES = np.array([0.03, 0.3, 2.0, 8.0, 40.0, 200.0, 1000.0])
_STREWN = 500  # places for each reach
_LANDING, _HALVED, _LAST = 9, 30, 5  # rounds, halvings and Newton steps at the end
_CROSSED = 42  # lines each way of a grid that is looked at for changes of sign
_PARTS = ((0, 3, 5), (3, 1, 4), (5, 4, 2), (3, 4, 5))


@dataclass(frozen=True, slots=True)
class ImplicitField:
    """value, slopes: of three arrays (n,), to one array and to three."""

    value: Callable[[Array, Array, Array], Any]
    slopes: Callable[[Array, Array, Array], Any]

    def at(self, places: Array) -> Array:
        with np.errstate(all="ignore"):
            found = np.asarray(self.value(*places.T), dtype=float)
        return np.broadcast_to(found, places.shape[:1])

    def gradient(self, places: Array) -> Array:
        with np.errstate(all="ignore"):
            return np.stack([np.broadcast_to(np.asarray(g, dtype=float), places.shape[:1]) for g in self.slopes(*places.T)], axis=1)


@dataclass
class FoundSurface:
    """mesh; `touching` says whether F comes to zero without changing its sign, `false_parts` that sheets of a pole were left out."""

    mesh: Mesh
    touching: bool = False
    false_parts: bool = False


def isosurface(
    field: ImplicitField, box: Array, scale: Array, tolerance: float, most: int = MOST_TRIANGLES, cells: int = _CELLS, depth: int = 2
) -> FoundSurface:
    """The surface in a box (3, 2).

    scale   (3,): coordinates times this are lengths on paper, like the tolerance
    cells   of the grid along the longest side; depth: how often places without a gradient are looked at more closely
    """
    counts = _counts(box, scale, cells)
    axes = [np.linspace(low, high, n + 1) for (low, high), n in zip(box, counts, strict=True)]
    with np.errstate(all="ignore"):
        grid = np.asarray(field.value(*np.meshgrid(*axes, indexing="ij", sparse=True)), dtype=float)
    grid = np.broadcast_to(grid, tuple(n + 1 for n in counts)).copy()
    known = np.isfinite(grid)
    if not known.any() or grid[known].min() >= 0 or grid[known].max() <= 0:
        return FoundSurface(empty_mesh(), touching=bool(known.any()) and _touches(grid[known]))
    grid[grid == 0] = np.finfo(float).tiny  # on a corner of the grid: just beside it
    steps = np.array([(high - low) / n for (low, high), n in zip(box, counts, strict=True)])
    filled, mask = _filled(grid, known)
    try:
        places, triangles, _, _ = marching_cubes(filled, 0.0, spacing=tuple(steps), mask=mask)  # type: ignore[no-untyped-call]
    except (ValueError, RuntimeError):
        return FoundSurface(empty_mesh())
    mesh = Mesh(places.astype(float) + box[:, 0], np.zeros_like(places, dtype=float), triangles.astype(np.int32))
    found = _onto(field, mesh, box, steps, scale, tolerance, most)
    return found if depth == 0 else _with_tips(field, found, box, steps, scale, tolerance, depth)


def _with_tips(
    field: ImplicitField, found: FoundSurface, box: Array, steps: Array, scale: Array, tolerance: float, depth: int
) -> FoundSurface:
    """Around places where the gradient vanishes (the point of a cone) the grid leaves a gap as wide as a cell: the surface there
    is worked out again in small boxes of their own, and theirs once more."""
    mesh = found.mesh
    if mesh.empty:
        return found
    size = np.linalg.norm(field.gradient(mesh.vertices) / scale, axis=1)
    calm = mesh.vertices[size < _CALM * np.median(size)]
    spots: list[Array] = []
    for place in calm:
        if all((np.abs(place - s) > 3.2 * steps).any() for s in spots):
            spots.append(place)
        if len(spots) > _MOST_TIPS:
            return found
    parts = [mesh]
    for spot in spots:
        near = calm[(np.abs(calm - spot) <= 3.2 * steps).all(axis=1)]
        middle = (near.min(axis=0) + near.max(axis=0)) / 2
        inner = np.column_stack([np.maximum(middle - 2.5 * steps, box[:, 0]), np.minimum(middle + 2.5 * steps, box[:, 1])])
        part = isosurface(field, inner, scale, tolerance, 6_000, 26, depth - 1).mesh
        if not part.empty:
            parts.append(part)
    return FoundSurface(together(parts), found.touching, found.false_parts)


def _counts(box: Array, scale: Array, cells: int) -> list[int]:
    """Cells along each side, so that they are about as long on paper."""
    lengths = (box[:, 1] - box[:, 0]) * scale
    size = lengths.max()
    return [int(np.clip(round(cells * length / size), 24, cells)) for length in lengths]


def _touches(values: Array) -> bool:
    size = np.abs(values)
    return bool(size.min() < 1e-2 * np.median(size))


def _filled(grid: Array, known: Array) -> tuple[Array, Array | None]:
    """Unknown values next to known ones led on straight, so that triangles reach over the edge of the domain; and a mask of
    the cells that have all their corners, each by its last one (so scikit-image has it). Marching cubes takes no NaN."""
    if known.all():
        return grid, None
    found, there = np.where(known, grid, 0.0), known.copy()
    for _ in range(_LED_ON):
        total, count = np.zeros_like(found), np.zeros(found.shape)
        for axis in range(3):
            for step in (1, -1):
                near, far = (_shifted(found, axis, step * n) for n in (1, 2))
                near_there, far_there = (_shifted(there, axis, step * n) for n in (1, 2))
                ahead = np.where(far_there, 2 * near - far, near)
                total += np.where(near_there, ahead, 0.0)
                count += near_there
        new = ~there & (count > 0)
        found[new] = total[new] / count[new]
        there |= new
    mask = there.copy()
    for axis in range(3):
        mask &= _shifted(mask, axis, -1)
    return np.where(there, found, 1.0), mask


def _shifted(values: Array, axis: int, step: int) -> Array:
    """Values of the neighbours `step` places on along an axis; zero (False) beyond the end."""
    found = np.zeros_like(values)
    to, of = [slice(None)] * 3, [slice(None)] * 3
    to[axis], of[axis] = (slice(None, -step), slice(step, None)) if step > 0 else (slice(-step, None), slice(None, step))
    found[tuple(to)] = values[tuple(of)]
    return found


def _onto(field: ImplicitField, mesh: Mesh, box: Array, steps: Array, scale: Array, tolerance: float, most: int) -> FoundSurface:
    cell = float((steps * scale).min())
    start = mesh.vertices.copy()
    mesh.vertices, away = onto_surface(field, mesh.vertices, box, scale, reach=cell)
    slow = ~(away < _ON * cell) & np.isfinite(away)
    if slow.any():
        # Where F is flat around its zeros (a power of something) each step goes only part of the way.
        mesh.vertices[slow], away[slow] = onto_surface(field, mesh.vertices[slow], box, scale, _MANY_STEPS, cell)
    moved = np.linalg.norm((mesh.vertices - start) * scale, axis=1)
    with np.errstate(all="ignore"):
        good = (away < _ON * cell) & (moved < 1.8 * cell)
    # A tip (a cone's point) has no gradient to move along: what came near and stayed near is kept.
    good |= (away < 0.02 * cell) & (moved < 1.0 * cell)
    # On the very edge of the domain the value may be there and the gradient not.
    value, size = field.at(mesh.vertices), np.linalg.norm(field.gradient(mesh.vertices) / scale, axis=1)
    steep = np.isfinite(value) & ~np.isfinite(size)
    if steep.any() and not steep.all():
        good |= steep & (np.abs(value) < _ON * cell * float(np.median(size[~steep & np.isfinite(size)])))
    out = _outside(field, mesh.vertices)
    kept = mesh.triangles[(good | out)[mesh.triangles].all(axis=1) & good[mesh.triangles].any(axis=1)]
    false_parts = bool((~good).mean() > 2e-3)
    mesh = _trimmed(field, compact(mesh, kept), box, scale, cell)
    for _ in range(4):
        if mesh.empty or len(mesh.triangles) * 4 > most or _worst(field, mesh, box, scale) < tolerance:
            break
        mesh = _halved(field, mesh, box, scale)
    mesh.normals = unit(field.gradient(mesh.vertices)) if not mesh.empty else mesh.normals
    return FoundSurface(mended_normals(mesh), false_parts=false_parts)


def _outside(field: ImplicitField, places: Array) -> Array:
    return ~np.isfinite(field.at(places))


def _trimmed(field: ImplicitField, mesh: Mesh, box: Array, scale: Array, cell: float) -> Mesh:
    """The mesh up to the edge of the domain, which is found by bisection along each side that crosses it."""
    out = _outside(field, mesh.vertices)
    if not out.any():
        return mesh

    def between(edges: Array) -> Mesh:
        inner, outer = mesh.vertices[edges[:, 0]], mesh.vertices[edges[:, 1]]
        low, high = np.zeros(len(edges)), np.ones(len(edges))
        best = inner.copy()
        for _ in range(_BISECTIONS):
            share = (low + high) / 2
            placed, away = onto_surface(field, inner + (outer - inner) * share[:, None], box, scale, 3, cell)
            on = (away < _ON * cell) & ~_outside(field, placed)
            best[on] = placed[on]
            low, high = np.where(on, share, low), np.where(on, high, share)
        return Mesh(best, np.zeros_like(best), np.empty((0, 3), dtype=np.int32))

    trimmed = severed(mesh, out, between)
    return _led_on(field, trimmed, int((~out[np.unique(mesh.triangles)]).sum()), box, scale, cell)


def _led_on(field: ImplicitField, mesh: Mesh, first: int, box: Array, scale: Array, cell: float) -> Mesh:
    """The corners from `first` on, which lie along an edge, led on over the surface away from the rest as far as it goes: where
    it stands upright at the edge of its domain (a dome on its rim) the grid alone ends high above."""
    t = mesh.triangles
    _, place, count = sides_of(mesh)
    sides = np.concatenate([t[:, [0, 1, 2]], t[:, [1, 2, 0]], t[:, [2, 0, 1]]])
    sides = sides[(count[place.T.ravel()] == 1) & (sides[:, :2] >= first).all(axis=1)]
    if not len(sides):
        return mesh
    led = np.unique(sides[:, :2])
    places = mesh.vertices.copy()
    step = np.full(len(led), cell / 2)
    for _ in range(_LEADS):
        a, b, c = (places[sides[:, k]] * scale for k in range(3))
        with np.errstate(all="ignore"):
            along = unit(b - a)
            away = (a + b) / 2 - c
            away -= (away * along).sum(axis=1, keepdims=True) * along
            ahead = np.zeros_like(places)
            for k in range(2):
                np.add.at(ahead, sides[:, k], unit(away))
            normal = unit(field.gradient(places[led]) / scale)
            ahead = ahead[led] - (ahead[led] * normal).sum(axis=1, keepdims=True) * normal
            guess = places[led] + np.nan_to_num(unit(ahead)) * step[:, None] / scale
        placed, left = onto_surface(field, guess, box, scale, 4, cell)
        went = np.linalg.norm((placed - places[led]) * scale, axis=1)
        on = (left < _ON * cell) & ~_outside(field, placed) & (went > 0.3 * step) & (went < 2 * step)
        places[led[on]] = placed[on]
        step = np.where(on, step, step / 2)
    return Mesh(places, mesh.normals, mesh.triangles, mesh.params)


def onto_surface(
    field: ImplicitField, places: Array, box: Array, scale: Array, steps: int = _STEPS, reach: float | None = None
) -> tuple[Array, Array]:
    """Places moved onto the surface the shortest way on paper, within the faces of the box that they lie on; and how far
    from it they still are."""
    room = 1e-9 * (box[:, 1] - box[:, 0])
    fixed = (places <= box[:, 0] + room) | (places >= box[:, 1] - room)
    places = places.copy()
    before = places
    away = np.full(len(places), np.inf)
    with np.errstate(all="ignore"):
        for k in range(steps + 1):
            value = field.at(places)
            lost = ~np.isfinite(value)
            if k and lost.any():
                # Over the edge of the domain: most of the way back.
                places[lost] = 0.75 * before[lost] + 0.25 * places[lost]
                value = field.at(places)
            before = places
            slope = np.where(fixed, 0.0, field.gradient(places) / scale)
            size = (slope * slope).sum(axis=1)
            share = np.where(size > 0, value / size, 0.0)
            move = np.nan_to_num(share[:, None] * slope)
            if reach is not None:
                length = np.linalg.norm(move, axis=1, keepdims=True)
                move *= np.minimum(1.0, reach / np.maximum(length, 1e-300))
            away = np.where(size > 0, np.linalg.norm(move, axis=1), np.where(value == 0, 0.0, np.inf))
            if k < steps:
                places = np.clip(places - move / scale, box[:, 0], box[:, 1])
    return places, np.where(np.isfinite(away), away, np.inf)


def _worst(field: ImplicitField, mesh: Mesh, box: Array, scale: Array) -> float:
    """How far the middles of nearly all edges lie from the surface, on paper."""
    edges, _, _ = sides_of(mesh)
    if len(edges) > 4_000:
        edges = edges[:: len(edges) // 4_000]
    middle = mesh.vertices[edges].mean(axis=1)
    placed, away = onto_surface(field, middle, box, scale, 2)
    bend = np.linalg.norm((placed - middle) * scale, axis=1)
    bend = bend[np.isfinite(bend) & (away < 1.0)]
    return float(np.quantile(bend, 0.95)) if bend.size else 0.0


def _halved(field: ImplicitField, mesh: Mesh, box: Array, scale: Array) -> Mesh:
    """Each triangle as four, the new corners on the surface."""
    edges, sides, _ = sides_of(mesh)
    ends = mesh.vertices[edges]
    middle = ends.mean(axis=1)
    placed, away = onto_surface(field, middle, box, scale, 3)
    half = np.linalg.norm((ends[:, 1] - ends[:, 0]) * scale, axis=1) / 2
    with np.errstate(all="ignore"):
        bad = ~(np.linalg.norm((placed - middle) * scale, axis=1) < half) | ~np.isfinite(placed).all(axis=1) | ~(away < half)
    placed[bad] = middle[bad]
    first = len(mesh.vertices)
    corner = np.concatenate([mesh.triangles, sides + first], axis=1)  # corners 0-2, middles of 01, 12, 20 as 3-5
    triangles = np.concatenate([corner[:, list(part)] for part in _PARTS]).astype(np.int32)
    places = np.concatenate([mesh.vertices, placed])
    return Mesh(places, np.zeros_like(places), triangles)


def own_boxes(fields: Sequence[ImplicitField]) -> tuple[Array, Array] | None:
    """`own_box` around the surfaces of several fields together."""
    found = [b for f in fields if (b := own_box(f)) is not None]
    if not found:
        return None
    boxes = np.array([b for b, _ in found])
    return np.column_stack([boxes[..., 0].min(axis=0), boxes[..., 1].max(axis=0)]), np.logical_and.reduce([ends for _, ends in found])


def own_box(field: ImplicitField) -> tuple[Array, Array] | None:
    """A box (3, 2) around the whole surface, and along which axes (3,) all of it lies there; None where nothing is found.

    Places strewn over cubes of every size up to 1000 are led onto the surface by Newton steps: that finds small parts far out,
    too. From where they came to lie the box grows until the surface leaves it nowhere. A surface that goes on
    without end gets a box in which much of it is seen.
    """
    random = np.random.default_rng(11)
    reach = np.repeat(_REACHES, _STREWN)
    landed = _landed(field, random.uniform(-1.0, 1.0, (len(reach), 3)) * reach[:, None], reach)
    if not len(landed):
        return None
    low, size = landed.min(axis=0), np.ptp(landed, axis=0)
    again = low + size * random.uniform(-0.1, 1.1, (_STREWN, 3))
    landed = np.concatenate([landed, _landed(field, again, np.full(_STREWN, max(float(size.max()), 1e-6)))])
    ends = np.column_stack([landed.min(axis=0), landed.max(axis=0)])
    if np.abs(ends).max() < 0.9 * _FARTHEST:
        grown = _grown(field, ends)
        if grown is not None:
            return grown, np.ones(3, dtype=bool)
    near = landed[(np.abs(landed) < _NEARER * _FARTHEST).all(axis=1)]
    # Where it reaches no farther when much more of space is looked at, it has an end.
    ended = np.ptp(ends, axis=1) <= 1.15 * np.ptp(near, axis=0) if len(near) else np.zeros(3, dtype=bool)
    return _part_of_endless(field, ends, ended), ended


def _landed(field: ImplicitField, places: Array, reach: Array) -> Array:
    """Places on the surface (n, 3) to which others lead, none moving farther than its reach in one step.

    In turn along the gradient (a Newton step or a multiple of it) and along each axis (to the tip of the parabola through
    three values, exact for quadrics however flat), always to where |F| is less; where the sign changes on the way, bisection.
    """
    ends = [places, places]
    crossed = np.zeros(len(places), dtype=bool)
    with np.errstate(all="ignore"):
        value = field.at(places)
        for k in range(_LANDING):
            for step in _steps(field, places, value, reach, k):
                ahead = places + step
                there = field.at(ahead)
                across = ~crossed & (np.sign(value) * np.sign(there) < 0)
                ends = [np.where(across[:, None], v, e) for v, e in zip((places, ahead), ends, strict=True)]
                crossed |= across
                better = np.abs(there) < np.where(np.isfinite(value), np.abs(value), np.inf)
                places, value = np.where(better[:, None], ahead, places), np.where(better, there, value)
        low, high = ends
        below = field.at(low)
        for _ in range(_HALVED if crossed.any() else 0):
            middle = (low + high) / 2
            same = (np.sign(field.at(middle)) == np.sign(below))[:, None]
            low, high = np.where(same, middle, low), np.where(same, high, middle)
        places = np.where(crossed[:, None], low, places)
        for _ in range(_LAST):
            step = _newton(field, places, reach)
            places = places + step
        length = np.linalg.norm(step, axis=1)
        # Newton's steps come to rest at every zero; at a pole or far out where F only fades they never do.
        on = (length <= 1e-9 * np.maximum(np.linalg.norm(places, axis=1), 1e-3)) & (np.abs(places) <= _FARTHEST).all(axis=1)
    return np.asarray(places[on])


def _steps(field: ImplicitField, places: Array, value: Array, reach: Array, k: int) -> Iterator[Array]:
    along = _newton(field, places, reach)
    yield from (along, 3.0 * along)
    axis = np.eye(3)[k % 3]
    h = 0.3 * reach
    ahead, behind = field.at(places + h[:, None] * axis), field.at(places - h[:, None] * axis)
    bend = ahead - 2 * value + behind
    tip = np.clip((behind - ahead) / (2 * bend), -6.0, 6.0) * h
    tip[::2] = 0.0  # not all of them: on a long pipe they would come together in its middle
    yield np.nan_to_num(tip)[:, None] * axis


def _newton(field: ImplicitField, places: Array, reach: Array) -> Array:
    value, slope = field.at(places), field.gradient(places)
    step = -(value / (slope * slope).sum(axis=1))[:, None] * slope
    return step * np.minimum(1.0, reach / np.maximum(np.linalg.norm(step, axis=1), 1e-300))[:, None]


def _crossed(field: ImplicitField, box: Array) -> tuple[Array, Array]:
    """Axes of a grid in a box, and the cells (n, 3) in which the sign changes."""
    axes = [np.linspace(low, high, _CROSSED) for low, high in box]
    with np.errstate(all="ignore"):
        grid = np.asarray(field.value(*np.meshgrid(*axes, indexing="ij", sparse=True)), dtype=float)
    return np.array(axes), np.argwhere(_crossing(np.broadcast_to(grid, (_CROSSED,) * 3)))


def _grown(field: ImplicitField, ends: Array) -> Array | None:
    """The box, grown until no part of the surface leaves it, as tight as a grid tells; None where it goes on."""
    size = np.ptp(ends, axis=1)
    size = np.maximum(size, 0.02 * max(float(size.max()), 1e-9 * float(np.abs(ends).max()) + 1e-12))
    box = np.column_stack([ends[:, 0] - 0.1 * size, ends[:, 1] + 0.1 * size])
    for _ in range(24):
        axes, cells = _crossed(field, box)
        if not len(cells):
            return box  # thinner than a cell: the places that were found count
        low, high = cells.min(axis=0), cells.max(axis=0)
        below, above = low == 0, high == _CROSSED - 2
        if not (below | above).any():
            k = np.arange(3)
            return np.column_stack([np.minimum(axes[k, low], ends[:, 0]), np.maximum(axes[k, high + 1], ends[:, 1])])
        more = 0.6 * np.ptp(box, axis=1)
        box = np.column_stack([box[:, 0] - below * more, box[:, 1] + above * more])
        if np.abs(box).max() > _FARTHEST:
            return None
    return None


def _part_of_endless(field: ImplicitField, ends: Array, bounded: Array) -> Array:
    """A box for a surface that goes on without end along some axes."""
    box = ends.copy()
    if bounded.any():
        # As far along the others as it is wide, and somewhat more; low waves that go on are seen as waves.
        size = max(float(np.ptp(ends[bounded], axis=1).max()), 2.5)
        room = 0.1 * np.ptp(ends, axis=1)
        box = np.column_stack([ends[:, 0] - room, ends[:, 1] + room])
        box[~bounded] = (-0.8 * size, 0.8 * size)
    else:
        for reach in (2.0, 4.0, 8.0, 16.0, 50.0, 200.0, _FARTHEST):
            box = np.array([[-reach, reach]] * 3)
            if len(_crossed(field, box)[1]):
                break
    axes, cells = _crossed(field, box)
    if not len(cells):
        return box
    # Where all of one side is empty it is left out, but for a little room.
    k = np.arange(3)
    low, high = np.maximum(cells.min(axis=0) - 1, 0), np.minimum(cells.max(axis=0) + 2, _CROSSED - 1)
    return np.column_stack([axes[k, low], axes[k, high]])


def _crossing(grid: Array) -> Array:
    known = np.isfinite(grid)
    sign = grid > 0
    parts = [(slice(i, i - 1 or None), slice(j, j - 1 or None), slice(k, k - 1 or None)) for i in (0, 1) for j in (0, 1) for k in (0, 1)]
    some, every, there = (np.logical_or.reduce([sign[p] for p in parts]), np.logical_and.reduce([sign[p] for p in parts]),
                          np.logical_and.reduce([known[p] for p in parts]))  # fmt: skip
    return some & ~every & there
