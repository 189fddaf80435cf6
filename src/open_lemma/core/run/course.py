"""The course: twelve lessons of five minutes, in the order in which the work is done, with tasks that check themselves.

A task is done when the record of the reader's own script has what it asks for: a finding, a drawn thing, a title. How the script is
written does not matter.
"""

from __future__ import annotations

import math
import re
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from ..language.vocabulary.records import lines


@dataclass(frozen=True, slots=True)
class Expected:
    """What a record must hold.

    noun       of a finding; any of several, parted by blanks
    values     numbers that stand among its rows, each to `within` of itself
    count      how many rows it has at least
    drawn      how many things one figure shows at least
    said       words that stand in a figure's description, in small letters
    title      whether a figure must have one
    axes       whether a figure must have a text at both axes
    figures    how many figures at least
    passed     whether a check must pass
    """

    noun: str = ""
    values: tuple[float, ...] = ()
    within: float = 1e-4
    count: int = 0
    drawn: int = 0
    said: tuple[str, ...] = ()
    title: bool = False
    axes: bool = False
    figures: int = 0
    passed: bool = False


@dataclass(frozen=True, slots=True)
class Task:
    """What is to be done, a hint for those who are stuck, and how it is seen that it was done."""

    say: str
    hint: str
    expected: Expected


@dataclass(frozen=True, slots=True)
class Lesson:
    """A lesson: some paragraphs, the script that the desk begins with, the tasks, and a script that does them all."""

    id: str
    title: str
    text: tuple[str, ...]
    start: str
    tasks: tuple[Task, ...]
    solution: str
    pages: tuple[str, ...] = ()


COURSE = (
    Lesson(
        "figure", "A figure",
        (
            "A script is read line by line, like a method section. f(x) = … gives a function its name and says nothing; a request such as "
            "curve of f(x) draws it. The script runs by itself when you stop typing.",
            "Where you name no window, one is chosen that shows what the function does. for x from −2 to 4 sets it.",
        ),
        "f(x) = x^2 - 2x - 1\n",
        (
            Task("Draw the function that stands in the script.", "curve of f(x)", Expected(drawn=1, said=("curve",))),
            Task("Let its window run from −2 to 4.", "curve of f(x) for x from -2 to 4", Expected(drawn=1, said=("axis x from -2 to 4",))),
        ),
        "f(x) = x^2 - 2x - 1\ncurve of f(x) for x from -2 to 4\n",
        ("drawing-curve", "idea-windows"),
    ),
    Lesson(
        "dress", "Dress it",
        (
            "A figure is a block: figure:, and below it, indented by four spaces, all that it shows. What a drawn thing wears follows after "
            "commas: colour brick, width 2, dash dashed, label \"…\".",
            "x axis \"head / m\" and y axis \"…\" write at the axes, title \"…\" above. The order of lines does not matter.",
        ),
        lines("Q(h) = 1.7*h^1.5", "figure:", "    curve of Q(h) for h from 0 to 0.5", ""),
        (
            Task("Give the figure a title.", 'title "Flow over the weir"', Expected(title=True)),
            Task("Write at both axes what they show.", 'x axis "head / m", and a line below y axis "discharge / m³ s⁻¹"', Expected(axes=True)),
            Task("Give the curve a label.", 'Behind the curve: , label "theory"', Expected(drawn=1, said=("“",))),
        ),
        lines(
            "Q(h) = 1.7*h^1.5", "figure:", '    curve of Q(h) for h from 0 to 0.5, label "theory"', '    title "Flow over the weir"',
            '    x axis "head / m"', '    y axis "discharge / m³ s⁻¹"', "    legend top left",
        ),
        ("statement-figure", "option-colour", "statement-axis"),
    ),
    Lesson(
        "two-curves", "Two curves",
        (
            "Several curves in one figure are several lines of its block, or one request of a list: curve of [f(x), g(x)].",
            "A legend names them by their labels; label [\"inflow\", \"outflow\"] gives one each. In print they differ by their dashes too.",
        ),
        lines("a(t) = 4*exp(-t/3)", "b(t) = t/2", ""),
        (
            Task("Draw both functions in one figure, for t from 0 to 8.", "curve of [a(t), b(t)] for t from 0 to 8", Expected(drawn=2)),
            Task("Give each a label.", 'Behind it: , label ["outflow", "inflow"]', Expected(drawn=2, said=("“", "“"))),
        ),
        lines("a(t) = 4*exp(-t/3)", "b(t) = t/2", 'curve of [a(t), b(t)] for t from 0 to 8, label ["outflow", "inflow"]'),
        ("drawing-curve", "option-label", "statement-legend"),
    ),
    Lesson(
        "roots", "Roots and crossings",
        (
            "roots of f(x) for x from −3 to 3 finds all of them, counts them, and says how sure it is: a filled square is proven. A click on "
            "the finding shows what it rests on.",
            "crossings of f(x) and g(x) for x … finds where two curves meet. Give the finding a name, r = roots of …, and mark r puts it on "
            "a figure.",
        ),
        lines("f(x) = x^3 - 3x + 1", "g(x) = x/2", ""),
        (
            Task("Find the three roots of f between −3 and 3.", "roots of f(x) for x from -3 to 3",
                 Expected(noun="roots", values=(-1.8793852, 0.3472964, 1.5320889))),
            Task("Find where f and g meet between −3 and 3.", "crossings of f(x) and g(x) for x from -3 to 3", Expected(noun="crossings", count=3)),
            Task("Mark the roots on a figure of f.", "r = roots of …; in the figure's block: mark r", Expected(drawn=1, said=("finding",))),
        ),
        lines(
            "f(x) = x^3 - 3x + 1", "g(x) = x/2", "r = roots of f(x) for x from -3 to 3", "crossings of f(x) and g(x) for x from -3 to 3",
            "figure:", "    curve of f(x) for x from -3 to 3", "    mark r",
        ),
        ("request-roots", "request-crossings", "idea-evidence", "statement-mark"),
    ),
    Lesson(
        "turning-points", "Turning points",
        (
            "minima and maxima give all local ones of a window, extremes both in order; lowest and highest give the one lowest or highest "
            "value, and where it is taken.",
            "A critical depth is a lowest energy, the best box a highest volume. f' is the derivative of f: show f', or curve of f'(x).",
        ),
        lines("E(y) = y + 0.2/y^2", "V(x) = x*(30 - 2x)^2", ""),
        (
            Task("Find the lowest value of E between 0.2 and 3.", "lowest of E(y) for y from 0.2 to 3",
                 Expected(noun="lowest minima extremes", values=(0.7368063,))),
            Task("Which x from 0 to 15 makes V largest?", "highest of V(x) for x from 0 to 15", Expected(noun="highest maxima extremes", values=(5.0,))),
            Task("Show the derivative of V.", "show V'", Expected(noun="show derivative")),
        ),
        lines(
            "E(y) = y + 0.2/y^2", "V(x) = x*(30 - 2x)^2", "lowest of E(y) for y from 0.2 to 3", "highest of V(x) for x from 0 to 15", "show V'",
        ),
        ("request-lowest", "request-extremes", "request-derivative"),
    ),
    Lesson(
        "data", "Data",
        (
            "Measurements stand in a table: a line of heads with units in square brackets, and a row for each reading. A file is brought in "
            "on the tables view and read by table NAME from \"FILE\".",
            "A column is table.column. points of y against x draws it; errors gives it bars.",
        ),
        lines(
            "table spring:", "    force [N]   stretch [mm]", "    0.5         1.3", "    1.0         2.4", "    1.5         3.6", "    2.0         4.9", "",
        ),
        (
            Task("Draw the stretch against the force.", "points of spring.stretch against spring.force", Expected(drawn=1, said=("points",))),
            Task("Show the mean of the stretch.", "show mean(spring.stretch)", Expected(noun="show", values=(3.05,))),
        ),
        lines(
            "table spring:", "    force [N]   stretch [mm]", "    0.5         1.3", "    1.0         2.4", "    1.5         3.6", "    2.0         4.9", "",
            "points of spring.stretch against spring.force", "show mean(spring.stretch)",
        ),
        ("statement-table", "drawing-points", "idea-reading-files"),
    ),
    Lesson(
        "fit", "A fit and its doubt",
        (
            "law(F) = fit of a*F to ys against xs for a adjusts a model. No starting values are needed. Parameters come with their standard "
            "uncertainty, which goes into whatever is worked out from them: show law(1.2) has a ±.",
            "confidence of law draws where the curve may lie, residuals of law what it leaves over.",
        ),
        lines("t = [0, 1, 2, 3, 4, 5]", "T = [80.0, 62.1, 50.3, 41.9, 36.2, 32.4]", "points of T against t", ""),
        (
            Task("Fit A*exp(−k*x) + T_0 to T against t.", "cooling(x) = fit of A*exp(-k*x) + T_0 to T against t for A, k, T_0",
                 Expected(noun="fit", values=(56.92, 0.38), within=0.05)),
            Task("What does the fit say at 2.5?", "show cooling(2.5)", Expected(noun="show", values=(45.8,), within=0.02)),
            Task("Draw the fit with its points in one figure.", "figure: with points of T against t and curve of cooling(x)", Expected(drawn=2, said=("points", "curve"))),
        ),
        lines(
            "t = [0, 1, 2, 3, 4, 5]", "T = [80.0, 62.1, 50.3, 41.9, 36.2, 32.4]", "cooling(x) = fit of A*exp(-k*x) + T_0 to T against t for A, k, T_0",
            "show cooling(2.5)", "figure:", "    points of T against t", "    curve of cooling(x)", "    confidence of cooling",
        ),
        ("request-fit", "drawing-confidence", "value-uncertainties"),
    ),
    Lesson(
        "interpolation", "Interpolation",
        (
            "Where no model is known, interpolation of ys against xs, by spline leads a smooth curve through all points. It is a function like "
            "any other: it has roots, a highest value, an integral.",
            "It ends where its data end; what lies beyond is flagged.",
        ),
        lines("hour = [0, 2, 4, 6, 8, 10, 12]", "gauge = [1.2, 2.0, 2.4, 1.9, 1.0, 0.6, 0.9]", ""),
        (
            Task("Lead a spline through the readings.", "level(t) = interpolation of gauge against hour, by spline",
                 Expected(noun="interpolation show highest crossings roots", count=1)),
            Task("Find the highest water and its hour.", "highest of level(t)", Expected(noun="highest", values=(2.4,), within=0.03)),
            Task("When does the level pass 1.5? Between 0 and 12 it does so twice.", "crossings of level(t) and 1.5", Expected(noun="crossings roots solution", count=2)),
        ),
        lines(
            "hour = [0, 2, 4, 6, 8, 10, 12]", "gauge = [1.2, 2.0, 2.4, 1.9, 1.0, 0.6, 0.9]", "level(t) = interpolation of gauge against hour, by spline",
            "highest of level(t)", "crossings of level(t) and 1.5",
        ),
        ("request-interpolation", "option-by"),
    ),
    Lesson(
        "areas", "Areas",
        (
            "integral of f(x) for x from 0 to 3 is the signed area below a curve, area of f(x) and g(x) … the one between two, mean of … the "
            "average height. Without a window, integral gives the antiderivative.",
            "band of f(x) and g(x) shades it.",
        ),
        lines("f(x) = 4 - x^2", "g(x) = x + 2", ""),
        (
            Task("Integrate f from −2 to 2.", "integral of f(x) for x from -2 to 2", Expected(noun="integral", values=(32 / 3,))),
            Task("What area lies between f and g from −2 to 1?", "area of f(x) and g(x) for x from -2 to 1", Expected(noun="area", values=(4.5,))),
            Task("Shade it.", "band of f(x) and g(x) for x from -2 to 1", Expected(drawn=1, said=("band",))),
        ),
        lines(
            "f(x) = 4 - x^2", "g(x) = x + 2", "integral of f(x) for x from -2 to 2", "area of f(x) and g(x) for x from -2 to 1", "figure:",
            "    band of f(x) and g(x) for x from -2 to 1", "    curve of [f(x), g(x)] for x from -3 to 2",
        ),
        ("request-integral", "request-area", "drawing-band"),
    ),
    Lesson(
        "loops", "Loops and the walk",
        (
            "for k from 1 to 5: repeats the indented lines below it; while CONDITION: as long as something holds. What a loop shows is one "
            "finding with a row for each pass.",
            "Walk, above, goes through the finished run step by step, forward and back, with the names at each step. Try it on the loop.",
        ),
        lines("x = 3", "for k from 1 to 5:", "    x = x - (x^2 - 2)/(2x)", ""),
        (
            Task("Show x in each pass of the loop.", "show x, indented like the line above", Expected(noun="show", count=5)),
            Task("Check, behind the loop, that x^2 is 2 within 1e-9.", "check x^2 = 2, within 1e-9", Expected(noun="check", passed=True)),
        ),
        lines("x = 3", "for k from 1 to 5:", "    x = x - (x^2 - 2)/(2x)", "    show x", "check x^2 = 2, within 1e-9"),
        ("statement-for", "statement-check", "idea-walk-and-stops"),
    ),
    Lesson(
        "surfaces", "Surfaces",
        (
            "surface of h(x, y) for x …, y … stands in a box that turns under the hand; Keep writes the view into the script. contours of the "
            "same is its map, section of … a cut through it.",
            "Lowest and highest, minima and maxima work over two variables too.",
        ),
        lines("h(x, y) = exp(-x^2 - y^2)*(x + 2y)", ""),
        (
            Task("Draw the surface for x and y from −2 to 2.", "surface of h(x, y) for x from -2 to 2, y from -2 to 2", Expected(figures=1, said=("surface",))),
            Task("Draw its map of level lines.", "contours of h(x, y) for x from -2 to 2, y from -2 to 2", Expected(figures=1, said=("level",))),
            Task("Find its highest value.", "highest of h(x, y) for x from -2 to 2, y from -2 to 2", Expected(noun="highest maxima extremes", values=(0.95908,), within=1e-3)),
        ),
        lines(
            "h(x, y) = exp(-x^2 - y^2)*(x + 2y)", "surface of h(x, y) for x from -2 to 2, y from -2 to 2",
            "contours of h(x, y) for x from -2 to 2, y from -2 to 2", "highest of h(x, y) for x from -2 to 2, y from -2 to 2",
        ),
        ("drawing-surface", "drawing-contours", "drawing-section"),
    ),
    Lesson(
        "report", "A report",
        (
            "part \"Results\" divides a script, note \"…\" is prose for the page, caption \"…\" stands below a figure. size 89 mm by 60 mm is a "
            "column of a journal; style print sets type and lines for paper.",
            "Export, above the figure, gives SVG, PDF, EPS, PNG or TIFF with embedded fonts, and the findings as tables. The same script gives "
            "the same file, byte for byte; its record can be cited.",
        ),
        lines("f(t) = exp(-t/4)*cos(3t)", "figure swing:", "    curve of f(t) for t from 0 to 10", ""),
        (
            Task("Write at both axes and give the figure its printed size.", 'x axis "time / s", y axis "deflection / cm", size 89 mm by 60 mm', Expected(axes=True)),
            Task("Give it a caption.", 'caption "The float, let go."', Expected(said=("the float",), figures=1)),
            Task("Count how often it passes zero from 0 to 10.", "roots of f(t) for t from 0 to 10", Expected(noun="roots", count=10)),
        ),
        lines(
            "f(t) = exp(-t/4)*cos(3t)", 'part "The float"', "figure swing:", "    curve of f(t) for t from 0 to 10", '    x axis "time / s"',
            '    y axis "deflection / cm"', '    caption "The float, let go."', "    size 89 mm by 60 mm", "    style print",
            "roots of f(t) for t from 0 to 10",
        ),
        ("idea-export-and-printing", "statement-part", "statement-size", "idea-sharing-and-records"),
    ),
)  # fmt: skip


_DRAWN = re.compile(r"\ba curve\b|\b\d+ points\b|\ba band\b|\ba surface\b|\blevel lines?\b|\bbars\b")  # as descriptions name drawn things


def lesson_of(lesson_id: str) -> Lesson | None:
    """The lesson with an id."""
    return next((lesson for lesson in COURSE if lesson.id == lesson_id), None)


def done(lesson: Lesson, record: dict[str, Any]) -> list[bool]:
    """For each task whether a record, as record.json has it, holds what is expected."""
    return [_holds(task.expected, record) for task in lesson.tasks]


def _holds(expected: Expected, record: dict[str, Any]) -> bool:
    if expected.noun and not any(_finding_holds(expected, f) for f in record["findings"] if f["noun"] in expected.noun.split()):
        return False
    asked = expected.drawn or expected.said or expected.title or expected.axes or expected.figures
    return not asked or (len(record["figures"]) >= expected.figures and any(_figure_holds(expected, f) for f in record["figures"]))


def _finding_holds(expected: Expected, finding: dict[str, Any]) -> bool:
    rows = finding["values"]
    if len(rows) < expected.count or (expected.passed and not all(row.get("passed") for row in rows)):
        return False
    numbers = [n for row in rows for n in _numbers(row)]
    return all(any(math.isclose(n, v, rel_tol=expected.within, abs_tol=expected.within) for n in numbers) for v in expected.values)


def _numbers(row: dict[str, Any]) -> Iterator[float]:
    """The numbers of a row, those of its parameters too."""
    for value in row.values():
        if isinstance(value, int | float) and not isinstance(value, bool):
            yield float(value)
        elif isinstance(value, list):
            for inner in value:
                if isinstance(inner, dict):
                    yield from _numbers(inner)


def _figure_holds(expected: Expected, figure: dict[str, Any]) -> bool:
    panels = figure["layout"]["panels"]
    if expected.title and not (figure["title"] or figure.get("heading")):
        return False
    if expected.axes and not any(p["x"]["text"] and p["y"]["text"] for p in panels):
        return False
    description = f"{figure['description']} {figure.get('caption') or ''}".lower()
    if len(_DRAWN.findall(description)) < expected.drawn:
        return False
    return all(description.count(words) >= expected.said.count(words) for words in expected.said)
