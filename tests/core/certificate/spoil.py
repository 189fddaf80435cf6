"""One random fault in a finding that carries its proof: what it says afterwards is false, or no certificate at all."""

from __future__ import annotations

import copy
import random
from fractions import Fraction
from typing import Any

from open_lemma.core.certificate.record import claims

# For each claim, those that contradict it on a box with an inside.
OTHERS = {
    "+": "-u0", "-": "+u0", "u": "+-0rfcdT", "r": "fuc0", "f": "ruc0", "R": "Fu0", "F": "Ru0", "v": "^uc0", "^": "vuc0", "c": "rfu",
    "0": "+-rfu",
    "T": "N", "N": "T", "a": "ub", "b": "ua", "A": "burf", "B": "aurf", "i": "u?", "j": "u?", "e": "u?",
}  # fmt: skip


def spoiled(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """A copy with one fault; None where the kind of fault that was drawn has nothing to spoil here."""
    found = copy.deepcopy(finding)
    try:
        return rng.choice(_FAULTS)(found, rng)
    except KeyError:
        return None  # a certificate of another kind: without points and gaps


def _part(finding: dict[str, Any], rng: random.Random) -> dict[str, Any]:
    return rng.choice(finding["certificate"]["parts"])


def _letter_lost(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    part = _part(finding, rng)
    full = [k for k, gap in enumerate(part["gaps"]) if gap]
    if not full:
        return None
    k = rng.choice(full)
    at = rng.randrange(len(part["gaps"][k]))
    part["gaps"][k] = part["gaps"][k][:at] + part["gaps"][k][at + 1 :]
    return finding


def _claim_swapped(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    part = _part(finding, rng)
    places = [(k, at) for k, gap in enumerate(part["gaps"]) for at, letter in enumerate(gap) if letter != "s"]
    if not places:
        return None
    k, at = rng.choice(places)
    gap = part["gaps"][k]
    part["gaps"][k] = gap[:at] + rng.choice(OTHERS[gap[at]]) + gap[at + 1 :]
    return finding


def _side_swapped(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    part = _part(finding, rng)
    sides = [
        (p, n) for k, p in enumerate(part["points"]) for n in ("left", "right") if p.get(n) and p[n][0] in OTHERS and not _outer(part, k, n)
    ]
    if not sides:
        return None
    point, name = rng.choice(sides)
    point[name] = rng.choice(OTHERS[point[name][0]]) + point[name][1:]
    return finding


def _outer(part: dict[str, Any], k: int, name: str) -> bool:
    return (k == 0 and name == "left" and part["low"] != "-infinity") or (
        k == len(part["points"]) - 1 and name == "right" and part["high"] != "infinity"
    )


def _side_lost(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    part = _part(finding, rng)
    sides = [(p, n) for k, p in enumerate(part["points"]) for n in ("left", "right") if p.get(n) and not _outer(part, k, n)]
    if not sides:
        return None
    point, name = rng.choice(sides)
    del point[name]
    return finding


def _value_swapped(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    part = _part(finding, rng)
    points = [p for p in part["points"] if p["value"] in ("+", "-", "0", "u", "T", "N")]
    if not points:
        return None
    point = rng.choice(points)
    point["value"] = {"+": "-", "-": "+", "0": "+", "u": "+", "T": "N", "N": "T"}[point["value"]]
    return finding


def _point_lost(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    part = _part(finding, rng)
    if not part["points"]:
        return None
    del part["points"][rng.randrange(len(part["points"]))]
    return finding


def _gap_lost(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    part = _part(finding, rng)
    del part["gaps"][rng.randrange(len(part["gaps"]))]
    return finding


def _shift(row: dict[str, Any], name: str, interval: str, off: Fraction) -> None:
    """A field and its interval, moved by as much."""
    row[name] = float(Fraction(row[name]) + off)
    row[interval] = [str(Fraction(v) + off) for v in row[interval]]


def _place_moved(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """A row's place and its intervals, moved by far more than they are wide."""
    rows = [
        r for r in finding["values"] if r.get("evidence") == "proven" and "interval" in r and r.get("x") is not None and "x_high" not in r
    ]
    if not rows or any("stretch" in n for n in finding["notes"]):
        return None  # on a stretch every place is one
    row = rng.choice(rows)
    off = Fraction(rng.choice((-1, 1)), 10 ** rng.randint(6, 12)) * max(abs(Fraction(row["x"])), 1)
    _shift(row, "x", "interval", off)
    row.pop("exact", None)
    return finding


def _value_moved(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    rows = [r for r in finding["values"] if r.get("evidence") == "proven" and "value_interval" in r]
    if not rows:
        return None
    row = rng.choice(rows)
    off = Fraction(rng.choice((-1, 1)), 10 ** rng.randint(6, 12)) * max(abs(Fraction(row["value"])), 1)
    _shift(row, "value", "value_interval", off)
    return finding


def _row_lost(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """One of the places left out, though the finding says that there are no others."""
    part = _part(finding, rng)
    if not part["rows"] or part["claim"] in ("lowest", "highest") or finding["evidence"] != "proven":
        return None
    k = rng.randrange(part["rows"])
    del finding["values"][part["first"] + k]
    part["rows"] -= 1
    for other in finding["certificate"]["parts"]:
        if other["first"] > part["first"]:
            other["first"] -= 1
    return finding


def _kind_turned(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    rows = [r for r in finding["values"] if r.get("evidence") == "proven" and r.get("what") in ("minimum", "maximum")]
    if not rows:
        return None
    row = rng.choice(rows)
    row["what"] = "maximum" if row["what"] == "minimum" else "minimum"
    return finding


def _end_turned(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """Whether an end belongs to a span."""
    rows = [r for r in finding["values"] if r.get("low_belongs") is not None]
    if not rows:
        return None
    row = rng.choice(rows)
    ends = [n for n in ("low", "high") if row[n] is not None]
    if not ends:
        return None
    name = rng.choice(ends)
    row[f"{name}_belongs"] = not row[f"{name}_belongs"]
    return finding


def _certificate_lost(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    if not any(r.get("evidence") == "proven" and claims(finding["shape"], r) for r in finding["values"]):
        return None  # of these some have none
    del finding["certificate"]["parts"][rng.randrange(len(finding["certificate"]["parts"]))]
    return finding


def _number_changed(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """Another formula than the one whose roots these are."""
    part = _part(finding, rng)
    if part["claim"] not in ("roots", "polynomial") or not part["rows"]:
        return None
    part["formula"] = [
        *part["formula"],
        ["number", str(Fraction(1, rng.randint(10, 10**6)))],
        ["-", len(part["formula"]) - 1, len(part["formula"])],
    ]
    return finding


def _formula_changed(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """Another formula than the one that was found: something is added to it, or one of its numbers is another."""
    part = _part(finding, rng)
    if part["claim"] not in ("identity", "taylor", "solutions"):
        return None
    program = rng.choice(list(rng.choice(part["values"]).values())) if part["claim"] == "solutions" else part["result"]
    numbers = [k for k, step in enumerate(program) if step[0] == "number" and step[1] != "0"]
    if part["claim"] == "taylor" or not numbers:
        program += [["number", str(Fraction(1, rng.randint(1, 10**6)))], ["+", len(program) - 1, len(program)]]
    else:
        k = rng.choice(numbers)
        program += [
            ["number", str(Fraction(program[k][1]) + rng.choice((-1, 1)))],
            ["-", k, len(program)],
            ["-", len(program) - 1, len(program) + 1],
        ]
    return finding


def _truth_turned(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    if _part(finding, rng)["claim"] != "truth":
        return None
    row = finding["values"][0]
    name = "passed" if "passed" in row else "value"
    row[name] = not row[name]
    return finding


def _number_moved(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """What an integral, a sum or a limit is said to be."""
    rows = [
        r for r in finding["values"] if r.get("evidence") == "proven" and "interval" in r and "x" not in r and r.get("value") is not None
    ]
    if not rows:
        return None
    row = rng.choice(rows)
    off = Fraction(rng.choice((-1, 1)), 10 ** rng.randint(6, 10)) * max(abs(Fraction(row["value"])), Fraction(1, 10))
    _shift(row, "value", "interval", off)
    row.pop("exact", None)
    return finding


def _solution_moved(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    rows = [r for r in finding["values"] if r.get("evidence") == "proven" and "intervals" in r]
    if not rows:
        return None
    row = rng.choice(rows)
    name = rng.choice(sorted(row["intervals"]))
    off = Fraction(rng.choice((-1, 1)), 10 ** rng.randint(6, 10 if row["intervals"][name] else 7))
    row[name] = float(Fraction(row[name]) + off)
    if row["intervals"][name]:
        row["intervals"][name] = [str(Fraction(v) + off) for v in row["intervals"][name]]
    return finding


def _infinity_turned(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    rows = [r for r in finding["values"] if "limit" in r]
    if not rows:
        return None
    row = rng.choice(rows)
    row["limit"] = "infinity" if row["limit"] == "-infinity" else "-infinity"
    return finding


def _tree_spoiled(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """A letter left out of the parts of a box, or put in the place of another one."""
    part = _part(finding, rng)
    part = rng.choice(part["faces"]) if "faces" in part else part
    name = "square" if "square" in part else "parts"
    text = part[name]
    at = rng.randrange(len(text))
    other = {"n": "k?", "k": "n?", "g": "?", "d": "?", "a": "?", "m": "?", "o": "a?"}.get(text[at])
    part[name] = text[:at] + (rng.choice(other) if other and rng.random() < 0.5 else "") + text[at + 1 :]
    return finding


def _face_lost(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    faces = _part(finding, rng)["faces"]
    del faces[rng.randrange(len(faces))]
    return finding


def _range_changed(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """A sum that begins with the second term, the mean in the place of the integral, the other side of a jump."""
    part = _part(finding, rng)
    if part["claim"] == "sum":
        part["from"] += 1
    elif part["claim"] == "integral":
        part["mean"] = not part.get("mean")
    elif part["claim"] == "limit" and len(finding["values"]) > 1:
        part["sides"][0]["side"] *= -1
    else:
        return None
    return finding


def _parameter_moved(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """A parameter of a fit that is another one, in the row alone or in the certificate too."""
    part = _part(finding, rng)
    k = rng.randrange(len(part["box"]))
    row = finding["values"][0]
    said = next(p for p in row["parameters"] if p["name"] == part["parameters"][k])
    off = Fraction(rng.choice((-1, 1)), 10 ** rng.randint(5, 12)) * max(abs(Fraction(said["value"])), Fraction(1, 10))
    _shift(said, "value", "interval", off)
    if rng.random() < 0.5:
        part["box"][k] = said["interval"]
    return finding


def _data_changed(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """One number of the data of a fit, or of a curve and of the points that it goes through."""
    data = _part(finding, rng)["data"]
    columns = [data["y"], *data["columns"]] if "y" in data else [*data["pieces"], *data["points"], data["knots"]]
    column = rng.choice(columns)
    k = rng.randrange(len(column))
    if isinstance(column[k], list):
        return None
    column[k] = str(Fraction(column[k]) + Fraction(rng.choice((-1, 1)), 10 ** rng.randint(2, 6)))
    return finding


def _said_otherwise(finding: dict[str, Any], rng: random.Random) -> dict[str, Any] | None:
    """What is said of a fit or a curve besides."""
    fit = "y" in _part(finding, rng)["data"]
    row = finding["values"][0]
    name = "residual_sum_of_squares" if fit else rng.choice(("points", "pieces", "low", "high", "kind"))
    row[name] = "segments" if name == "kind" else row[name] * (1 + 1e-9) if isinstance(row[name], float) else row[name] + 1
    return finding


_FAULTS = (
    _parameter_moved, _data_changed, _said_otherwise,
    _number_moved, _solution_moved, _infinity_turned, _tree_spoiled, _face_lost, _range_changed,
    _letter_lost, _claim_swapped, _side_swapped, _side_lost, _value_swapped, _point_lost, _gap_lost, _place_moved, _value_moved, _row_lost,
    _kind_turned, _end_turned, _certificate_lost, _number_changed, _formula_changed, _truth_turned,
)  # fmt: skip
