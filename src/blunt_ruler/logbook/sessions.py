"""Who wrote an edit: every open logbook has a name of its own, and is known to be open or not.

Undo takes back a window's own edits and those of windows that are closed, never those of
another that is still open.
"""

import os
import secrets

from blunt_ruler.machine import began, this_machine

_OPEN: set[str] = set()


def begin() -> str:
    """A new session's name: machine, process, when the process began, and a number of its own."""
    pid = os.getpid()
    session = f"{this_machine()} {pid} {began(pid)} {secrets.token_hex(4)}"
    _OPEN.add(session)
    return session


def end(session: str) -> None:
    """The session's logbook is closed."""
    _OPEN.discard(session)


def may_be_open(session: str) -> bool:
    """Whether a session's logbook may still be open; never for edits of before sessions."""
    parts = session.split()
    if session in _OPEN:
        return True
    if len(parts) != 4 or not parts[1].isdigit():
        return False
    pid = int(parts[1])
    if parts[0] != this_machine():
        return True  # another computer: nobody here can tell
    return pid != os.getpid() and began(pid) == parts[2]
