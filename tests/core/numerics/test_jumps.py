"""Fits that seek where a model jumps; models with large numbers beside a parameter; constant data; what few points bear out."""

from __future__ import annotations

import itertools

import numpy as np
import pytest

from open_lemma.core.run.execute.interpreter import run


def rows(script: str) -> tuple[dict[str, dict[str, float]], dict[str, object]]:
    found = next(f.as_record() for f in run(script).findings if f.as_record()["noun"] == "fit")
    return {p["name"]: p for p in found["values"][0]["parameters"]}, found


X = np.linspace(0, 10, 41)


def listed(values: np.ndarray) -> str:
    return "[" + ", ".join(repr(float(v)) for v in values) + "]"


def script(y: np.ndarray, model: str) -> str:
    return f"xs = {listed(X)}\nys = {listed(y)}\ng(x) = fit of {model} to ys against xs"


def least_squares_by_all_gaps(y: np.ndarray) -> tuple[float, float, float, float]:
    """The slow way: a mean on each side of every gap."""
    best = (np.inf, 0.0, 0.0, 0.0)
    for k in range(1, len(X)):
        a, b = y[:k].mean(), y[k:].mean()
        best = min(best, (float(((y[:k] - a) ** 2).sum() + ((y[k:] - b) ** 2).sum()), float((X[k - 1] + X[k]) / 2), float(a), float(b)))
    return best


@pytest.mark.parametrize(("seed", "place", "height"), [(1, 4.3, 2.0), (2, 7.9, -1.0), (3, 1.1, 0.6)])
def test_a_step_at_an_unknown_place(seed: int, place: float, height: float) -> None:
    y = np.where(place > X, 1.0, 1.0 + height) + np.random.default_rng(seed).normal(0, 0.15, X.size)
    found, told = rows(script(y, "(a when x < s, otherwise b)"))
    squares, where, a, b = least_squares_by_all_gaps(y)
    assert [found[n]["value"] for n in "asb"] == pytest.approx([a, where, b], abs=1e-9)
    assert told["values"][0]["residual_sum_of_squares"] == pytest.approx(squares, rel=1e-9)  # type: ignore[index]
    # A value anywhere in a gap of width h: h/sqrt(12) (JCGM 100:2008, 4.3.7).
    assert found["s"]["standard_error"] == pytest.approx(0.25 / np.sqrt(12), rel=1e-9)
    assert told["evidence"] == "checked"


def test_two_steps_and_a_slope_beside_a_step() -> None:
    rng = np.random.default_rng(4)
    y = np.select([X < 3.1, X < 6.9], [0.0, 2.0], 1.0) + rng.normal(0, 0.05, X.size)
    found, _ = rows(script(y, "(a when x < s, b when x < r, otherwise d)"))
    assert sorted([found["s"]["value"], found["r"]["value"]]) == pytest.approx([3.125, 6.875])
    y = 0.5 * X + 1.5 * np.sign(X - 6.2) + rng.normal(0, 0.05, X.size)
    found, _ = rows(script(y, "m*x + k*sign(x - s)"))
    assert found["s"]["value"] == pytest.approx(6.125)
    assert found["m"]["value"] == pytest.approx(0.5, abs=0.02)


def test_a_step_that_bends_nonlinearly_around_it() -> None:
    y = np.where(X < 5.05, 2 * np.exp(-0.4 * X), 1.0)
    found, _ = rows(script(y, "(A*exp(-k*x) when x < s, otherwise b)"))
    assert [found[n]["value"] for n in "Akb"] == pytest.approx([2, 0.4, 1], rel=1e-6)
    assert 5.0 <= found["s"]["value"] <= 5.25


def test_a_radiation_law_needs_no_start() -> None:
    # Planck's law over wavelengths in micrometres; the second radiation constant is 14 388 µm K (CODATA 2018: 14 387.768 775).
    wave = np.linspace(0.3, 3, 28)
    y = 3.7e8 / (wave**5 * np.expm1(14388 / (wave * 5778)))
    text = f"l = {listed(wave)}\nB = {listed(y)}\ng(x) = fit of C/(x^5*(exp(14388/(x*T)) - 1)) to B against l"
    found, told = rows(text)
    assert [found["C"]["value"], found["T"]["value"]] == pytest.approx([3.7e8, 5778], rel=1e-9)
    assert told["evidence"] == "proven"


def test_constant_data_are_no_pole() -> None:
    _, told = rows(script(np.full(X.size, 3.0), "A*exp(k*x)"))
    assert any("all values are the same" in str(n) for n in told["notes"])  # type: ignore[attr-defined]
    assert not any("pole" in str(n) for n in told["notes"])  # type: ignore[attr-defined]
    assert told["evidence"] != "open"


def test_hardly_more_points_than_parameters_are_said_first() -> None:
    y = np.array([1, 2.1, 2.9, 4.2, 5.1, 5.8, 7.3, 8.1])
    text = f"xs = {listed(np.arange(8.0))}\nys = {listed(y)}\ng(x) = fit of polynomial 6 to ys against xs"
    _, told = rows(text)
    assert str(told["summary"]).startswith("8 points for 7 parameters, which any data nearly fit: ")
    assert not any("far off" in str(n) or "carries the fit" in str(n) for n in told["notes"])  # type: ignore[attr-defined]


@pytest.mark.parametrize(("model", "against"), [("k*x", "about zero"), ("C*x^n", "about the mean of the data"), ("a + b*x", "")])
def test_what_r_squared_is_about_is_said_where_no_constant_is(model: str, against: str) -> None:
    y = 2 * X + 3 + np.random.default_rng(8).normal(0, 0.2, X.size)
    _, told = rows(script(y, model))
    row, said = told["values"][0], str(told["method"])  # type: ignore[index]
    assert (against in said) if against else "R²" not in said
    total = float((y**2).sum()) if against == "about zero" else float(((y - y.mean()) ** 2).sum())
    assert row["r_squared"] == pytest.approx(1 - row["residual_sum_of_squares"] / total, rel=1e-12)


def test_places_beyond_the_data_say_so_in_their_rows() -> None:
    text = "xs = [1,2,3,4,5,6]\nys = [10.1,7.2,5.9,5.2,6.1,7.7]\ng(x) = fit of polynomial 2 to ys against xs\n"
    text += "lowest of g(x) for x from 10 to 20\nroots of g(x) - 9 for x from 0 to 10\nlowest of g(x) for x from 1 to 6"
    far, mixed, within = (f.as_record() for f in run(text).findings[1:])
    assert far["values"][0]["extrapolated"]
    assert far["short"].endswith("(extrapolated)")
    assert [r.get("extrapolated", False) for r in mixed["values"]] == [False, True]
    assert "1 of 2 beyond the data" in mixed["summary"]
    assert "extrapolated" not in within["values"][0]


def test_the_arrangement_of_like_terms_is_told_by_the_data() -> None:
    """Elsewhere than at the data this model is nothing but zero, and any parameter would pass for an angle."""
    x = np.linspace(380, 480, 60)
    y = 5 * np.exp(-((x - 430) ** 2) / (2 * 12**2)) + 2 * np.exp(-((x - 455) ** 2) / (2 * 4**2))
    model = "A*exp(-(x - m)^2/(2*s^2)) + B*exp(-(x - n)^2/(2*q^2))"
    text = f"xs = {listed(x)}\nys = {listed(y)}\ng(x) = fit of {model} to ys against xs"
    found, _ = rows(text)
    pairs = sorted((found[p]["value"], abs(found[w]["value"])) for p, w in (("m", "s"), ("n", "q")))
    assert list(itertools.chain(*pairs)) == pytest.approx([430, 12, 455, 4], rel=1e-5)
