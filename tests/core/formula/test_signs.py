"""Signs of a typeset sum: a factor below zero is taken off, not put in brackets."""

from __future__ import annotations

import pytest

from open_lemma.core.run.execute.interpreter import run


@pytest.mark.parametrize(
    ("text", "latex"),
    [
        ("x^2 + (-47/60)*x", r"x^{2} - \frac{47}{60}\,x"),
        ("x^2 + (-2)*x^3", "x^{2} - 2x^{3}"),
        ("x^2 + (-1)*x", "x^{2} - x"),
        ("1 + (-3)", "1 - 3"),
        ("(-2)*x + 1", "-2x + 1"),
        ("x - 2*x^2", "x - 2x^{2}"),
        ("x^2 + (-x)/2", r"x^{2} - \frac{x}{2}"),
    ],
)
def test_signs_go_before_the_term(text: str, latex: str) -> None:
    (reading,) = run(f"f(x) = {text}").readings
    assert reading["latex"] == f"f(x) = {latex}"


def test_the_polynomial_through_points_has_no_brackets_around_coefficients() -> None:
    (finding,) = run("xs = [1, 2, 3, 4, 5]\nys = [3, 1, 4, 1, 5]\np(x) = interpolation of ys against xs, by polynomial").findings
    assert "left(" not in (finding.latex or "")
    assert r"- \frac{71}{6}\,x^{3}" in (finding.latex or "")
