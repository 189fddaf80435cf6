"""The record and the command line: the shapes that the contract fixes."""

from __future__ import annotations

import hashlib
import json
import subprocess
from pathlib import Path
from typing import Any

import pytest

from open_lemma import __version__
from open_lemma.core.run.execute.faults import log_fault
from open_lemma.core.run.execute.interpreter import run
from open_lemma.core.run.execute.outcome import UnknownPart
from tests.conftest import COMMAND, PROJECT

SCRIPT = """part "First"
f(x) = x^2 - 2 for x from -3 to 3
r = roots of f(x)
show 2/3, r[1]

part "Second"
figure both "Two curves":
    curve of [f(x), 2x] for x from -2 to 2, label ["f", "line"], width 1.5
    points of [(0, 0)], marker ring
    y axis "value / m"
"""


def command(*words: str, code: int = 0) -> subprocess.CompletedProcess[str]:
    done = subprocess.run([COMMAND, *words], capture_output=True, text=True, check=False)
    assert done.returncode == code, done.stderr
    assert "Traceback" not in done.stderr
    assert "fault of ours" not in done.stderr
    return done


@pytest.fixture
def script(tmp_path: Path) -> Path:
    path = tmp_path / "both.lemma"
    path.write_text(SCRIPT, encoding="utf-8")
    return path


def recorded(script: Path, out: Path, *more: str) -> dict[str, Any]:
    command("run", str(script), "--out", str(out), *more)
    return json.loads((out / "record.json").read_text(encoding="utf-8"))


def test_the_record_has_the_shape_of_the_contract(script: Path, tmp_path: Path) -> None:
    record = recorded(script, tmp_path / "out", "--formats", "svg,pdf,png")
    assert record["schema"] == 1
    assert record["script_sha256"] == hashlib.sha256(SCRIPT.encode()).hexdigest()
    assert record["versions"] == {"open-lemma": __version__}
    assert record["tables"] == []
    assert record["messages"] == []
    roots, two_thirds, element = record["findings"]
    assert (roots["number"], roots["line"], roots["name"], roots["noun"]) == (1, 3, "r", "roots")
    assert roots["statement"] == "r = roots of f(x)"
    assert (roots["evidence"], roots["complete"]) == ("proven", True)
    value = roots["values"][1]
    assert value["x"] == 2**0.5
    assert float(value["interval"][0]) <= value["x"] <= float(value["interval"][1])
    assert value["evidence"] == "proven"
    assert (two_thirds["number"], two_thirds["values"][0]["exact"]) == (2, "2/3")
    assert element["values"][0]["value"] == -(2**0.5)
    figure = record["figures"][0]
    assert (figure["name"], figure["title"], figure["line"]) == ("both", "Two curves", 7)
    assert figure["files"] == {"svg": "both.svg", "pdf": "both.pdf", "png": "both.png"}
    assert all((tmp_path / "out" / name).stat().st_size for name in figure["files"].values())
    layout = figure["layout"]
    assert (layout["width_mm"], layout["height_mm"]) == (120, 82)
    panel = layout["panels"][0]
    assert len(panel["bounds_px"]) == 4
    assert (panel["x"]["low"], panel["x"]["high"], panel["x"]["scale"]) == (-2, 2, "linear")
    assert [(s["id"], s["line"], s["kind"], s["label"]) for s in layout["series"]] == [
        ("s1", 8, "curve", "f"), ("s2", 8, "curve", "line"), ("s3", 9, "points", None),
    ]  # fmt: skip
    assert all(s["points"] > 0 for s in layout["series"])


def test_a_rerun_gives_the_same_record_and_the_same_bytes(script: Path, tmp_path: Path) -> None:
    first, second = recorded(script, tmp_path / "a"), recorded(script, tmp_path / "b")
    assert {k: v for k, v in first.items() if k != "duration_s"} == {k: v for k, v in second.items() if k != "duration_s"}
    assert (tmp_path / "a" / "both.svg").read_bytes() == (tmp_path / "b" / "both.svg").read_bytes()


def test_run_prints_findings_and_tells_mistakes_with_their_place(tmp_path: Path) -> None:
    path = tmp_path / "broken.lemma"
    path.write_text("show 6*7\ny = 1/2x\n", encoding="utf-8")
    done = command("run", str(path), code=1)
    assert "42" in done.stdout
    assert f"{path}:2:8: error:" in done.stderr
    assert "1/(2x) or (1/2)x" in done.stderr


def test_run_prints_the_record_as_json(script: Path) -> None:
    assert json.loads(command("run", str(script), "--json").stdout)["findings"][0]["noun"] == "roots"


def test_check_gives_one_line_for_each_file(script: Path, tmp_path: Path) -> None:
    broken = tmp_path / "broken.lemma"
    broken.write_text("show nothere", encoding="utf-8")
    lines = command("check", "--json", str(script), str(broken), code=1).stdout.splitlines()
    good, bad = (json.loads(line) for line in lines)
    assert good == {"file": str(script), "messages": []}
    message = bad["messages"][0]
    assert (message["severity"], message["code"], message["line"], message["column"], message["end_column"]) == (
        "error",
        "unknown-name",
        1,
        6,
        13,
    )


def test_one_part_runs_with_what_it_needs_and_keeps_its_numbers(script: Path, tmp_path: Path) -> None:
    record = recorded(script, tmp_path / "out", "--part", "Second")
    assert [f["name"] for f in record["figures"]] == ["both"]
    assert record["findings"] == []
    with pytest.raises(UnknownPart):
        run(SCRIPT, part="Third")
    assert "no part 'Third'" in command("run", str(script), "--part", "Third", code=2).stderr


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (("run", "nowhere.lemma"), "cannot read nowhere.lemma"),
        (("run", "README.md", "--formats", "gif"), "no format 'gif'"),
        (("check", "nowhere.lemma"), "cannot read nowhere.lemma"),
        (("run", "README.md", "--tables", "nowhere"), "no folder nowhere"),
    ],
)
def test_calls_that_cannot_be_carried_out(words: tuple[str, ...], said: str, tmp_path: Path) -> None:
    (tmp_path / "README.md").write_text("# nothing", encoding="utf-8")
    done = subprocess.run([COMMAND, *words], capture_output=True, text=True, check=False, cwd=tmp_path)
    assert done.returncode == 2
    assert said in done.stderr


def test_bytes_that_are_no_text(tmp_path: Path) -> None:
    path = tmp_path / "bytes.lemma"
    path.write_bytes(b"show 1\n\xff\xfe")
    assert "no UTF-8 text" in command("run", str(path), code=2).stderr


@pytest.mark.parametrize("name", ["alternate-depths", "wave-paddle"])
def test_demo_scripts_run_without_a_message(name: str, tmp_path: Path) -> None:
    record = recorded(PROJECT / "demo" / f"{name}.lemma", tmp_path)
    assert record["messages"] == []
    assert {f["evidence"] for f in record["findings"]} == {"proven"}


def test_the_critical_depth_is_the_one_of_the_handbook() -> None:
    """y_c = (q^2/g)^(1/3), V. T. Chow, "Open-Channel Hydraulics" (1959), section 4-3 (from memory)."""
    outcome = run((PROJECT / "demo" / "alternate-depths.lemma").read_text(encoding="utf-8"))
    critical, direct = outcome.findings[1].rows[0]["y"], outcome.findings[2].rows[0]["value"]
    assert critical == direct == pytest.approx((1.8**2 / 9.81) ** (1 / 3), rel=1e-15)


def test_readings_of_definitions() -> None:
    readings = run("q = 1.8\nE(y) = y + q^2/(2*9.81*y^2) for y from 0.1 to 3\nb = q + 1").readings
    assert [r["line"] for r in readings] == [2, 3]
    assert readings[0]["latex"].startswith(r"E(y) = y + \frac{q^{2}}{")
    assert r"0.1 \le y \le 3" in readings[0]["latex"]


def test_events_come_as_the_run_goes_on() -> None:
    events: list[dict[str, Any]] = []
    run(SCRIPT, events.append)
    kinds = [e["event"] for e in events]
    assert kinds.count("finding") == 3
    assert kinds.count("figure") == 1
    assert kinds.index("finding") < kinds.index("figure")
    steps = [(e["done"], e["of"]) for e in events if e["event"] == "progress" and "of" in e]
    assert steps == [(1, 6), (2, 6), (3, 6), (5, 6)]  # the two lines that begin parts have nothing to do


def test_figures_are_described_in_words() -> None:
    description = run(SCRIPT).figures[0].data.description()
    assert "Two curves" in description
    assert "“f”" in description
    assert "value / m" in description


def test_a_fault_of_ours_costs_a_line_and_goes_to_the_log(monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture) -> None:
    from open_lemma.core.run.execute import statements

    secret = str(4711)

    def broken(*_: object) -> None:
        raise KeyError(secret)

    monkeypatch.setattr(statements, "check_finding", broken)
    outcome = run("show 1\ncheck 2 = 2\nshow 3", on_fault=log_fault)
    told: list[tuple[str, int]] = []
    run("show 1\ncheck 2 = 2\nshow 3", on_fault=lambda trouble, line, _: told.append((type(trouble).__name__, line)))
    assert told == [("KeyError", 2)]
    assert [f.summary for f in outcome.findings] == ["1", "3"]
    (message,) = outcome.reading.messages.items
    assert message.code == "internal"
    assert "KeyError" not in message.text
    assert "test_record.py" in caplog.text
    assert "KeyError" in caplog.text
    assert secret not in caplog.text
    assert "2 = 2" not in caplog.text
