"""This machine, and what runs on it, told apart without naming it to anybody."""

import os
from contextlib import suppress
from functools import cache
from pathlib import Path

MACHINE_ID = Path("/etc/machine-id")


@cache
def this_machine() -> str:
    """This machine, as 16 hex digits from which nobody learns its name: a hash of the name and of
    the secret number that the system keeps of the machine.
    """
    import hashlib  # it takes as long as all else here, and the first window needs no mark

    number = ""
    with suppress(OSError):
        number = MACHINE_ID.read_text("utf-8", "replace").strip()
    return hashlib.sha256(f"blunt-ruler {number} {os.uname().nodename}".encode()).hexdigest()[:16]


def began(pid: int) -> str:
    """When a process began, in ticks since the machine did; blank where there is none."""
    try:
        stat = Path(f"/proc/{pid}/stat").read_text("utf-8", "replace")
    except OSError:
        return ""
    return stat.rpartition(")")[2].split()[19]


def give_back_memory() -> None:
    """Give memory that is free in this process back to the system, where its C library can."""
    import ctypes

    with suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)
