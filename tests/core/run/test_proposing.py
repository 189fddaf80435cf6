"""Which models are proposed for which data, and what inking one writes."""

from __future__ import annotations

import time

import numpy as np
import pytest

from open_lemma.core.editing.actions import apply_actions, read_action
from open_lemma.core.editing.changes import NotInked
from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.numerics.fitting.standard_models import MODELS, suitable
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.proposing import NotProposed, propose

X = np.linspace(0.2, 12, 48)
SHAPES = {
    "straight line": 1 + 2 * X,
    "exponential approach": 3 - 2 * np.exp(-0.7 * X),
    "Gaussian peak": 0.5 + 4 * np.exp(-((X - 5) ** 2) / 2),
    "sinusoid": 1 + 2 * np.sin(1.7 * X + 0.4),
    "damped sinusoid": 1 + 2 * np.exp(-0.2 * X) * np.cos(2 * X + 0.3),
    "logistic": 10 / (1 + np.exp(-1.1 * (X - 6))),
    "saturation": 7 * X / (2 + X),
    "logarithm": 1 + 3 * np.log(X),
}


@pytest.mark.parametrize("name", SHAPES)
def test_the_model_that_made_the_data_is_proposed_and_does_best(name: str) -> None:
    y = SHAPES[name] + np.random.default_rng(3).normal(0, 0.02, X.size)
    listed = [", ".join(repr(float(v)) for v in values) for values in (X, y)]
    script = f"xs = [{listed[0]}]\nys = [{listed[1]}]\npoints of ys against xs\n"
    found = propose(script, 3, None, time.monotonic)["fits"]
    # A model with one more term may do as well by chance; never much better.
    scores = {f["name"]: f["aicc"] for f in found}
    assert name in scores
    assert scores[name] - min(scores.values()) < 4


def test_models_without_a_meaning_are_not_offered() -> None:
    names = {m.name for m in suitable(np.arange(-5.0, 5), np.arange(10.0))}
    assert "power law" not in names
    assert "logarithm" not in names
    assert "sinusoid" not in names
    assert {m.name for m in suitable(np.arange(4.0), np.arange(4.0))} <= {"straight line", "proportion"}
    assert len({m.name for m in MODELS}) == len(MODELS)


FIGURE = """xs = [1, 2, 3, 4, 5, 6]
ys = [1.1, 2.1, 2.8, 4.2, 5.1, 5.8]
# what was measured

figure a:
    points of ys against xs, errors 0.1
    x axis "x"
show 1
"""


def ink(script: str, line: int, **more: object) -> str:
    return apply_actions(script, [read_action("fit", line, {"formula": "a + b*x", "parameters": ["a", "b"], **more})], BUILTINS)[0]


def test_a_fit_is_inked_above_its_figure_and_drawn_in_it() -> None:
    text = ink(FIGURE, 6, name="line", window=5, band="confidence", residuals=True, at=2.5)
    assert "\nline(x) = fit of a + b*x to ys against xs for a, b, errors 0.1\nat_line = line(2.5)\nshow at_line\nfigure a:\n" in text
    assert "    confidence of line\n    curve of line(x)\n    mark (2.5, at_line)\n" in text
    assert "\n\nfigure line_left:\n    residuals of line\n    line horizontal at 0\nshow 1\n" in text
    outcome = run(text)
    assert not outcome.reading.messages.items
    assert len(outcome.figures) == 2


def test_points_that_stand_alone_become_a_figure_with_their_fit() -> None:
    script = "xs = [1, 2, 3, 4]\nys = [1, 2, 3.1, 4]\npoints of ys against xs\n"
    text = ink(script, 3, name="xs", starts={"b": 0.9})
    assert "xs_1(x) = fit of a + b*x to ys against xs for a, b, start b = 0.9\nfigure:\n" in text
    assert "    points of ys against xs\n    curve of xs_1(x)\n" in text
    assert not run(text).failed


LOOP = "for k from 1 to 2:\n    points of [1, k] against [1, 2]\n"


@pytest.mark.parametrize(("script", "line"), [("points of [(1, 2), (2, 3)]\n", 1), ("a = 1\n", 1), (LOOP, 2)])
def test_what_cannot_be_fitted_is_not_inked(script: str, line: int) -> None:
    with pytest.raises(NotInked):
        ink(script, line)


def test_lists_of_a_block_are_told() -> None:
    script = "figure a:\n    zs = [1, 2, 3, 4, 5]\n    points of zs against zs\n"
    with pytest.raises(NotProposed, match="above it"):
        propose(script, 3, None, time.monotonic)


POINTS = "xs = [0, 1, 2, 3, 4, 5]\nys = [1, 2.1, 2.9, 4.2, 5, 6.1]\npoints of ys against xs\n"


def own(formula: str, **starts: float) -> dict[str, object]:
    return propose(POINTS, 3, None, time.monotonic, formula, starts)["fits"][0]  # type: ignore[no-any-return]


def test_a_name_that_was_meant_as_a_product_is_told() -> None:
    with pytest.raises(NotProposed, match=r"bx is one name here.*write b\*x for b times x"):
        own("a + bx + cx^2")
    with pytest.raises(NotProposed, match=r"write b\*x"):
        own("a + bx + c*x")
    assert any("write b*x" in w for w in own("bx*exp(c*x)")["words"])  # type: ignore[attr-defined]
    assert own("a + b*x")["words"] == []


@pytest.mark.parametrize(
    ("formula", "told"),
    [("A*sin", "sin"), ("A*sin()", "sin"), ("A*mean(x)", "list"), ("(A, x)", "point"), ("A + x(2)", "x"), ("A*ys[2]*x +", "follow")],
)
def test_a_formula_with_a_mistake_is_refused_with_its_message(formula: str, told: str) -> None:
    """Half-typed formulas come here too: each is checked as the script's are."""
    with pytest.raises(NotProposed, match=told):
        own(formula)


def test_e_is_told_to_be_a_number() -> None:
    assert any("2.718" in w for w in own("a + b*x + e*x^2")["words"])  # type: ignore[attr-defined]


def test_a_fit_from_its_own_values_ends_where_it_is() -> None:
    """What the hand saw is what is inked: from the values that are seen the fit goes nowhere else."""
    t = np.linspace(0, 6, 60)
    y = 1.7 * np.sin(5.027 * t + 0.6) + 0.4 + np.random.default_rng(4).normal(0, 0.05, t.size)
    xs, ys = (", ".join(f"{v:.6g}" for v in values) for values in (t, y))
    script = f"xs = [{xs}]\nys = [{ys}]\npoints of ys against xs\n"
    formula = "A*sin(w*x + p) + c"
    seen = propose(script, 3, None, time.monotonic, formula, {"A": 1.0, "w": 9.0, "p": 0.0, "c": 0.0})["fits"][0]
    values = {p["name"]: p["value"] for p in seen["parameters"]}
    action = read_action("fit", 3, {"window": 3, "name": "fitted", "formula": formula, "parameters": list(values), "starts": values})
    text, _ = apply_actions(script, [action], BUILTINS)
    outcome = run(text)
    (finding,) = [f for f in outcome.findings if f.noun == "fit"]
    for parameter in finding.as_record()["values"][0]["parameters"]:
        assert parameter["value"] == pytest.approx(values[parameter["name"]], rel=1e-6)
