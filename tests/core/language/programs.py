"""Programs for property tests: right by construction, with comments and odd spacing."""

from __future__ import annotations

from hypothesis import strategies as st

# Short scripts with what blocks, tables, units and pieces bring.
SCRIPTS = (
    "total = 0\nfor k from 1 to 4:\n    if mod(k, 2) = 0:\n        total = total + 1/k\n    else:\n        total = total - k\nshow total",
    "define settle(start):\n    level = start\n    for k from 1 to 5:\n        level = level - (level^2 - 2)/(2*level)\n    return level\n"
    "show settle(1)",
    "table bench:\n    h [m]  Q [m^3/s]\n    0.1    0.02\n    0.2    gap\n"
    "show mean(bench.Q)\npoints of bench.Q against bench.h, marker ring",
    "g = 9.81 [m/s^2]\nt = 3 [s]\nshow g*t^2/2, sqrt(g*t)",
    "u(t) = 0 when t < 0, t when t < 1, otherwise exp(1 - t)\nshow u(0.5), u'\nroots of u(t) - 0.5 for t from -1 to 4",
    "xs = [k^2 for k from 1 to 5 if k != 3]\nys = xs join [gap]\nshow xs[2 to 3], mean(ys), [(x, 2x) for x in xs]",
    "solution of x^2 = 2, x + y = 1 for x, y\nd = derivative of x^2*y for x\nshow d(1, 2)",
    "values of [x^2, sqrt(x)] for x from 0 to 2 step 0.5\ncrossings of x^2 and x + 1 for x from -3 to 3",
    'figure a "A":\n    for k from 1 to 2:\n        curve of k*x for x from 0 to 1, label "k = " join k\n'
    '    x axis "x"\n    legend top left',
)
NAMES = ("a", "b", "c", "level", "β_1", "x0")
_NUMBERS = st.one_of(st.integers(0, 9).map(str), st.sampled_from(["0.5", "1.25", "2e1", "1/3", "pi"]))


@st.composite
def expressions(draw: st.DrawFn, names: tuple[str, ...], depth: int = 3) -> str:
    kind = draw(st.integers(0, 9 if depth else 1))
    if kind == 0 or (kind == 1 and not names):
        return draw(_NUMBERS)
    if kind == 1:
        return draw(st.sampled_from(names))
    inner = expressions(names, depth - 1)
    if kind <= 4:
        sign = draw(st.sampled_from([" + ", " - ", "*", " +", "  *  "]))
        return f"({draw(inner)}{sign}{draw(inner)})"
    if kind == 5:
        return f"{draw(st.sampled_from(['sin', 'cos', 'exp', 'abs', 'atan', 'floor', 'square']))}({draw(inner)})"
    if kind == 6:
        return f"-({draw(inner)})^{draw(st.integers(0, 3))}"
    if kind == 7:
        return f"({draw(inner)})/(1 + ({draw(inner)})^2)"
    if kind == 8:
        return f"max({draw(inner)}, {draw(inner)})"
    return f"({draw(inner)} when {draw(inner)} < {draw(inner)}, otherwise {draw(inner)})"


@st.composite
def blocks(draw: st.DrawFn, names: tuple[str, ...], depth: int) -> list[str]:
    lines: list[str] = []
    for _ in range(draw(st.integers(1, 3))):
        kind = draw(st.integers(0, 5 if depth else 2))
        known = (*names, "k")
        if kind == 0:
            lines.append(f"show {draw(expressions(known, 2))}")
        elif kind <= 2:
            target = draw(st.sampled_from(names)) if names else "w"
            # A value that cannot grow without end, however often it is worked out.
            lines.append(f"{target} = sin({draw(expressions(known, 2))})  # step")
        elif kind == 3:
            lines.append(f"if {draw(expressions(known, 1))} > {draw(expressions(known, 1))}:")
            lines += ["    " + line for line in draw(blocks(names, depth - 1))]
            lines.append("else:")
            lines += ["    " + line for line in draw(blocks(names, depth - 1))]
        else:
            lines.append(f"for k from 1 to {draw(st.integers(1, 3))}:")
            lines += ["    " + line for line in draw(blocks(names, depth - 1))]
    return lines


@st.composite
def programs(draw: st.DrawFn) -> str:
    names: tuple[str, ...] = ()
    lines: list[str] = []
    for _ in range(draw(st.integers(1, 7))):
        kind = draw(st.integers(0, 8))
        if kind <= 1 or not names:
            name = draw(st.sampled_from(NAMES))
            lines.append(f"{name} = {draw(expressions(names))}{draw(st.sampled_from(['', '   # a remark', ' ']))}".rstrip(" "))
            names = tuple(dict.fromkeys((*names, name)))
        elif kind == 2:
            lines.append(f"f(x) = {draw(expressions((*names, 'x')))}")
            lines.append(f"show f({draw(expressions(names, 1))})")
        elif kind == 3:
            lines.append(f"show {draw(expressions(names))},  {draw(expressions(names, 1))}")
        elif kind == 4:
            lines.append(f"xs = [{draw(expressions((*names, 'k'), 2))} for k from 1 to {draw(st.integers(1, 4))}]")
            lines.append("show sum(xs), xs[1]")
        elif kind == 5:
            lines += [f"for k from 1 to {draw(st.integers(1, 3))}:", *("    " + line for line in draw(blocks(names, 2)))]
        elif kind == 6:
            lines += [f"if {draw(expressions(names, 1))} < 1:", *("    " + line for line in draw(blocks(names, 1)))]
        elif kind == 7:
            lines.append(draw(st.sampled_from(["", "# a line of its own", 'part "One"', 'note "so $x$"'])))
        else:
            lines += [
                "define g(p):",
                f"    q = {draw(expressions(('p', *names), 2))}",
                "    return q",
                f"show g({draw(expressions(names, 1))})",
            ]
    return "\n".join(lines) + "\n"
