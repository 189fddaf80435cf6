"""The measures of the house: counted for every run of the tests, printed, and held where they are promises.

    python -m tools.measures            prints them; the exit code is 1 where a promise is broken
    python -m tools.measures --where    also says where

Promises: no cycle among the modules; each noun has exactly one answerer or maker; no second table of options; the description of the
API and the types of the page are those that the code gives; no public function of the core without a docstring.
"""

from __future__ import annotations

import ast
import io
import json
import subprocess
import sys
import tempfile
import tokenize
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

PROJECT = Path(__file__).resolve().parents[1]
SOURCE, TESTS = PROJECT / "src" / "open_lemma", PROJECT / "tests"
HEAVY = {"sympy", "mpmath", "scipy", "matplotlib", "flint", "openpyxl", "numba"}


@dataclass
class Module:
    name: str
    path: Path
    tree: ast.Module
    text: str

    @property
    def lines(self) -> int:
        return self.text.count("\n")


@dataclass
class Measures:
    said: list[str] = field(default_factory=list)
    broken: list[str] = field(default_factory=list)
    where: list[str] = field(default_factory=list)

    def promise(self, name: str, faults: list[str]) -> None:
        self.said.append(f"{name}: {len(faults)}")
        if faults:
            self.broken.append(f"{name}: {', '.join(faults[:8])}{' ...' if len(faults) > 8 else ''}")


def modules(root: Path) -> list[Module]:
    found = []
    for path in sorted(root.rglob("*.py")):
        text = path.read_text(encoding="utf-8")
        name = ".".join(path.relative_to(PROJECT / "src" if "src" in path.parts else PROJECT).with_suffix("").parts)
        found.append(Module(name.removesuffix(".__init__"), path, ast.parse(text), text))
    return found


# ---------------------------------------------------------------- imports


def imported(module: Module, names: set[str], lazily: bool) -> Iterator[str]:
    """Modules of the project that one imports; lazily: those inside functions and for types only, too."""
    package = module.name if module.path.name == "__init__.py" else module.name.rpartition(".")[0]
    for node in ast.walk(module.tree) if lazily else _eager(module.tree):
        if isinstance(node, ast.ImportFrom):
            base = package.split(".")[: len(package.split(".")) - node.level + 1] if node.level else []
            target = ".".join([*base, *([node.module] if node.module else [])])
            for alias in node.names:
                inner = f"{target}.{alias.name}"
                if inner in names or target in names:
                    yield inner if inner in names else target
        elif isinstance(node, ast.Import):
            yield from (a.name for a in node.names if a.name in names)


def _eager(tree: ast.AST) -> Iterator[ast.AST]:
    for node in ast.iter_child_nodes(tree):
        for_types = isinstance(node, ast.If) and "TYPE_CHECKING" in ast.unparse(node.test)
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef) or for_types:
            continue
        yield node
        yield from _eager(node)


def cycles(graph: dict[str, set[str]]) -> list[list[str]]:
    """Strongly connected parts of more than one module: R. Tarjan, SIAM J. Comput. 1 (1972) 146."""
    index: dict[str, int] = {}
    low: dict[str, int] = {}
    stack: list[str] = []
    found: list[list[str]] = []

    def visit(node: str) -> None:
        index[node] = low[node] = len(index)
        stack.append(node)
        for other in sorted(graph[node]):
            if other not in index:
                visit(other)
                low[node] = min(low[node], low[other])
            elif other in stack:
                low[node] = min(low[node], index[other])
        if low[node] == index[node]:
            part = stack[stack.index(node) :]
            del stack[stack.index(node) :]
            if len(part) > 1:
                found.append(sorted(part))

    for node in sorted(graph):
        if node not in index:
            visit(node)
    return found


# ---------------------------------------------------------------- code


def functions(module: Module) -> Iterator[tuple[ast.FunctionDef, str | None, bool]]:
    """Functions and methods of a module with the class of each, and whether it is public by its own name and that of its class."""
    for node in module.tree.body:
        if isinstance(node, ast.FunctionDef):
            yield node, None, not node.name.startswith("_")
        elif isinstance(node, ast.ClassDef):
            for inner in node.body:
                if isinstance(inner, ast.FunctionDef):
                    yield inner, node.name, not (node.name.startswith("_") or inner.name.startswith("_"))


def without_docstring(code: list[Module]) -> list[str]:
    """Public functions of the core without a docstring; those of three lines and methods that a base class describes say enough."""
    described: dict[str, set[str]] = {}
    bases: dict[str, set[str]] = {}
    for m in code:
        for node in ast.walk(m.tree):
            if isinstance(node, ast.ClassDef):
                methods = [f for f in node.body if isinstance(f, ast.FunctionDef)]
                described.setdefault(node.name, set()).update(f.name for f in methods if ast.get_docstring(f))
                bases.setdefault(node.name, set()).update(ast.unparse(b).rpartition(".")[2] for b in node.bases)
    found = []
    for m in code:
        if not m.name.startswith("open_lemma.core."):
            continue
        for f, owner, public in functions(m):
            long = (f.body[-1].end_lineno or 0) - f.body[0].lineno + 1 > 3
            inherited = owner is not None and any(f.name in described.get(b, ()) for b in _above(owner, bases))
            if public and long and not inherited and ast.get_docstring(f) is None:
                found.append(f"{m.name}.{f.name}")
    return found


def _above(name: str, bases: dict[str, set[str]]) -> set[str]:
    """All classes above one, by name."""
    found: set[str] = set()
    waiting = [*bases.get(name, ())]
    while waiting:
        base = waiting.pop()
        if base not in found:
            found.add(base)
            waiting += bases.get(base, ())
    return found


def comment_lines(module: Module) -> tuple[int, int]:
    """Lines with a comment, and lines of docstrings."""
    tokens = tokenize.generate_tokens(io.StringIO(module.text).readline)
    comments = sum(t.type == tokenize.COMMENT and "fmt:" not in t.string and "type:" not in t.string for t in tokens)
    documented = [n for n in ast.walk(module.tree) if isinstance(n, ast.Module | ast.ClassDef | ast.FunctionDef) and ast.get_docstring(n)]
    return comments, sum((n.body[0].end_lineno or 0) - n.body[0].lineno + 1 for n in documented)


def classes(code: list[Module]) -> list[tuple[int, int, str]]:
    """Lines, methods and name of each class, the longest first."""
    found = []
    for m in code:
        for node in ast.walk(m.tree):
            if isinstance(node, ast.ClassDef):
                methods = sum(isinstance(n, ast.FunctionDef) for n in node.body)
                found.append(((node.end_lineno or 0) - node.lineno + 1, methods, f"{m.name}.{node.name}"))
    return sorted(found, reverse=True)


def late_imports(code: list[Module]) -> list[str]:
    """Imports inside functions, but of heavy libraries, or with the reason in the line above."""
    found = []
    for m in code:
        for node in ast.walk(m.tree):
            if not isinstance(node, ast.FunctionDef):
                continue
            for inner in ast.walk(node):
                said_why = m.text.split("\n")[getattr(inner, "lineno", 2) - 2].strip().startswith("#")
                if isinstance(inner, ast.ImportFrom) and not said_why and (inner.level or (inner.module or "").split(".")[0] not in HEAVY):
                    found.append(f"{m.name}:{inner.lineno}")
    return sorted(set(found))


# ---------------------------------------------------------------- the vocabulary


def answered_otherwise() -> list[str]:
    """Nouns without exactly one answerer or maker, and answerers of what is no noun."""
    from open_lemma.core.language.vocabulary import NOUNS
    from open_lemma.core.run import requests
    from open_lemma.core.run.answers import ANSWERERS
    from open_lemma.core.run.figures.makers import MAKERS

    assert requests is not None  # it loads the answerers
    wrong = [n for n in (*ANSWERERS, *MAKERS) if n not in NOUNS]
    for noun in NOUNS.values():
        count = (noun.name in ANSWERERS) + (noun.name in MAKERS)
        # What defines a function is worked out by its definition; a fit of several curves at once is a finding of its own.
        if count != (0 if noun.gives == "function" and noun.name not in ANSWERERS else 1):
            wrong.append(noun.name)
    return wrong


def second_tables(code: list[Module]) -> list[str]:
    """Tables outside the vocabulary that are keyed by several nouns or hold several option words each."""
    from open_lemma.core.language.vocabulary import NOUNS, OPTIONS

    found = []
    for m in code:
        if not m.name.startswith("open_lemma.core.") or ".vocabulary" in m.name:
            continue
        for node in ast.walk(m.tree):
            if isinstance(node, ast.Dict):
                keys = [k.value for k in node.keys if isinstance(k, ast.Constant)]
                options = [
                    v for v in node.values if isinstance(v, ast.Set | ast.Tuple | ast.List) and _words(v) and _words(v) <= set(OPTIONS)
                ]
                if len(keys) >= 3 and set(keys) <= set(NOUNS) and len(options) >= 3:
                    found.append(f"{m.name}:{node.lineno}")
    return found


def _words(node: ast.AST) -> set[str]:
    return {n.value for n in ast.walk(node) if isinstance(n, ast.Constant) and isinstance(n.value, str)}


# ---------------------------------------------------------------- what is made from the code


def stale() -> list[str]:
    """Files that differ from what the code gives."""
    found = []
    described = subprocess.run([sys.executable, "-m", "open_lemma.web.describe"], capture_output=True, text=True, check=True).stdout
    if json.loads(described) != json.loads((PROJECT / "docs" / "openapi.json").read_text(encoding="utf-8")):
        found.append("docs/openapi.json")
    generator = PROJECT / "ui" / "node_modules" / ".bin" / "openapi-typescript"
    if generator.exists():
        with tempfile.TemporaryDirectory() as folder:
            out = Path(folder) / "schema.d.ts"
            subprocess.run([generator, PROJECT / "docs" / "openapi.json", "-o", out], capture_output=True, check=True)
            kept = PROJECT / "ui" / "src" / "api" / "schema.d.ts"
            if "".join(out.read_text(encoding="utf-8").split()) != "".join(kept.read_text(encoding="utf-8").split()):
                found.append("ui/src/api/schema.d.ts")
    from tools.third_party import page

    if page() != (PROJECT / "docs" / "third-party.md").read_text(encoding="utf-8"):
        found.append("docs/third-party.md")
    return found


def names_used_twice(code: list[Module]) -> list[str]:
    """Names of classes that more than one module of the core gives; nodes of the tree are always written with their module."""
    core = [m for m in code if m.name.startswith("open_lemma.core.") and not m.name.endswith("language.tree")]
    names = [node.name for m in core for node in m.tree.body if isinstance(node, ast.ClassDef)]
    return sorted({n for n in names if names.count(n) > 1})


def measured() -> Measures:
    code, tests = modules(SOURCE), modules(TESTS)
    names = {m.name for m in code}
    found = Measures()
    circles = cycles({m.name: set(imported(m, names, False)) - {m.name} for m in code})
    found.promise("import cycles", [" <-> ".join(c) for c in circles])
    found.promise("nouns without exactly one answerer", answered_otherwise())
    found.promise("second tables of options", second_tables(code))
    found.promise("files that differ from what the code gives", stale())
    bare = without_docstring(code)
    found.promise("public functions of the core without a docstring", bare)
    found.where += bare
    lines, tested = sum(m.lines for m in code), sum(m.lines for m in tests)
    largest = max(code, key=lambda m: m.lines)
    longest, *_ = classes(code)
    _, most, widest = max(classes(code), key=lambda c: c[1])
    comments, documented = (sum(part) for part in zip(*(comment_lines(m) for m in code), strict=True))
    late = late_imports(code)
    found.where += late
    found.said += [
        f"largest file: {largest.lines} lines ({largest.name}); {sum(m.lines > 450 for m in code)} of {len(code)} above 450",
        f"largest class: {longest[0]} lines ({longest[2]}), {most} methods ({widest})",
        f"class names of the core used twice, nodes of the tree aside: {len(names_used_twice(code))}",
        f"imports inside functions, heavy libraries aside: {len(late)}",
        f"Any: {sum(m.text.count('Any') for m in code)}",
        f"in 100 lines: {100 * comments / lines:.1f} of comments, {100 * documented / lines:.1f} of docstrings",
        f"tests: {100 * tested / (lines + tested):.0f} % of {lines + tested} lines",
    ]
    return found


def main(words: list[str]) -> int:
    found = measured()
    print("\n".join(f"    {line}" for line in found.said))
    if "--where" in words:
        print("\n".join(f"        {line}" for line in found.where))
    for line in found.broken:
        print(f"broken: {line}", file=sys.stderr)
    return int(bool(found.broken))


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
