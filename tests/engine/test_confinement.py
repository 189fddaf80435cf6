"""What a run has given up, tried from inside one: each attempt is made after the same call that a run's process makes."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest

from open_lemma.engine import confinement
from tests.conftest import until

# Each gives "done", or the name of what refused it. They are tried one after the other in a confined process.
ATTEMPTS = r"""
import ctypes, json, os, socket, subprocess, sys, threading
from open_lemma.engine import confinement
outside, scratch = sys.argv[1:3]
confinement.make_ready()
inherited = os.open(outside + "/secret", os.O_RDONLY)
os.close(inherited)
libc = ctypes.CDLL(None, use_errno=True)
confinement.enter(scratch)

def said(attempt):
    try:
        return str(attempt())
    except BaseException as trouble:
        return type(trouble).__name__

def call(name, *arguments):
    if getattr(libc, name)(*arguments) == -1:
        raise OSError(ctypes.get_errno(), name)
    return "done"

def thread():
    one = threading.Thread(target=lambda: None)
    one.start()
    one.join()
    return "done"

def write(path):
    with open(path, "w") as file:
        file.write("x")
    return "done"

print(json.dumps({
    "user": said(os.getuid), "groups": said(os.getgroups),
    "network": said(lambda: socket.socket(socket.AF_INET, socket.SOCK_STREAM)),
    "network of six": said(lambda: socket.socket(socket.AF_INET6, socket.SOCK_DGRAM)),
    "local socket": said(lambda: socket.socket(socket.AF_UNIX, socket.SOCK_STREAM)),
    "program": said(lambda: os.execv("/bin/true", ["true"])), "fork": said(os.fork),
    "subprocess": said(lambda: subprocess.run(["/bin/true"])),
    "kill": said(lambda: os.kill(os.getppid(), 0)), "trace": said(lambda: call("ptrace", 16, os.getppid(), 0, 0)),
    "namespace": said(lambda: call("unshare", 0x10000000)), "mount": said(lambda: call("mount", None, b"/", None, 0, None)),
    "root again": said(lambda: os.setuid(0)), "priority": said(lambda: os.nice(-5)),
    "read outside": said(lambda: open(outside + "/secret").read()), "list outside": said(lambda: os.listdir(outside)),
    "read passwords": said(lambda: open("/etc/shadow").read()), "read users": said(lambda: open("/etc/passwd").read()),
    "environment of the parent": said(lambda: open(f"/proc/{os.getppid()}/environ", "rb").read()),
    "write outside": said(lambda: write(outside + "/new")), "write temporary": said(lambda: write("/tmp/open-lemma-confinement-test")),
    "write program": said(lambda: write(os.path.join(os.path.dirname(confinement.__file__), "new"))),
    "write scratch": said(lambda: write(scratch + "/new")), "thread": said(thread),
    "read program": said(lambda: len(open(confinement.__file__).read()) > 100),
    "import": said(lambda: __import__("colorsys").__name__),
}))
"""
HELD = "PermissionError"


@pytest.fixture(scope="module")
def said(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    outside, scratch = tmp_path_factory.mktemp("outside"), tmp_path_factory.mktemp("scratch")
    (outside / "secret").write_text("a secret", encoding="ascii")
    words = [sys.executable, "-c", ATTEMPTS, str(outside), str(scratch)]
    done = subprocess.run(words, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert not (outside / "new").exists()
    found: dict[str, str] = json.loads(done.stdout)
    return found


def test_a_run_has_a_user_of_its_own_where_root_starts_the_server(said: dict[str, str]) -> None:
    if os.geteuid() != 0:
        pytest.skip("only root can give runs another user")
    assert said["user"] == str(confinement.USER)
    assert said["groups"] == "[]"
    assert said["root again"] == HELD


@pytest.mark.parametrize(
    "attempt",
    "network|network of six|local socket|program|fork|subprocess|kill|trace|namespace|mount".split("|"),
)
def test_it_reaches_no_network_and_no_other_process(said: dict[str, str], attempt: str) -> None:
    assert said[attempt] in (HELD, "OSError")


@pytest.mark.parametrize(
    "attempt",
    "read outside|list outside|read passwords|read users|environment of the parent|write outside|write temporary|write program".split("|"),
)
def test_it_reads_and_writes_no_files_but_its_own(said: dict[str, str], attempt: str) -> None:
    if not confinement.landlock_version():
        pytest.skip("this kernel has no Landlock")
    assert said[attempt] == HELD


def test_what_it_needs_stays_possible(said: dict[str, str]) -> None:
    assert {said[a] for a in ("write scratch", "thread")} == {"done"}
    assert said["read program"] == "True"
    assert said["import"] == "colorsys"


def test_what_is_in_force_is_said_and_what_is_not_too() -> None:
    in_force, missing = confinement.in_force(), confinement.not_in_force()
    assert "no new privileges" in in_force
    assert len(in_force) + len(missing) >= 5
    if confinement.landlock_version():
        assert any("no files" in f for f in in_force)


def test_a_process_that_works_for_users_is_told_no_secrets(monkeypatch: pytest.MonkeyPatch) -> None:
    from open_lemma.engine.processes import environment

    for name in ("DATABASE_URL", "OPEN_LEMMA_ENGINE", "OPEN_LEMMA_DATA", "SOME_TOKEN", "SECRET_KEY"):
        monkeypatch.setenv(name, "a secret")
    assert "a secret" not in environment().values()
    assert "PATH" in environment()


def test_a_run_at_work_has_given_up_what_it_is_said_to(processes: object, tmp_path: Path) -> None:
    """Of a run of the engine, from outside: its user, its rights, its filter (proc(5), "status")."""
    from tests.engine.conftest import Machine
    from tests.engine.test_engine import SLOW

    machine = Machine(processes.engine(), processes)  # type: ignore[attr-defined, arg-type]
    run, child = machine.child_of_next(SLOW)
    status: dict[str, str] = {}

    def confined() -> bool:
        lines = Path(f"/proc/{child}/status").read_text(encoding="ascii").splitlines()
        status.update(line.split(":\t", 1) for line in lines if ":\t" in line)
        return status["NoNewPrivs"] == "1" and status["Seccomp"] == "2"

    until(confined, "the run to give up its rights")
    machine.engine.stop(run)
    if os.geteuid() == 0:
        assert status["Uid"].split() == [str(confinement.USER)] * 4
        assert int(status["CapEff"], 16) in (0, 1 << 2)  # at most: may read, which the rules on files then narrow
        assert not (tmp_path / "anything").exists()
