"""One job in a forked child: limits are set and rights given up first, events go out as they come."""

from __future__ import annotations

import gc
import os
import resource
import socket
import tempfile

from . import confinement
from .handlers import HANDLERS, NotDone
from .handlers.handler import Work
from .pipe import NobodyListens, Pipe, TooMuchOutput, failed
from .protocol import Job, Limits

MOST_OUT = 3_000_000_000  # bytes of a file that a job writes
FAULT_TEXT = "this could not be worked out, and that is our fault; nothing else is lost"


def memory_text(limits: Limits) -> str:
    return f"the run was ended: it needed more than {limits.memory_mb} MB of memory; use shorter lists"


def time_text(limits: Limits) -> str:
    return f"the run was ended after {limits.seconds:g} s, the limit for one run"


def set_limits(limits: Limits, file_bytes: int = 0) -> None:
    """Processor seconds, address space beyond what the warm process already has, files of so many bytes, no core dumps."""
    seconds = max(1, int(limits.seconds) + 1)
    resource.setrlimit(resource.RLIMIT_CPU, (seconds, seconds + 1))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    resource.setrlimit(resource.RLIMIT_FSIZE, (file_bytes, file_bytes))
    with open("/proc/self/statm", encoding="ascii") as statm:
        used = int(statm.read().split()[0]) * os.sysconf("SC_PAGE_SIZE")
    space = used + limits.memory_mb * 1_048_576
    resource.setrlimit(resource.RLIMIT_AS, (space, space))


def work(job: Job, connection: socket.socket, scratch: str = "") -> int:
    """Do a job; returns the exit code of the child. Never raises.

    scratch  a folder of its own, for libraries that write to files on the way; empty: none may be written
    """
    # A child lives for seconds: looking for garbage would only touch, and so copy, the pages it shares.
    gc.disable()
    pipe = Pipe(connection, job.limits.output_mb)
    try:
        at_work = Work(job, pipe)
        set_limits(job.limits, MOST_OUT if job.out or scratch else 0)
        tempfile.tempdir = scratch or None
        confinement.enter(scratch)
    except FileNotFoundError:
        # Who asked is gone, and its files with it.
        pipe.close_with(failed("interrupted", "this was interrupted; nothing is lost, try again"))
        return 0
    except (OSError, confinement.NotConfined) as trouble:
        pipe.fault(trouble)
        pipe.close_with(failed("internal", FAULT_TEXT))
        return 0
    return do(at_work, pipe)


def do(at_work: Work, pipe: Pipe) -> int:
    """Do what is to be done in a process that is limited already; 0, or 1 where nobody listens any more."""
    limits = at_work.job.limits
    try:
        found = HANDLERS[at_work.job.kind](at_work, **at_work.job.given)
        at_work.close()
        pipe.send(found if "event" in found else {"event": "done", **found})
    except NotDone as reason:
        pipe.close_with(failed(reason.reason, str(reason)))
    except TooMuchOutput:
        pipe.close_with(failed("output", f"the run was ended: it gave more than {limits.output_mb} MB of results"))
    except MemoryError:
        pipe.close_with(failed("memory", memory_text(limits)))
    except RecursionError as trouble:
        pipe.fault(trouble)
        pipe.close_with(failed("depth", "this is nested more deeply than can be worked out; take it apart into several definitions"))
    except NobodyListens:
        return 1
    except Exception as trouble:
        pipe.fault(trouble)
        pipe.close_with(failed("internal", FAULT_TEXT))
    return 0
