"""What is shipped of others, with its licence: `python -m tools.third_party` writes docs/third-party.md from the lock files.

Of the page: packages that its sources import, and what these need, by `ui/package-lock.json`. Of the server: the dependencies of
`pyproject.toml` and what these need, by `requirements.lock`; their licences as the installed packages say them.
"""

from __future__ import annotations

import json
import re
import sys
import tomllib
from importlib import metadata
from pathlib import Path
from typing import Any

PROJECT = Path(__file__).resolve().parents[1]
_IMPORT = re.compile(r"""(?:from|import)\s*\(?\s*['"]([^'".][^'"]*)['"]""")
_LICENCES = re.compile(r"License :: (?:OSI Approved :: )?(.+)")


def _root(name: str) -> str:
    parts = name.split("/")
    return "/".join(parts[:2]) if name.startswith("@") else parts[0]


def of_the_page() -> dict[str, tuple[str, str]]:
    """Packages in the built page: version and licence."""
    lock: dict[str, Any] = json.loads((PROJECT / "ui" / "package-lock.json").read_text(encoding="utf-8"))["packages"]
    folder = PROJECT / "ui" / "src"
    sources = [path for ending in ("ts", "svelte", "css") for path in folder.rglob(f"*.{ending}")]
    texts = [p.read_text(encoding="utf-8") for p in sources if not p.name.endswith(".test.ts")]
    wanted = {_root(name) for text in texts for name in _IMPORT.findall(text)}
    found: dict[str, tuple[str, str]] = {}
    while wanted:
        name = wanted.pop()
        entry = lock.get(f"node_modules/{name}")
        if entry is None or name in found or name.startswith("@types/"):
            continue
        found[name] = entry["version"], str(entry.get("license", "see the package"))
        wanted |= set(entry.get("dependencies", {}))
    return found


def of_the_server() -> dict[str, tuple[str, str]]:
    """Packages that the server needs: version and licence."""
    text = (PROJECT / "requirements.lock").read_text(encoding="utf-8")
    versions = dict(re.findall(r"^([A-Za-z0-9_.-]+)(?:\[[^\]]*\])?==([^\s\\]+)", text, re.M))
    versions = {_plain(name): version for name, version in versions.items()}
    with (PROJECT / "pyproject.toml").open("rb") as file:
        wanted = {_plain(_name(d)) for d in tomllib.load(file)["project"]["dependencies"]}
    found: dict[str, tuple[str, str]] = {}
    while wanted:
        name = wanted.pop()
        if name in found or name not in versions:
            continue
        installed = metadata.metadata(name)
        found[name] = versions[name], _licence(installed)
        wanted |= {_plain(_name(d)) for d in metadata.requires(name) or () if "extra ==" not in d}
    return found


def _name(requirement: str) -> str:
    return re.split(r"[\s\[<>=!~;(]", requirement, maxsplit=1)[0]


def _plain(name: str) -> str:
    return re.sub(r"[-_.]+", "-", name).lower()


def _licence(installed: Any) -> str:
    """The expression of the package, else the first of its classifiers, else the first line of its licence."""
    if said := installed.get("License-Expression"):
        return str(said)
    for classifier in installed.get_all("Classifier") or ():
        if match := _LICENCES.fullmatch(classifier):
            return str(match.group(1))
    return (installed.get("License") or "see the package").strip().split("\n")[0][:60]


def page() -> str:
    """The text of docs/third-party.md."""
    lines = [
        "# What is shipped of others", "",
        "Made by `python -m tools.third_party` from the lock files; `./test` fails where it is out of date.", "",
        "## In the page", "",
        "Scripts, styles and fonts that the built page holds. Fonts are the packages that begin with `@fontsource`.", "",
        "| package | version | licence |", "|---|---|---|",
        *(f"| {name} | {version} | {licence} |" for name, (version, licence) in sorted(of_the_page().items())),
        "", "## With the server", "",
        "Installed from their own distributions, not copied into this project. The fonts in figures, DejaVu Sans and STIX, come with"
        " matplotlib.", "",
        "| package | version | licence |", "|---|---|---|",
        *(f"| {name} | {version} | {licence} |" for name, (version, licence) in sorted(of_the_server().items())),
    ]  # fmt: skip
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    (PROJECT / "docs" / "third-party.md").write_text(page(), encoding="utf-8")
    sys.exit(0)
