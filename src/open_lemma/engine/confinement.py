"""What a process that works for a user gives up before it looks at what the user wrote: rights, network, files.

Each of these is done where the kernel and the rights of the server allow it; `in_force` says which. Everything that a job reads
and writes is open before (`Work`), and what the program itself may still have to load stays readable.

Sources: Linux manual pages capabilities(7), unshare(2), landlock(7), seccomp(2).
"""

from __future__ import annotations

import ctypes
import errno
import os
import signal
import struct
import sys
import sysconfig
from functools import cache
from pathlib import Path

import pyseccomp

from . import prctl

USER = int(os.environ.get("OPEN_LEMMA_RUN_USER", "0") or 0) or 64_137  # of runs, where root starts the server: one that owns nothing
_CAPABILITY_VERSION, _CAP_DAC_READ_SEARCH = 0x2008_0522, 2
_CLONE_THREAD = 0x0001_0000
_CLONE_NEWNS, _CLONE_NEWNET, _CLONE_NEWIPC, _CLONE_NEWUTS = 0x0002_0000, 0x4000_0000, 0x0800_0000, 0x0400_0000
_CREATE_RULESET, _ADD_RULE, _RESTRICT_SELF = 444, 445, 446
_READ_FILE, _READ_DIR, _EXECUTE = 1 << 2, 1 << 3, 1 << 0
# Rights over files by the version of the interface that brought them (landlock(7), "ABI versions").
_FILE_RIGHTS = {1: (1 << 13) - 1, 2: (1 << 14) - 1, 3: (1 << 15) - 1, 4: (1 << 15) - 1, 5: (1 << 16) - 1}
_PATH_BENEATH = 1
_O_PATH = 0o10000000
# What a run has no business with; the rest of the list of system calls stays open to the libraries.
FORBIDDEN = (
    "socket socketpair connect bind listen accept accept4 ptrace process_vm_readv process_vm_writev execve execveat fork vfork mount "
    "umount2 pivot_root chroot setns unshare init_module finit_module delete_module kexec_load reboot swapon swapoff bpf perf_event_open "
    "keyctl add_key request_key open_by_handle_at userfaultfd io_uring_setup io_uring_enter io_uring_register kill tkill setpriority "
    "sched_setscheduler personality quotactl acct sethostname setdomainname settimeofday clock_settime adjtimex"
).split()


class NotConfined(Exception):
    """A right could not be given up though it can be here."""


_libc = ctypes.CDLL(None, use_errno=True)


def _call(number: int, *arguments: object) -> int:
    return int(_libc.syscall(ctypes.c_long(number), *arguments))


@cache
def landlock_version() -> int:
    """Of the kernel's interface; 0 where there is none."""
    return max(_call(_CREATE_RULESET, None, ctypes.c_size_t(0), ctypes.c_uint32(1)), 0)


@cache
def _readable() -> tuple[str, ...]:
    """Where the program, its libraries, the interpreter and the fonts lie."""
    package = Path(__file__).resolve().parents[1]
    paths = {package, Path(sys.prefix), Path(sys.base_prefix), Path(sysconfig.get_path("purelib"))}
    paths |= {Path(p) for p in ("/usr/lib", "/usr/share", "/usr/local/lib", "/lib", "/lib64", "/etc/fonts", "/etc/ld.so.cache")}
    paths |= {Path(p) for p in ("/dev/null", "/dev/urandom", "/proc/self", "/proc/cpuinfo", "/proc/meminfo", "/sys/devices/system/cpu")}
    return tuple(sorted(str(p) for p in paths if p.exists()))


def _file_rules(scratch: str) -> int:
    """The rules, as a handle: nothing may be opened but what `_readable` names, for reading, and the scratch folder."""
    rights = _FILE_RIGHTS[min(landlock_version(), max(_FILE_RIGHTS))]
    made = struct.pack("=Q", rights)
    rules = _call(_CREATE_RULESET, made, ctypes.c_size_t(len(made)), ctypes.c_uint32(0))
    if rules < 0:
        raise NotConfined(f"landlock: {os.strerror(ctypes.get_errno())}")
    wanted = [(p, (_READ_FILE | _READ_DIR) if os.path.isdir(p) else _READ_FILE) for p in _readable()]
    if scratch:
        wanted.append((scratch, rights & ~_EXECUTE))
    for path, allowed in wanted:
        handle = os.open(path, _O_PATH | os.O_CLOEXEC)
        rule = struct.pack("=Qi", allowed, handle)
        done = _call(_ADD_RULE, ctypes.c_int(rules), ctypes.c_int(_PATH_BENEATH), rule, ctypes.c_uint32(0))
        os.close(handle)
        if done:
            raise NotConfined(f"landlock, {path}: {os.strerror(ctypes.get_errno())}")
    return rules


def _restrict_files(rules: int) -> None:
    if _call(_RESTRICT_SELF, ctypes.c_int(rules), ctypes.c_uint32(0)):
        raise NotConfined(f"landlock: {os.strerror(ctypes.get_errno())}")
    os.close(rules)


def _be_nobody(may_read: bool) -> None:
    """Another user without any right of root's; `may_read`: but that of reading files, which Landlock then narrows to the program's own."""
    os.setgroups([])
    os.setresgid(USER, USER, USER)
    prctl.keep_capabilities(may_read)
    os.setresuid(USER, USER, USER)
    kept = 1 << _CAP_DAC_READ_SEARCH if may_read else 0
    head, data = struct.pack("=Ii", _CAPABILITY_VERSION, 0), struct.pack("=6I", kept, kept, 0, 0, 0, 0)
    if _libc.capset(head, data):
        raise NotConfined(f"capabilities: {os.strerror(ctypes.get_errno())}")


@cache
def _reads_need_a_right() -> bool:
    """Whether the program lies where the user of runs may not read, such as root's home."""

    def read() -> None:
        _be_nobody(False)
        for path in _readable():
            os.listdir(path) if os.path.isdir(path) else None
            if not os.path.exists(path):
                raise NotConfined(path)

    return not _tried(read)


@cache
def _namespaces() -> bool:
    """Whether a process here may have namespaces of its own."""
    return os.geteuid() == 0 and _tried(lambda: _unshare())


@cache
def _filter() -> bool:
    """Whether system calls can be refused here."""
    return _tried(lambda: _refuse_calls())


def _tried(what: object) -> bool:
    """Whether something that cannot be taken back works, found out in a process of its own."""
    pid = os.fork()
    if pid == 0:
        try:
            what()  # type: ignore[operator]
        except BaseException:
            os._exit(1)
        os._exit(0)
    return os.waitpid(pid, 0)[1] == 0


def _unshare() -> None:
    if _libc.unshare(_CLONE_NEWNS | _CLONE_NEWNET | _CLONE_NEWIPC | _CLONE_NEWUTS):
        raise NotConfined(f"namespaces: {os.strerror(ctypes.get_errno())}")


def _refuse_calls() -> None:
    rules = pyseccomp.SyscallFilter(pyseccomp.ALLOW)
    for name in FORBIDDEN:
        try:
            rules.add_rule(pyseccomp.ERRNO(errno.EPERM), name)
        except (OSError, ValueError):
            continue  # this processor has no such call
    # Threads, but no processes; clone3 hides its flags from filters, and libraries without it take clone.
    rules.add_rule(pyseccomp.ERRNO(errno.EPERM), "clone", pyseccomp.Arg(0, pyseccomp.MASKED_EQ, _CLONE_THREAD, 0))
    rules.add_rule(pyseccomp.ERRNO(errno.ENOSYS), "clone3")
    rules.load()


@cache
def in_force() -> tuple[str, ...]:
    """What a run has given up here, in words for the log and for people."""
    found = ["no new privileges", "no core dumps"]
    if os.geteuid() == 0:
        found.append(f"a user of its own ({USER})")
    if _filter():
        found.append("no network, programs or other processes")
    elif _namespaces():
        found.append("no network")
    if landlock_version():
        found.append("no files but the program's own")
    return tuple(found)


@cache
def not_in_force() -> tuple[str, ...]:
    """What could not be had here, each with the reason."""
    found = []
    if os.geteuid() != 0:
        found.append("runs work as the user of the server: only root can give them another")
    if not _filter() and not _namespaces():
        found.append("runs could reach the network: this needs root or libseccomp")
    if not landlock_version():
        found.append("runs can read what the server's user can read: this kernel has no Landlock")
    return tuple(found)


def make_ready() -> None:
    """Find out what can be had, before the first process is confined."""
    in_force()
    if os.geteuid() == 0:
        _reads_need_a_right()


def enter(scratch: str = "") -> None:
    """Give up for good all that is not needed; `scratch` is the only folder that may still be written. Raises NotConfined and OSError."""
    if not _filter() and _namespaces():
        _unshare()  # dearer than the filter, which forbids all that these would hide
    rules = _file_rules(scratch) if landlock_version() else None
    if os.geteuid() == 0:
        if scratch:
            os.chown(scratch, USER, USER)
        _be_nobody(rules is not None and _reads_need_a_right())
    prctl.gain_nothing()
    # After the change of user, which takes this back: who hears of a run is gone with the process that forked it.
    prctl.end_with_parent(signal.SIGKILL)
    if rules is not None:
        _restrict_files(rules)
    if _filter():
        _refuse_calls()
