"""That no values within the limits fit better: held against a dense scan of variable projection, and never said of a worse minimum."""

import numpy as np
import pytest

from open_lemma.core.formula import catalogue as c
from open_lemma.core.formula.nodes import Formula, Variable
from open_lemma.core.numerics.fitting.fit import DataColumn, Problem, fit
from open_lemma.core.numerics.fitting.projection import Data, scores
from tests.core.run.scripts import good

T = np.arange(0.5, 10.5, 0.5)
NOISE = np.random.Generator(np.random.PCG64(4)).normal(0, 0.02, T.size)
DATA = {
    "decay": np.round(4.5 * np.exp(-0.44 * T) + 0.5 + NOISE, 4),
    "logistic": np.round(3 / (1 + np.exp(-1.2 * (T - 4))) + NOISE, 4),
    "swing": np.round(2 * np.sin(1.3 * T + 0.4) + NOISE, 4),
}


def fitted(model: str, names: str, key: str, more: str) -> dict:
    script = f"ts = {T.tolist()}\nys = {DATA[key].tolist()}\nr(t) = fit of {model} to ys against ts for {names}, {more}"
    finding = good(script).findings[-1]
    return {**finding.rows[0], "evidence": finding.evidence, "notes": finding.notes, "method": finding.method}


@pytest.mark.parametrize(
    ("model", "names", "key", "more"),
    [
        ("A*exp(-k*t) + c", "A, k, c", "decay", "limit k = 0.05 to 3"),
        ("A*exp(-k*t) + c", "A, k, c", "decay", "limit k = 0.05 to 3, limit A = 0 to 20, limit c = -1 to 3"),
        ("A/(1 + exp(-n*(t - m)))", "A, n, m", "logistic", "limit n = 0.3 to 4, limit m = 1 to 8"),
        ("A*sin(w*t) + B*cos(w*t)", "A, B, w", "swing", "limit w = 0.5 to 3"),
    ],
)
def test_the_least_within_limits_is_proven(model: str, names: str, key: str, more: str) -> None:
    found = fitted(model, names, key, more)
    assert found["least_within_limits"] is True
    assert found["evidence"] == "proven"
    assert "branch and bound" in found["method"]


def test_no_place_of_a_dense_scan_lies_below() -> None:
    """An oracle that knows nothing of boxes: the sums of squares at 20,000 places."""
    a, w, t = (Variable(n) for n in ("A", "w", "t"))
    formula: Formula = c.times(a, c.call("sin", c.add(c.times(w, t), Variable("b"))))
    problem = Problem(
        formula, ("t",), ("A", "w", "b"), [DataColumn(T)], DataColumn(DATA["swing"]), limits={"w": (0.5, 3.0), "b": (0.0, 3.0)}
    )
    found = fit(problem)
    assert found.bounded is not None
    assert found.bounded.proven
    z = np.random.Generator(np.random.PCG64(1)).uniform([0.5, 0.0], [3.0, 3.0], (20_000, 2))
    assert scores(found.model, Data([T], DATA["swing"]), z).min() >= found.quality.squares * (1 - 1e-8)


def test_a_worse_minimum_is_never_called_the_least() -> None:
    """A start that leads to another valley of the frequency: it is a minimum, proven, and not the least."""
    found = fitted("A*sin(w*t) + B*cos(w*t)", "A, B, w", "swing", "limit w = 0.5 to 3, start w = 2.2")
    best = fitted("A*sin(w*t) + B*cos(w*t)", "A, B, w", "swing", "limit w = 0.5 to 3")
    assert found["residual_sum_of_squares"] > 2 * best["residual_sum_of_squares"]
    assert found["least_within_limits"] is False
    assert any("not settled for w" in n for n in found["notes"])


def test_where_the_curve_ends_up_level_it_is_said_what_is_not_known() -> None:
    """At k = 0 the exponential is a constant like c: there the data tell nothing apart, and the bound fails."""
    found = fitted("A*exp(-k*t) + c", "A, k, c", "decay", "limit k = 0 to 3")
    assert found["least_within_limits"] is False
    note = next(n for n in found["notes"] if "not settled" in n)
    assert "k = 0 to 0.0" in note  # narrow enough to be of use: all but the first few thousandths is ruled out


def test_without_limits_nothing_is_claimed() -> None:
    assert "least_within_limits" not in fitted("A*exp(-k*t) + c", "A, k, c", "decay", "start k = 0.4")
