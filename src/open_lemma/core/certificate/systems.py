"""Systems of as many equations as unknowns: a box cut by halving, and a test for each part.

    n     no solution: some equation has no zero there, or no value, or Krawczyk's operator leads out of it
    k     inside of one of the boxes `alone`, each of which is shown to hold exactly one solution
    0 1 … the part is halved across that unknown

K(X) = m - Y f(m) + (I - Y F'(X)) (X - m), with any matrix Y: where K(X) lies in the interior of X there is exactly one solution in X, and
it lies in K(X); where they have nothing in common there is none (R. E. Moore, R. B. Kearfott, M. J. Cloud, "Introduction to Interval
Analysis", SIAM 2009, theorem 8.2).
"""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from flint import arb, arb_mat, fmpq, fmpq_mat

from .cover import BOX_BITS, PLACE_BITS, ULP, Unproven, ball, between, bits, fraction
from .evaluator import BallReading, run
from .exact import BITS, rational
from .parts import Part, balls_of, inside, number_of, outside, part_of, parts, span_ball, window_of, within

MOST_BOXES = 200_000
MOST_UNKNOWNS = 10
NARROWINGS = 60
CLOSEST = Fraction(1, 2**360)  # of its size: where a solution that is a plain number would be narrowed on and on
Places = dict[str, Any]


class Equations:
    """The equations of a system, as programs."""

    def __init__(self, programs: list[Any], names: list[str]) -> None:
        self.programs, self.names, self.count = programs, names, 0
        if len(programs) != len(names) or not 0 < len(names) <= MOST_UNKNOWNS or len(set(names)) < len(names):
            raise Unproven("not as many equations as unknowns")

    # ------------------------------------------------------------ what is known of the equations on a part

    def nowhere(self, places: Places) -> bool:
        """Whether some equation has no value, or no zero, on a part."""
        for program in self.programs:
            found = run(program, places)[-1]
            if found is None or (found.jet is not None and (found.jet[0] > 0 or found.jet[0] < 0)):
                return True
        return False

    def values(self, places: Places) -> list[Any] | None:
        """The left sides less the right ones; None where one is not known."""
        found = [run(p, places)[-1] for p in self.programs]
        if any(v is None or v.jet is None or not v.jet[0].is_finite() for v in found):
            return None
        return [v.jet[0] for v in found]  # type: ignore[union-attr,index]

    def slopes(self, places: Places) -> list[list[Any]] | None:
        """The derivatives of each equation by each unknown; None where an equation is not smooth all over the part."""
        found = [[_slope(run(p, places, 1, n)[-1]) for n in self.names] for p in self.programs]
        return None if any(s is None for row in found for s in row) else found

    def solved_by(self, part: Part) -> bool:
        """Whether a box that is a single point solves the equations, exactly."""
        if any(a != b for a, b in part):
            return False
        with bits(BITS):
            places = self.exact_places(part)
            found = [run(p, places)[-1] for p in self.programs]
            return all(v is not None and v.defined and v.jet is not None and v.jet[0].is_zero() for v in found)

    def exact_places(self, part: Part) -> Places:
        return {n: rational(fmpq(a.numerator, a.denominator)) for n, (a, _) in zip(self.names, part, strict=True)}

    def places(self, part: Part) -> Places:
        return {n: span_ball(side) for n, side in zip(self.names, part, strict=True)}

    # ------------------------------------------------------------ what follows

    def empty(self, part: Part) -> bool:
        """Whether there is shown to be no solution in a part."""
        self.counted()
        with bits(BOX_BITS):
            if self.nowhere(self.places(part)):
                return True
            image = self.image(part)
            return image is not None and any(not k.overlaps(span_ball(side)) for k, side in zip(image, part, strict=True))

    def image(self, part: Part) -> list[Any] | None:
        """Krawczyk's operator of a part; None where an equation is not smooth all over it."""
        places = self.places(part)
        middle = {**places, **{n: ball((a + b) / 2) for n, (a, b) in zip(self.names, part, strict=True)}}
        slopes, at = self.slopes(places), self.values(middle)
        if slopes is None or at is None:
            return None
        size = range(len(self.names))
        try:
            near = arb_mat([[s.mid() for s in row] for row in slopes]).inv()
        except ZeroDivisionError:
            return None
        inverse = [[near[i, j].mid() for j in size] for i in size]
        found = []
        for i in size:
            total = middle[self.names[i]] - sum((inverse[i][k] * at[k] for k in size), arb(0))
            for j in size:
                factor = (1 if i == j else 0) - sum((inverse[i][k] * slopes[k][j] for k in size), arb(0))
                total = total + factor * (places[self.names[j]] - middle[self.names[j]])
            found.append(total)
        return found if all(v.is_finite() for v in found) else None

    def one_inside(self, part: Part) -> bool:
        """Whether there is exactly one solution in a part."""
        self.counted()
        for precision in (BOX_BITS, PLACE_BITS):
            with bits(precision):
                if self.leads_inside(part):
                    return True
        return False

    def leads_inside(self, part: Part) -> bool:
        """Whether Krawczyk's operator takes a part into its own inside, at the precision in force: then it holds exactly one solution."""
        image = self.image(part)
        return image is not None and all(k > ball(a) and k < ball(b) for k, (a, b) in zip(image, part, strict=True))

    def closer(self, part: Part) -> Part:
        """A narrower box that holds the only solution of a part."""
        with bits(PLACE_BITS):
            for _ in range(NARROWINGS):
                image = self.image(part)
                if image is None:
                    break
                sides = zip(image, part, strict=True)
                narrower = tuple((max(a, number_of(k.lower())), min(b, number_of(k.upper()))) for k, (a, b) in sides)
                if any(a > b for a, b in narrower):
                    raise Unproven("a box without a solution")
                if all((b - a) * 100 > (d - c) * 99 for (a, b), (c, d) in zip(narrower, part, strict=True)):
                    return narrower
                part = narrower
                if all(b - a <= CLOSEST * max(abs(a), abs(b), Fraction(1)) for a, b in part):
                    break
        return part

    def counted(self) -> None:
        self.count += 1
        if self.count > MOST_BOXES:
            raise Unproven("more boxes than may be checked")


def _slope(found: BallReading | None) -> Any:
    return found.jet[1] if found is not None and found.smooth and found.jet is not None and found.jet[1].is_finite() else None


def solutions(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> tuple[list[bool], bool, int, list[str]]:
    """For each row whether it is a solution, the only one in its intervals; whether there are no others; boxes; what did not hold."""
    names = [str(n) for n in certificate["variables"]]
    equations = Equations(certificate["formulas"], names)
    window, whole = balls_of(window_of(certificate["window"])), part_of(certificate["whole"])
    alone = [part_of(box) for box in certificate["alone"]]
    faults = []
    if not all(equations.one_inside(box) for box in alone):
        raise Unproven("a box that is not shown to hold exactly one solution")
    left = set(range(len(alone)))
    proven = []
    for row in rows:
        said = tuple(between(row, n, row["intervals"][n]) for n in names)
        mine = next((k for k in left if within(said, alone[k])), None)
        held = mine is not None and inside(said, window) and (within(equations.closer(alone[mine]), said) or equations.solved_by(said))
        if held and mine is not None:
            left.discard(mine)
        else:
            faults.append(f"no solution of its own at {', '.join(f'{n} = {row[n]}' for n in names)}")
        proven.append(held)
    with bits(PLACE_BITS):
        covers = all(ball(a) <= low and high <= ball(b) for (a, b), (low, high) in zip(whole, window, strict=True))
    if not covers:
        raise Unproven("the window is not covered")
    complete = all(proven)
    # What is no row must lie beyond the edge of the window.
    complete = complete and all(outside(equations.closer(alone[k]), window) for k in left)
    for letter, part in parts(certificate["parts"], whole):
        if letter == "n":
            if not equations.empty(part):
                raise Unproven(f"'n' does not hold at {', '.join(f'{float(a):.6g}' for a, _ in part)}")
        elif letter != "k" or not any(within(part, box) for box in alone):
            complete = False
    return proven, complete, equations.count, faults


def linear_solution(certificate: dict[str, Any], rows: list[dict[str, Any]]) -> tuple[list[bool], bool, int, list[str]]:
    """The only solution of linear equations with rational coefficients, by exact elimination: one row with a value for each unknown,
    or no row where they contradict each other."""
    names = [str(n) for n in certificate["variables"]]
    forms = [_linear_form(p, names) for p in certificate["formulas"]]
    matrix = fmpq_mat([form[:-1] for form in forms])
    if not rows and fmpq_mat(forms).rank() > matrix.rank():
        return [], True, 1, []  # the equations contradict each other
    if len(rows) != 1 or len(set(names)) < len(names) or matrix.rank() < len(names):
        raise Unproven("not one solution of linear equations")
    reduced, _ = fmpq_mat(forms).rref()
    if any(reduced[i, j] != (i == j) for i in range(min(len(forms), len(names) + 1)) for j in range(len(names))):
        raise Unproven("equations that contradict each other")
    found = {n: Fraction(int((-reduced[i, len(names)]).p), int((-reduced[i, len(names)]).q)) for i, n in enumerate(names)}
    held = True
    for name, exact in found.items():
        held = held and abs(fraction(rows[0][name]) - exact) <= abs(exact) * ULP + Fraction(1, 2**1060)
        if "interval" in rows[0]:
            low, high = (fraction(v) for v in rows[0]["interval"])
            held = held and low <= exact <= high
    return [held], held, 1, [] if held else ["the solution is " + ", ".join(f"{n} = {q}" for n, q in found.items())]


def _linear_form(program: list[Any], names: list[str]) -> list[Any]:
    """The coefficients of each unknown and the constant of a program that is linear in them. Raises Unproven."""
    found: list[list[Any]] = []
    zero = [fmpq(0)] * (len(names) + 1)
    for head, *rest in program:
        args = [found[k] for k in rest if isinstance(k, int)]
        plain = [not any(a[:-1]) for a in args]
        if head == "variable" and rest[0] in names:
            found.append([fmpq(int(n == rest[0])) for n in names] + [fmpq(0)])
        elif head == "number":
            q = fraction(rest[0])
            found.append([*zero[:-1], fmpq(q.numerator, q.denominator)])
        elif head in ("+", "-"):
            found.append([a + b if head == "+" else a - b for a, b in zip(*args, strict=True)])
        elif head in ("neg", "same"):
            found.append([-a if head == "neg" else a for a in args[0]])
        elif head == "*" and any(plain):
            scale, form = (args[0][-1], args[1]) if plain[0] else (args[1][-1], args[0])
            found.append([a * scale for a in form])
        elif head == "/" and plain[1] and args[1][-1] != 0:
            found.append([a / args[1][-1] for a in args[0]])
        else:
            raise Unproven("an equation that is not linear")
    return found[-1]


__all__ = ["Equations", "linear_solution", "solutions"]
