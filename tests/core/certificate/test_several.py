"""Functions of several variables: second derivatives against mpmath, levels against dense samples, kinks on the edge of two parts."""

from __future__ import annotations

import copy
import random
from fractions import Fraction
from typing import Any

import mpmath
import pytest
from flint import arb

from open_lemma.core.certificate.mixed import mixed_derivative
from open_lemma.core.certificate.parts import Part
from open_lemma.core.certificate.program import program_of
from open_lemma.core.certificate.several import SlopeField, level_of
from open_lemma.core.certificate.verifier import verify
from open_lemma.core.run.execute.interpreter import run
from tests.core.certificate.findings import finding_of

Text = tuple[str, Any]
SMOOTH: list[Text] = [
    ("sin(x*y) + x^2*exp(y)/(1 + x)", lambda x, y: mpmath.sin(x * y) + x**2 * mpmath.exp(y) / (1 + x)),
    ("tan(x*y/2)*asin(x/3) + x^y", lambda x, y: mpmath.tan(x * y / 2) * mpmath.asin(x / 3) + x**y),
    ("max(x, y)*abs(y - 3)*sqrt(x + y)", lambda x, y: max(x, y) * abs(y - 3) * mpmath.sqrt(x + y)),
    ("atan(x*y) - erf(x - y) + ln(x + 2*y)", lambda x, y: mpmath.atan(x * y) - mpmath.erf(x - y) + mpmath.log(x + 2 * y)),
    ("(x*y when x < y, otherwise x^3*y^2)", lambda x, y: x * y if x < y else x**3 * y**2),
    ("tanh(x)*sinh(y)*cosh(x*y)/cbrt(x + y)", lambda x, y: mpmath.tanh(x) * mpmath.sinh(y) * mpmath.cosh(x * y) / mpmath.cbrt(x + y)),
]  # fmt: skip


def program(text: str) -> Any:
    found = run(f"f(x, y) = {text}").names.find("f")
    assert found is not None
    return program_of(found.body)  # type: ignore[union-attr]


@pytest.mark.parametrize(("text", "function"), SMOOTH)
def test_mixed_derivatives(text: str, function: Any) -> None:
    steps = program(text)
    for x, y in ((0.7, 1.1), (0.4, 0.9), (1.3, 0.6)):
        found = mixed_derivative(steps, {"x": arb(x, 1e-9), "y": arb(y, 1e-9)}, "x", "y")
        with mpmath.workdps(40):
            truth = mpmath.diff(function, (mpmath.mpf(x), mpmath.mpf(y)), (1, 1))
        assert abs(float(found.mid()) - float(truth)) <= float(found.rad()) + 1e-12
        assert float(found.rad()) < 1e-6


@pytest.mark.parametrize("text", [*(t for t, _ in SMOOTH), "abs(x - y) + x^2", "floor(x) - y", "1/(x - y)", "sqrt(x - 1) + y^3"])
def test_no_sample_lies_below_a_level_that_is_kept(text: str) -> None:
    """And where the least sample is well above the level, small parts are shown to keep above it."""
    source = random.Random(text)
    steps = program(text)
    field = SlopeField(steps, ["x", "y"])
    kept = easy = shown = 0
    for _ in range(60):
        corner = [Fraction(source.randint(1, 12), 8) for _ in "xy"]
        width = Fraction(1, source.choice((2, 8, 64, 512)))
        part: Part = tuple((c, c + width) for c in corner)
        samples = [
            float(v.jet[0].mid())
            for i in range(7) for j in range(7)
            if (v := field.read({"x": arb(float(corner[0] + width * i / 6)), "y": arb(float(corner[1] + width * j / 6))})) is not None
            and v.jet is not None and v.defined and v.jet[0].is_finite()
        ]  # fmt: skip
        least = min(samples, default=0.0)
        level = Fraction(least) + Fraction(source.choice((-1, -1, 1)), source.choice((4, 64)))
        above = field.keeps_above(part, level_of(level))
        kept += above
        if above:
            assert not samples or least >= float(level), (text, part, level)
        elif width <= Fraction(1, 64) and samples and least > float(level) + 0.2:
            easy += 1
        shown += above and bool(samples)
    assert shown > 5
    assert easy <= 3


@pytest.mark.parametrize(
    ("statement", "what"),
    [("maxima of -abs(x) - abs(y) for x from -1 to 1, y from -1 to 1", "maximum"),
     ("minima of max(abs(x), abs(y)) for x from -2 to 2, y from -2 to 2", "minimum")],
)  # fmt: skip
def test_a_kink_on_the_edge_of_two_parts_is_not_overlooked(statement: str, what: str) -> None:
    found = finding_of(statement)
    assert found["evidence"] != "proven" or any(r["what"] == what and r["x"] == r["y"] == 0 for r in found["values"])


def test_parts_that_meet_in_a_kink_prove_nothing() -> None:
    """On each quarter of the window -|x| - |y| rises or falls; its maximum is the corner that all of them share."""
    smooth = finding_of("extremes of x + y for x from -1 to 1, y from -1 to 1")["certificate"]["parts"][0]
    certificate = copy.deepcopy(smooth)
    certificate["formula"] = program("-abs(x) - abs(y)")
    certificate["faces"] = [{"face": f["face"], "alone": [], "parts": "01nn1nn" if f["face"] == "--" else "0nn"} for f in smooth["faces"]]
    verdict = verify(certificate, [])
    assert not verdict.complete
    assert "'n' does not hold" in verdict.fault


@pytest.mark.parametrize(
    ("statement", "value", "places"),
    [  # D. M. Himmelblau, "Applied Nonlinear Programming", 1972 (four minima, all zero); H. H. Rosenbrock, Computer Journal 3 (1960) 175
        ("minima of (x^2 + y - 11)^2 + (x + y^2 - 7)^2 for x from -5 to 5, y from -5 to 5", 0, 4),
        ("lowest of (1 - x)^2 + 100*(y - x^2)^2 for x from -2 to 2, y from -1 to 3", 0, 1),
        # By hand: the corners of a saddle, the edges of a bowl that lies beside the window.
        ("highest of x*y for x from -1 to 2, y from -3 to 1", 3, 1),
        ("lowest of (x - 3)^2 + (y + 4)^2 for x from 0 to 1, y from -1 to 1", 13, 1),
        # Under conditions, by multipliers worked out by hand.
        ("highest of x*y for x from 0 to 2, y from 0 to 2, where x^2 + y^2 <= 1", "1/2", 1),
        ("lowest of x^2 + y^2 + z^2 + w^2 for x from 0 to 1, y from 0 to 1, z from -1 to 1, w from -1 to 1, where x + y >= 1/2", "1/8", 1),
        ("lowest of 3*x + 4*y for x from 0 to 5, y from 0 to 5, where (x + 2*y >= 4 and 3*x + y >= 3)", "42/5", 1),
        ("lowest of x^2 + y^2 + z^2 - x*y for x from -1 to 2, y from 1 to 2, z from -1 to 1", "3/4", 1),
    ],
)  # fmt: skip
def test_lowest_values_that_are_known(statement: str, value: Any, places: int) -> None:
    found = finding_of(statement)
    assert found["evidence"] == "proven"
    rows = found["values"]
    assert len(rows) == places
    for row in rows:
        low, high = (Fraction(v) for v in row["value_interval"])
        assert low <= Fraction(value) <= high
        assert high - low <= Fraction(1, 10**8)


def test_places_and_values_about_zero_are_no_narrower_than_digits_tell() -> None:
    """What was found to a thousand digits around zero was narrower than whoever looks it up comes."""
    finding = run("extremes of sin(2x)*cos(2y) for x from -1 to 1, y from -1 to 1").findings[0].as_record()
    assert finding["evidence"] == "proven"
    for row in finding["values"]:
        for low, high in (*row["intervals"].values(), row["value_interval"]):
            assert float(low) <= float(high)
            assert low == high or 1e-24 < float(high) - float(low) < 1e-15 or abs(float(low)) > 1e-9
