"""Certificates of fits and of curves through points: what they confirm, and what they do not."""

from __future__ import annotations

import copy
import json
from fractions import Fraction
from typing import Any

import mpmath
import numpy as np
import pytest

from open_lemma.core.certificate.record import verify_finding
from open_lemma.core.certificate.verifier import verify
from open_lemma.core.numerics.proving.fits import prove_fit
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.fit_findings import fit_finding

from .reference_fits import LINES, SETS
from .test_fits import fitted


@pytest.mark.parametrize("name", [*SETS, *LINES])
def test_published_fits_carry_their_proof(name: str) -> None:
    if name in SETS:
        nonlinear = SETS[name]
        found = fitted(nonlinear.model, " ".join(nonlinear.certified), nonlinear.x, nonlinear.y)
    else:
        line = LINES[name]
        predictors = " ".join(f"x{k}" for k in range(1, len(line.columns) + 1))
        names = " ".join(n for n in (f"b{k}" for k in range(7)) if n in line.model)
        columns: Any = line.columns if len(line.columns) > 1 else line.columns[0]
        found = fitted(line.model, names, columns, line.y, predictors)
    row = fit_finding(found, {}, "y").values[0].as_record()
    proof = prove_fit(found, row)
    assert proof.whole
    assert len(json.dumps(proof.certificate)) < 20_000
    for parameter in row["parameters"]:
        low, high = (Fraction(v) for v in parameter["interval"])
        assert high - low <= 1e-14 * abs(Fraction(parameter["value"]))


MODELS: dict[str, Any] = {
    "Misra1a": lambda x, a, b: a * (1 - mpmath.exp(-b * x)),
    "DanWood": lambda x, a, b: a * x**b,
    "Rat42": lambda x, a, b, c: a / (1 + mpmath.exp(b - c * x)),
}


@pytest.mark.parametrize("name", MODELS)
def test_the_box_holds_what_another_library_finds(name: str) -> None:
    """Newton's method on the slopes of the sum of squares at 60 digits (mpmath), from the values as doubles."""
    reference, model = SETS[name], MODELS[name]
    found = fitted(reference.model, " ".join(reference.certified), reference.x, reference.y)
    with mpmath.workdps(60):
        data = [(mpmath.mpf(repr(float(x))), mpmath.mpf(repr(float(y)))) for x, y in zip(reference.x, reference.y, strict=True)]

        def slope(k: int, at: list[Any]) -> Any:
            order = tuple(int(i == k) for i in range(len(at)))
            return mpmath.fsum((y - model(x, *at)) * mpmath.diff(lambda *p, x=x: model(x, *p), at, order) for x, y in data)

        solution = mpmath.findroot(
            [lambda *p, k=k: slope(k, list(p)) for k in range(len(found.values))], [mpmath.mpf(float(v)) for v in found.values], tol=1e-60
        )
        for value, enclosure in zip(solution, found.enclosures, strict=True):
            assert enclosure is not None
            assert mpmath.mpf(enclosure[0]) <= value <= mpmath.mpf(enclosure[1])


def finding(script: str) -> dict[str, Any]:
    return run(script).findings[-1].as_record()


DATA = "xs = [1, 2, 3, 4, 5, 6]\nys = [3.1, 2.2, 1.6, 1.2, 0.9, 0.7]\n"


def test_a_parameter_on_its_limit_is_confirmed_and_the_wrong_side_is_not() -> None:
    found = finding(DATA + "D(x) = fit of a*exp(-k*x) to ys against xs, limit k = 0 to 1/5")
    part = found["certificate"]["parts"][0]
    assert [h[0] for h in part["held"]] == ["k"]
    assert verify(part, found["values"]).complete
    part["held"][0][2] = "low"
    assert not verify(part, found["values"]).complete


def test_a_stationary_place_that_is_no_minimum_is_refused() -> None:
    """f = p^2 - 1 against data of -2: the sum of squares has a minimum at 0; against data of 2 it has a maximum there."""
    program = [["variable", "p"], ["number", "2"], ["^", 0, 1], ["number", "1"], ["-", 2, 3], ["variable", "x"], ["number", "0"],
               ["*", 5, 6], ["+", 4, 7]]  # fmt: skip
    certificate = {
        "claim": "fit", "formula": program, "variables": ["x"], "parameters": ["p"], "box": [["-1e-9", "1e-9"]],
        "data": {"columns": [["1", "2"]], "y": ["-2", "-2"]},
    }  # fmt: skip
    row = {"parameters": [{"name": "p", "value": 0.0, "interval": ["-1e-9", "1e-9"]}], "residual_sum_of_squares": 2.0}
    assert verify(certificate, [row]).complete
    certificate["data"]["y"] = ["2", "2"]  # type: ignore[index]
    assert not verify(certificate, [{**row, "residual_sum_of_squares": 18.0}]).complete


@pytest.mark.parametrize(
    ("script", "values"),
    [
        ("xs = [1, 2, 3, 4, 5]\nys = [2, 4, 6, 8, 10]\nL(x) = fit of a + b*x to ys against xs", [0, 2]),
        ("xs = [1, 2, 3, 4, 5]\nys = [1, 4, 9, 16, 25]\nL(x) = fit of polynomial 3 to ys against xs", [0, 0, 1, 0]),
        ("xs = [1, 2, 3, 4, 5]\nys = [7, 7, 7, 7, 7]\nL(x) = fit of a + b*x to ys against xs", [7, 0]),
        ("xs = [1, 2, 3, 4]\nys = [0.3, 0.6, 0.9, 1.2]\nL(x) = fit of a*x^b to ys against xs", [0.3, 1]),
    ],
)
def test_data_that_lie_on_a_curve_give_its_parameters(script: str, values: list[float]) -> None:
    found = finding(script)
    assert found["evidence"] == "proven"
    assert [p["value"] for p in found["values"][0]["parameters"]] == values
    assert found["values"][0]["residual_sum_of_squares"] == 0
    assert verify_finding(found).fault == ""


def test_long_data_are_named_by_their_fingerprint() -> None:
    rng = np.random.default_rng(5)
    ys = ", ".join(f"{2 + 3 * k + v:.4f}" for k, v in enumerate(rng.normal(0, 1, 1_500)))
    found = finding(f"xs = 0 to 1499 step 1\nys = [{ys}]\nL(x) = fit of a + b*x to ys against xs")
    data = found["certificate"]["parts"][0]["data"]
    assert found["evidence"] == "proven"
    assert data["rows"] == 1_500
    assert len(data["sha256"]) == 64
    assert not verify_finding(found).certified


@pytest.mark.parametrize("by", ["spline", "segments", "monotone", "polynomial"])
def test_curves_go_through_their_points(by: str) -> None:
    found = finding(f"{DATA}S(x) = interpolation of ys against xs, by {by}")
    assert verify_finding(found).certified
    assert verify_finding(found).fault == ""
    wrong = copy.deepcopy(found)
    wrong["certificate"]["parts"][0]["data"]["pieces"][0][0] = "3.1001"
    assert verify_finding(wrong).fault


def test_a_curve_is_as_smooth_as_it_is_said_to_be() -> None:
    found = finding(f"{DATA}S(x) = interpolation of ys against xs, by monotone")
    assert found["values"][0]["continuous"] == 1
    found["values"][0]["continuous"] = 2
    assert "smooth" in verify_finding(found).fault
