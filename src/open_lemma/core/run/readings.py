"""Reading a figure off: values of the function behind a drawn curve, at any place, and samples on a regular step."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from scipy.interpolate import LinearNDInterpolator

from ..figure.model import FigureData, Floats, PanelData, Series
from ..figure.space.scene import Solid
from ..formula.calculus import NoDerivative, derivative
from ..formula.nodes import Formula
from ..formula.tape import Tape
from ..numerics.surfaces.isosurface import onto_surface
from .execute.interpreter import run
from .figures.surface_definition import field_of
from .values import FunctionValue

MAX_SAMPLES = 200_000
_NEWTON = 12
_NEAR = 0.05  # of the box: a place of the surface that is farther away was not meant


class NotRead(ValueError):
    """There is nothing to be read; the text says why."""


@dataclass(frozen=True, slots=True)
class PlaceRead:
    """x, y: on the curve. slope: dy/dx there, None where there is none. exact: of the function, and not between its samples.

    t   the parameter, for a curve of points
    z   the third coordinate, of a surface
    """

    x: float
    y: float
    slope: float | None
    exact: bool
    t: float | None = None
    z: float | None = None


def series_of(figure: FigureData, name: str) -> tuple[PanelData, Series]:
    """A drawn thing by its id, with its window. Raises NotRead."""
    for panel in figure.windows():
        for series in panel.series:
            if series.id == name:
                return panel, series
    raise NotRead(f"the figure has no '{name}'")


def formulas(series: Series) -> tuple[Formula, ...]:
    """The functions behind a curve, read back from their text; empty where there are none."""
    if not series.formula or series.variable is None:
        return ()
    return _read_back(series.formula, [series.variable])


def _read_back(texts: list[str], variables: list[str]) -> tuple[Formula, ...]:
    found = []
    for k, text in enumerate(texts):
        value = run(f"q{k}({', '.join(variables)}) = {text}").names.find(f"q{k}")
        if not isinstance(value, FunctionValue):
            return ()
        found.append(value.body)
    return tuple(found)


def read(figure: FigureData, name: str, x: float, y: float, z: float | None = None) -> PlaceRead:
    """What stands at a place of a curve: at x of a function, at the nearest place of a curve of points; of a surface at its two
    variables x and y, or nearest to (x, y, z) where it is one of an equation."""
    for panel in figure.windows():
        for solid in panel.space.things if panel.space is not None else ():
            if solid.id == name:
                return _on_surface(solid, x, y) if solid.what != "implicit" else _on_equation(panel, solid, x, y, z)
    panel, series = series_of(figure, name)
    behind = formulas(series)
    if series.kind == "points" or series.kind == "bars" or not behind:
        return _from_samples(panel, series, x, y)
    if len(behind) == 2 and series.kind == "curve":
        return _on_path(panel, series, behind, x, y)
    return _on_function(series, behind[0], x)


def _values(formula: Formula, variable: str, x: Floats) -> Floats:
    with np.errstate(all="ignore"):
        values = np.asarray(Tape([formula], [variable]).numeric(x)[0], dtype=float)
    return np.broadcast_to(values, x.shape)


def _slope(formula: Formula, variable: str, x: float) -> float | None:
    try:
        found = float(_values(derivative(formula, variable), variable, np.array([x]))[0])
    except NoDerivative:
        return None
    return found if np.isfinite(found) else None


def _on_surface(solid: Solid, u: float, v: float) -> PlaceRead:
    if solid.kind != "surface" or not solid.formula or not solid.variables:
        raise NotRead("this has no formula of two variables behind it")
    behind = _read_back(solid.formula, solid.variables)
    at = np.array([u]), np.array([v])
    values = [float(np.asarray(value, dtype=float).ravel()[0]) for value in Tape(list(behind), solid.variables).numeric(*at)]
    x, y, z = (u, v, *values) if len(values) == 1 else values
    if not np.isfinite([x, y, z]).all():
        raise NotRead(f"there is no value at {u:.6g}, {v:.6g}")
    return PlaceRead(x, y, None, True, z=z)


def _on_equation(panel: PanelData, solid: Solid, *near: float | None) -> PlaceRead:
    """The nearest place of a surface of an equation, by Newton steps along the gradient, lengths measured in shares of the box."""
    if not solid.formula or not solid.variables or None in near or panel.z is None:
        raise NotRead("this has no formula behind it that could be read")
    box = np.array([(a.low, a.high) for a in (panel.x, panel.y, panel.z)])
    size = np.ptp(box, axis=1)
    start = np.array(near, dtype=float)
    best: tuple[float, Floats] | None = None
    for formula in _read_back(solid.formula, solid.variables):
        places, left = onto_surface(field_of(formula, solid.variables), start[None], box, 1 / size, _NEWTON)
        away = float(np.linalg.norm((places[0] - start) / size))
        if left[0] < 1e-9 and (best is None or away < best[0]):
            best = away, places[0]
    if best is None or best[0] > _NEAR:
        raise NotRead("the surface is not found there")
    x, y, z = (float(v) for v in best[1])
    return PlaceRead(x, y, None, True, z=z)


def _on_function(series: Series, formula: Formula, x: float) -> PlaceRead:
    assert series.variable is not None
    good = series.x[np.isfinite(series.y)]
    if good.size:
        x = float(np.clip(x, good.min(), good.max()))
    y = float(_values(formula, series.variable, np.array([x]))[0])
    if not np.isfinite(y):
        raise NotRead(f"there is no value at {x:.6g}")
    return PlaceRead(x, y, _slope(formula, series.variable, x), True)


def _on_path(panel: PanelData, series: Series, behind: tuple[Formula, ...], x: float, y: float) -> PlaceRead:
    """The place of a curve of points nearest to a place of the window, in shares of it."""
    assert series.variable is not None
    wide, high = panel.x.high - panel.x.low, panel.y.high - panel.y.low
    tape = Tape(list(behind), [series.variable])
    low, high_t = _span(series)

    def away(t: Floats) -> Any:
        with np.errstate(all="ignore"):
            a, b = (np.broadcast_to(np.asarray(v, dtype=float), t.shape) for v in tape.numeric(t))
        return np.nan_to_num(np.hypot((a - x) / wide, (b - y) / high), nan=np.inf)

    t = np.linspace(low, high_t, 2001)
    for _ in range(12):
        best = int(np.argmin(away(t)))
        t = np.linspace(t[max(best - 1, 0)], t[min(best + 1, t.size - 1)], 41)
    at = float(t[int(np.argmin(away(t)))])
    px, py = (float(_values(f, series.variable, np.array([at]))[0]) for f in behind)
    if not (np.isfinite(px) and np.isfinite(py)):
        raise NotRead("there is no value there")
    dx, dy = (_slope(f, series.variable, at) for f in behind)
    slope = dy / dx if dx is not None and dy is not None and dx != 0 else None
    return PlaceRead(px, py, slope, True, at)


def _span(series: Series) -> tuple[float, float]:
    assert series.span is not None
    return series.span


def _from_samples(panel: PanelData, series: Series, x: float, y: float) -> PlaceRead:
    good = np.isfinite(series.x) & np.isfinite(series.y)
    xs, ys = series.x[good], series.y[good]
    if not xs.size:
        raise NotRead("nothing is drawn there")
    away = np.hypot((xs - x) / (panel.x.high - panel.x.low), (ys - y) / (panel.y.high - panel.y.low))
    k = int(np.argmin(away))
    return PlaceRead(float(xs[k]), float(ys[k]), None, series.kind != "curve")


def regular(series: Series, step: float) -> tuple[Floats, tuple[Floats, ...]]:
    """Values of a curve on a regular step, from the first multiple of it in the curve's span to the last.

    Raises NotRead where the curve has no formula behind it, or the step is too fine.
    """
    behind = formulas(series)
    if not behind or series.variable is None:
        raise NotRead(f"'{series.label or series.id}' has no formula that could be worked out on a step of its own")
    low, high = _reach(series)
    first, last = int(np.ceil(low / step - 1e-9)), int(np.floor(high / step + 1e-9))
    if last - first + 1 > MAX_SAMPLES:
        raise NotRead(f"a step of {step:g} gives more than {MAX_SAMPLES} rows")
    x: Floats = np.arange(first, last + 1, dtype=np.float64) * step
    return x, tuple(_values(f, series.variable, x) for f in behind)


def height_grid(solid: Solid, step: float | None = None) -> tuple[Floats, Floats, Floats]:
    """Places along both variables of a height, and the heights (len(xs), len(ys)): of the function, or where its text is not known
    of the triangles. Without a step 41 places each way. Raises NotRead where the step is too fine."""
    params = solid.shape.params.astype(float)
    sides = []
    for low, high in zip(params.min(axis=0), params.max(axis=0), strict=True):
        if step is None:
            sides.append(np.linspace(low, high, 41))
        else:
            sides.append(np.arange(int(np.ceil(low / step - 1e-6)), int(np.floor(high / step + 1e-6)) + 1) * step)
    if len(sides[0]) * len(sides[1]) > MAX_SAMPLES or min(len(s) for s in sides) < 2:
        raise NotRead(f"a step of {step:g} gives {len(sides[0])} by {len(sides[1])} heights")
    x, y = np.meshgrid(*sides, indexing="ij")
    if solid.formula and solid.variables:
        behind = _read_back(solid.formula, solid.variables)
        values = np.asarray(Tape(list(behind), solid.variables).numeric(x.ravel(), y.ravel())[0], dtype=float)
        heights = np.broadcast_to(values, x.size).reshape(x.shape)
    else:
        heights = LinearNDInterpolator(params, solid.shape.vertices[:, 2].astype(float))(x, y)
    return sides[0], sides[1], np.where(np.isfinite(heights), heights, np.nan)


def _reach(series: Series) -> tuple[float, float]:
    if series.span is not None:
        return series.span
    good = series.x[np.isfinite(series.x)]
    return float(good.min()), float(good.max())
