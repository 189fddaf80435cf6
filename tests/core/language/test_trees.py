"""What scripts mean: a table of scripts with the shapes of their trees, after the contract of the language."""

from __future__ import annotations

import pytest

from open_lemma.core.formula.catalogue import BUILTINS
from open_lemma.core.language import tree
from open_lemma.core.language.syntax.parser import parse
from tests.core.language.shapes import shape_of

CASES = [
    # arithmetic as on paper
    ("show 1 + 2*3", "{show (+ 1 (* 2 3))}"),
    ("show a - b - c", "{show (- (- a b) c)}"),
    ("show a/b/c", "{show (/ (/ a b) c)}"),
    ("show 2^3^2", "{show (^ 2 (^ 3 2))}"),
    ("show -x^2", "{show (neg (^ x 2))}"),
    ("show 2^-x", "{show (^ 2 (neg x))}"),
    ("show a*-b", "{show (* a (neg b))}"),
    ("show -2x^2 + 1", "{show (+ (neg (· 2 (^ x 2))) 1)}"),
    # products without a sign
    ("show 3x", "{show (· 3 x)}"),
    ("show 2(x + 1)", "{show (· 2 (+ x 1))}"),
    ("show (x + 1)(x - 1)", "{show (· (+ x 1) (- x 1))}"),
    ("show 2(x + 1)(x - 1)^2", "{show (· 2 (+ x 1) (^ (- x 1) 2))}"),
    ("show 2pi", "{show (· 2 pi)}"),
    ("show 30deg", "{show (· 30 deg)}"),
    ("show 2sin(3x)^2", "{show (· 2 (^ (call sin (· 3 x)) 2))}"),
    ("show 2x/3", "{show (/ (· 2 x) 3)}"),
    ("show 6x*2y", "{show (* (· 6 x) (· 2 y))}"),
    ("show 1/(2x)", "{show (/ 1 (· 2 x))}"),
    ("show (1/2)x", "{show (· (/ 1 2) x)}"),
    ("show 2e^x", "{show (· 2 (^ e x))}"),
    ("show 2e3", "{show 2e3}"),
    ("show x/2*y", "{show (* (/ x 2) y)}"),
    # other spellings of the same
    ("show x²", "{show (^ x 2)}"),
    ("show √2 + √(x + 1)", "{show (+ (√ 2) (√ (+ x 1)))}"),
    ("show 3π·r − 1", "{show (- (* (· 3 pi) r) 1)}"),
    ("show α + alpha", "{show (+ alpha alpha)}"),
    ("show Δ_1", "{show Delta_1}"),
    ("show x ≤ 1 and y ≠ 2", "{show (and (<= x 1) (!= y 2))}"),
    # truth
    ("check 0 < x < 1", "{check (< < 0 x 1)}"),
    ("check a = b, within 0.1", "{check (= a b) | within:0.1}"),
    ("show not a = b or c < d < e", "{show (or (not (= a b)) (< < c d e))}"),
    # values
    ("p = (1, 2)", "{p = <1 2>}"),
    ("xs = [1, 2, 3]", "{xs = [1 2 3]}"),
    ("xs = []", "{xs = []}"),
    ("xs = 0 to 10 step 0.5", "{xs = (0 10 step 0.5)}"),
    ("xs = 0 to 10 count 21", "{xs = (0 10 count 21)}"),
    ("xs = 0 to 2pi", "{xs = (0 (· 2 pi))}"),
    ("xs = [k^2 for k from 1 to 5]", "{xs = [(^ k 2) for k from 1 to 5]}"),
    ("xs = [k for k from 1 to 5 if k != 3]", "{xs = [k for k from 1 to 5 if (!= k 3)]}"),
    ("show xs[1] + xs[2 to 4]", "{show (+ (at xs 1) (at xs (2 4)))}"),
    ('show gauge.level + gauge."water level"[3]', "{show (+ gauge.level (at gauge.water level 3))}"),
    ("xs = xs join [4] join gap", "{xs = (join (join xs [4]) gap)}"),
    ("m = [[1, 2],\n     [3, 4]]   # rows", "{m = [[1 2] [3 4]]}"),
    # definitions
    ("g = 9.81 [m/s^2]", "{g = 9.81[m/s^2]}"),
    ("f(x) = x^3 - 2x + 1", "{f(x) = (+ (- (^ x 3) (· 2 x)) 1)}"),
    ("bowl(x, y) = x^2 + 3y^2", "{bowl(x,y) = (+ (^ x 2) (· 3 (^ y 2)))}"),
    ("h(y) = y for y from 0.1 to 3", "{h(y) = y for y from 0.1 to 3}"),
    ("u(t) = 0 when t < 0, t when t < 1, otherwise 2", "{u(t) = (pieces 0 when (< t 0) t when (< t 1) otherwise 2)}"),
    ("show f', f''(2)", "{show f' (call f'' 2)}"),
    ("show f′(2)", "{show (call f' 2)}"),
    # requests
    ("roots of f(x) for x from -3 to 3", "(roots (call f x) for x from (neg 3) to 3)"),
    ("r = roots of f(x) for x, near 0.5", "{r = (roots (call f x) for x | near:0.5)}"),
    ("crossings of f(x) and g(x) for x from 0 to 2", "(crossings (call f x) (call g x) for x from 0 to 2)"),
    ("solution of x^2 + y = 3, x - y = 1 for x, y", "(solution (= (+ (^ x 2) y) 3) (= (- x y) 1) for x y)"),
    ("values of f(x) for x from 0 to 2 step 0.25", "(values (call f x) for x from 0 to 2 step 0.25)"),
    ("r(h) = fit of C*h^n to Q against h for C, n, start n = 1.5", "{r(h) = (fit (* C (^ h n)) to Q against h for C n | start=n:1.5)}"),
    ("t = fit of polynomial 2 to ys against xs", "{t = (fit (call polynomial 2) to ys against xs)}"),
    ("curve of [f(x), g(x)] for x from 0 to 1, label [\"f\", \"g\"]",
     "(curve [(call f x) (call g x)] for x from 0 to 1 | label:['f' 'g'])"),
    ("curve of sin(x), dash dash-dotted, colour \"#aa3300\", width 2", "(curve (call sin x) | dash:dash-dotted colour:#aa3300 width:2)"),
    ("points of ys against xs, marker ring, size 5", "(points ys against xs | marker:ring size:5)"),
    ("points of [(1, 2), (3, 4)]", "(points [<1 2> <3 4>])"),
    # words of the language are names where nothing else fits
    ("size = 3\nstep = size + 1", "{size = 3} {step = (+ size 1)}"),
    ("points = [1, 2]\nlabel(x) = 2x", "{points = [1 2]} {label(x) = (· 2 x)}"),
    # blocks
    (
        'figure a "A":\n    curve of x for x from 0 to 1\n    x axis "$x$" from 0 to 1\n    y axis "y", scale logarithmic\n'
        "    legend top left\n    gridlines major\n    size 89 mm by 60 mm\n    no frame",
        "{figure a 'A': (curve x for x from 0 to 1) {x-axis '$x$' from 0 to 1} {y-axis 'y' | scale:logarithmic} {legend top left} "
        "{gridlines major} {size 89 60} {no frame}}",
    ),
    ('part "One"\nx = 1\n\npart "Two"', "{part One} {x = 1} {part Two}"),
    ("for k from 1 to 8:\n    show k\nshow 2", "{for k from 1 to 8: {show k}} {show 2}"),
    ("if a < 1:\n    b = 1\nelse if a < 2:\n    b = 2\nelse:\n    b = 3", "{if (< a 1): {b = 1} if (< a 2): {b = 2} else: {b = 3}}"),
    ("define f(x):\n    y = x\n    return y", "{define f(x): {y = x} {return y}}"),
    ("table t:\n    a [m]  b\n    1      -0.002\n    2      gap", "{table t: a[m] b | 1 -0.002 | 2 gap}"),
    ("note:\n    Any prose, even (unbalanced: $x$.\nx = 1", "{note 'Any prose, even (unbalanced: $x$.'} {x = 1}"),
    ("for x in xs:\n    while x > 1:\n        x = x/2\n    show x", "{for x in xs: {while (> x 1): {x = (/ x 2)}} {show x}}"),
    ("define f():\n    return 1", "{define f(): {return 1}}"),
    ("tune k = 1.2 from 0 to 4 step 0.1", "{tune k = 1.2 from 0 to 4 step 0.1}"),
    ('table t from "a b.csv"', "{table t 'a b.csv'}"),
    ('table t:\n    "water level" [m]  α  # heads\n    1.5  "a b"  # row', "{table t: water level[m] alpha | 1.5 \"a b\"}"),
    ('note "one $x$"', "{note 'one $x$'}"),
    ("g = 9.81 [m/s^2]", "{g = 9.81[m/s^2]}"),
    ("f(t) = 0 when t < 0, t when 0 <= t < 1, otherwise exp(1 - t) for t from -1 to 3",
     "{f(t) = (pieces 0 when (< t 0) t when (<= < 0 t 1) otherwise (call exp (- 1 t))) for t from (neg 1) to 3}"),
    # lines that go on
    ("y = (1 +\n  2)", "{y = (+ 1 2)}"),
    ("curve of x for x from 0 to 1,\n    width 2", "(curve x for x from 0 to 1 | width:2)"),
    ("# only a comment\n\n   # and another\nx = 1 # end", "{x = 1}"),
    ("x = 1\r\ny = 2\r\n", "{x = 1} {y = 2}"),
]  # fmt: skip


@pytest.mark.parametrize(("script", "expected"), CASES)
def test_shape(script: str, expected: str) -> None:
    assert shape_of(script) == expected


@pytest.mark.parametrize("script", [script for script, _ in CASES])
def test_every_node_covers_its_own_text(script: str) -> None:
    """Spans nest and stay inside the text: that is what edits by program rest on."""
    reading = parse(script, BUILTINS)
    for statement in reading.script.statements:
        for node in tree.walk(statement):
            assert 0 <= node.start <= node.end <= len(script)
            for child in tree.children(node):
                assert node.start <= child.start
                assert child.end <= node.end
            if isinstance(node, tree.Number):
                assert script[node.start : node.end].rstrip("²³").startswith(node.text) or script[node.start : node.end] in "⁰¹²³⁴⁵⁶⁷⁸⁹"
            if isinstance(node, tree.Name):
                assert script[node.start : node.end] == node.spelling


def test_names_that_a_node_takes_from_outside() -> None:
    def free(script: str) -> set[str]:
        return set(tree.free_names(parse(script, BUILTINS).script.statements[0]))

    assert free("roots of a*x for x from 0 to b") == {"a", "b"}
    assert free("f(x) = a*x + y") == {"a", "y"}
    assert free("xs = [k*c for k from 1 to n]") == {"c", "n"}
