"""Programs for property tests: right by construction, with comments and odd spacing."""

from __future__ import annotations

from hypothesis import strategies as st

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
