"""What this program wrote on this machine, told by a key that no file carries.

A trace is decoded by a compiled parser. Of blobs that it has packed itself the program knows that
they are traces; those of others are decoded in a process with limits.
"""

import hashlib
import hmac
import secrets
from contextlib import suppress
from functools import lru_cache
from pathlib import Path

from blunt_ruler.files import read_private, write_private
from blunt_ruler.machine import this_machine

KEY_BYTES = 32


def key_path() -> Path:
    """Where the key of this machine and user lies."""
    from platformdirs import user_data_path

    return user_data_path("blunt-ruler") / "machine.key"


@lru_cache(maxsize=8)
def _key(path: Path) -> bytes:
    """The key, made when it is first needed; one of this process alone where none can be kept."""
    if len(found := read_private(path, KEY_BYTES)) == KEY_BYTES:
        return found
    made = secrets.token_bytes(KEY_BYTES)
    with suppress(OSError):
        write_private(path, made)
    return made


def signature(sha256: str) -> str:
    """What says of the blob at an address that it was packed here."""
    return hmac.new(_key(key_path()), sha256.encode(), hashlib.sha256).hexdigest()


def mark_of(words: str) -> str:
    """What only this user on this machine can have made of some words."""
    return signature(f"{this_machine()} {words}")


def is_ours(sha256: str, signed: str | None) -> bool:
    """Whether a blob was packed here."""
    return isinstance(signed, str) and hmac.compare_digest(signed, signature(sha256))
