"""The command line: the same core without a server or a database, and what a server needs from time to time."""

from __future__ import annotations

import argparse
import json
import sys
import time
from pathlib import Path
from typing import Any

from .core.certificate.record import verify_record
from .core.figure.about import About
from .core.figure.draw import draw
from .core.language.messages import Messages
from .core.record.fingerprint import fingerprint
from .core.run.execute.interpreter import read, run
from .core.run.execute.outcome import Outcome, UnknownPart
from .core.run.record import figure_record, record
from .files.figures import Wanted, figure_file
from .files.folder import tables_in
from .files.formats import DPIS
from .files.formats import FIGURE_TYPES as TYPES

FORMATS = tuple(TYPES)
MAX_ROWS = 200


def main(arguments: list[str] | None = None) -> int:
    options = _parser().parse_args(arguments)
    try:
        return int(options.command(options))
    except UsageError as trouble:
        print(f"open-lemma: {trouble}", file=sys.stderr)
        return 2


class UsageError(Exception):
    """The command was called with something that cannot be used."""


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="open-lemma", description="Run and check scripts without a server; look after a server.")
    commands = parser.add_subparsers(required=True, metavar="COMMAND")
    runs = commands.add_parser("run", help="run a script; print its findings, write its figures")
    runs.add_argument("script", metavar="SCRIPT")
    runs.add_argument("--tables", metavar="DIR", help="folder of the tables that the script names")
    runs.add_argument("--out", metavar="DIR", help="folder for record.json and the figures")
    runs.add_argument("--formats", default="svg", metavar="LIST", help=f"figure formats, of {','.join(FORMATS)} (default: svg)")
    dots = ", ".join(map(str, DPIS))
    runs.add_argument("--dpi", type=int, default=300, choices=DPIS, metavar="N", help=f"of PNG and TIFF, one of {dots} (default: 300)")
    runs.add_argument("--part", metavar="TITLE", help="run only this part and what it needs")
    runs.add_argument("--json", action="store_true", help="print the record instead of text")
    runs.set_defaults(command=_run)
    checks = commands.add_parser("check", help="parse and check scripts, do not run them")
    checks.add_argument("scripts", metavar="SCRIPT", nargs="+")
    checks.add_argument("--json", action="store_true", help="one JSON line a file")
    checks.set_defaults(command=_check)
    proofs = commands.add_parser("verify", help="check the proofs of a record; its script is not run")
    proofs.add_argument("record", metavar="RECORD.json")
    proofs.set_defaults(command=_verify)
    works = commands.add_parser("worker", help="work the runs that servers share out through Redis (OPEN_LEMMA_ENGINE)")
    works.set_defaults(command=_work)
    keeps = commands.add_parser("backup", help="write all that a server keeps into a file; the server may go on")
    keeps.add_argument("file", metavar="FILE")
    keeps.set_defaults(command=_back_up)
    restores = commands.add_parser("restore", help="put back what a backup holds; the server must not run")
    restores.add_argument("file", metavar="FILE")
    restores.add_argument("--replace", action="store_true", help="also where there are folios, which are then gone")
    restores.set_defaults(command=_restore)
    return parser


def _read_file(name: str) -> str:
    try:
        data = Path(name).read_bytes()
    except OSError as trouble:
        raise UsageError(f"cannot read {name}: {trouble.strerror}") from None
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as trouble:
        raise UsageError(f"{name} is no UTF-8 text: byte {trouble.start + 1} does not fit") from None


# ---------------------------------------------------------------- run


def _run(options: argparse.Namespace) -> int:
    text = _read_file(options.script)
    formats = [f.strip() for f in options.formats.split(",") if f.strip()]
    unknown = [f for f in formats if f not in FORMATS]
    if unknown:
        raise UsageError(f"there is no format '{unknown[0]}'; the formats are {', '.join(FORMATS)}")
    if options.tables is not None and not Path(options.tables).is_dir():
        raise UsageError(f"there is no folder {options.tables}")
    start = time.perf_counter()
    try:
        folder = Path(options.tables) if options.tables is not None else Path(options.script).parent
        outcome = run(text, part=options.part, tables=tables_in(folder))
    except UnknownPart:
        raise UsageError(f"the script has no part '{options.part}'") from None
    figures = _figures(outcome, formats, Path(options.out) if options.out else None, options.dpi)
    found = record(text, outcome, figures, time.perf_counter() - start)
    if options.out:
        _write(Path(options.out) / "record.json", json.dumps(found, indent=1, ensure_ascii=False).encode() + b"\n")
    if options.json:
        print(json.dumps(found, ensure_ascii=False))
    else:
        _print_findings(found)
    _print_messages(options.script, outcome.reading.messages)
    return 1 if outcome.failed else 0


def _figures(outcome: Outcome, formats: list[str], out: Path | None, dpi: int) -> list[dict[str, Any]]:
    """Draw the figures and write them; without a folder they are drawn once for their layout."""
    records = []
    for drawn in outcome.figures:
        files: dict[str, str] = {}
        drawing = draw(drawn.data)
        about = About(None, None, drawn.data.name, fingerprint(outcome.reading.source.text))
        for fmt in formats if out else []:
            files[fmt] = f"{drawn.data.name}.{fmt}"
            assert out is not None
            _write(out / files[fmt], figure_file(drawn.data, Wanted(fmt, dpi), about))
        records.append(figure_record(drawn, drawing, files))
    return records


def _write(path: Path, data: bytes) -> None:
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(data)
    except OSError as trouble:
        raise UsageError(f"cannot write {path}: {trouble.strerror}") from None


_MARKS = {"proven": "■", "checked": "◧", "open": "□"}


def _print_findings(found: dict[str, Any]) -> None:
    for finding in found["findings"]:
        print(f"{finding['number']:>3} {_MARKS[finding['evidence']]} {finding['statement']}")
        print(f"      {finding['summary']}")
        for row in finding["values"][:MAX_ROWS]:
            _print_row(row, finding["shape"])
        if len(finding["values"]) > MAX_ROWS:
            print(f"      … {len(finding['values']) - MAX_ROWS} more in record.json")
        for note in finding["notes"]:
            print(f"      note: {note}")
    for figure in found["figures"]:
        title = f" “{figure['title']}”" if figure["title"] else ""
        files = f": {', '.join(figure['files'].values())}" if figure["files"] else ""
        print(f"figure {figure['name']}{title}{files}")
        for note in figure["notes"]:
            print(f"      note: line {note['line']}: {note['text']}")


def _print_fit(row: dict[str, Any]) -> None:
    """The parameters with their 95 % intervals, and how well the model does."""
    for p in row["parameters"]:
        unit = f" {p['unit']}" if "unit" in p else ""
        low, high = ("open" if v is None else f"{v:.6g}" for v in (p["low"], p["high"]))
        print(f"      {p['name']} = {p['value']!r}{unit}, standard error {p['standard_error']:.3g}, 95 % from {low} to {high}")
    worth = {"residual standard deviation": "residual_standard_deviation", "R²": "r_squared", "AICc": "aicc"}
    said = [f"{word} {row[key]:.6g}" for word, key in worth.items() if row.get(key) is not None]
    print(f"      {', '.join(said)}, {row['degrees_of_freedom']} degrees of freedom")


# Fields of a row that are no cells of it: they stand behind its numbers, or only in record.json.
_BESIDE = frozenset(
    (
        "evidence interval intervals value_interval y_interval low_interval high_interval kind multiplicity residual exact at at_end doubt "
        "latex text length unit digits border shape standard_error overall"
    ).split()
)


_IN_SUMMARY = ("check", "formula", "family")  # shapes whose rows the summary says


def _print_row(row: dict[str, Any], shape: str) -> None:
    """A place with its interval, or a row of a table, by the shape of the row; single values stand in the summary already."""
    if shape == "fit":
        _print_fit(row)
        return
    # A place that was found as a zero has its value there as a residual: that is no cell of it.
    cells = {n: v for n, v in row.items() if n not in _BESIDE and not (n == "value" and shape in ("roots", "crossings"))}
    if shape in _IN_SUMMARY or set(cells) <= {"value"} or "pass" in cells:
        return
    said = []
    for name, value in cells.items():
        error = f" ± {row['standard_error']:.2g}" if "standard_error" in row and name in ("x", "value") else ""
        unit = f" {row['unit']}" if isinstance(row.get("unit"), str) and name == "value" else ""
        said.append(f"{name} = {value if isinstance(value, str) else 'gap' if value is None else repr(value)}{error}{unit}")
    ends = {"": row.get("interval"), **row.get("intervals", {})}
    within = [f"{name + ' ' if name else ''}in [{e[0]}, {e[1]}]" for name, e in ends.items() if isinstance(e, list)]
    print(f"      {', '.join(said)}{'  ' + ', '.join(within) if within else ''}{'  ' + row['evidence'] if 'evidence' in row else ''}")


def _print_messages(name: str, messages: Messages) -> None:
    for message in messages.as_records():
        fix = f"  (fix: {message['fix']['label']})" if "fix" in message else ""
        print(f"{name}:{message['line']}:{message['column']}: {message['severity']}: {message['text']}{fix}", file=sys.stderr)


# ---------------------------------------------------------------- verify


def _verify(options: argparse.Namespace) -> int:
    """A line for each finding; 1 where a proof does not hold."""
    try:
        found = json.loads(_read_file(options.record))
    except json.JSONDecodeError as trouble:
        raise UsageError(f"{options.record} is no record: {trouble.msg} in line {trouble.lineno}") from None
    if not isinstance(found, dict) or not isinstance(found.get("findings"), list):
        raise UsageError(f"{options.record} is no record: it has no findings")
    proofs = verify_record(found)
    for proof in proofs:
        if proof.fault:
            print(f"{proof.number:>3} {proof.noun}: not confirmed: {proof.fault}")
        elif proof.certified:
            print(f"{proof.number:>3} {proof.noun}: proof checked: {proof.boxes} box{'' if proof.boxes == 1 else 'es'}")
    without = sum(not p.certified for p in proofs)
    refused = sum(bool(p.fault) for p in proofs)
    print(f"{len(proofs) - without - refused} confirmed, {refused} not confirmed, {without} without a certificate")
    return 1 if refused else 0


# ---------------------------------------------------------------- servers, which need much that scripts do not


def _work(_: argparse.Namespace) -> int:
    from .engine.remote.worker import main as work

    return work()


def _back_up(options: argparse.Namespace) -> int:
    from .service import commands

    try:
        print(commands.back_up(Path(options.file)))
    except commands.TROUBLE as trouble:
        raise UsageError(str(trouble)) from None
    return 0


def _restore(options: argparse.Namespace) -> int:
    from .service import commands

    try:
        said, amiss = commands.put_back(Path(options.file), options.replace)
    except commands.TROUBLE as trouble:
        raise UsageError(str(trouble)) from None
    print(said, *amiss, sep="\n  ")
    return 1 if amiss else 0


# ---------------------------------------------------------------- check


def _check(options: argparse.Namespace) -> int:
    failed = False
    for name in options.scripts:
        reading, _ = read(_read_file(name))
        failed = failed or reading.messages.has_errors()
        if options.json:
            print(json.dumps({"file": name, "messages": reading.messages.as_records()}, ensure_ascii=False))
        else:
            _print_messages(name, reading.messages)
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
