"""What this program wrote on this machine, told by a key that no file carries.

A trace is decoded by a compiled parser. Of blobs that it has packed itself the program knows that
they are traces; those of others are decoded in a process with limits.
"""

import hashlib
import hmac
import os
import secrets
from contextlib import suppress
from functools import lru_cache
from pathlib import Path

KEY_BYTES = 32


def key_path() -> Path:
    """Where the key of this machine and user lies."""
    from platformdirs import user_data_path

    return user_data_path("blunt-ruler") / "machine.key"


@lru_cache(maxsize=8)
def _key(path: Path) -> bytes:
    """The key, made when it is first needed; one of this process alone where none can be kept."""
    with suppress(OSError):
        if len(found := path.read_bytes()) == KEY_BYTES:
            return found
    made = secrets.token_bytes(KEY_BYTES)
    with suppress(OSError):
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        part = path.with_name(f"{path.name}.{os.getpid()}")
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as file:
            file.write(made)
        part.replace(path)
    return made


def signature(sha256: str) -> str:
    """What says of the blob at an address that it was packed here."""
    return hmac.new(_key(key_path()), sha256.encode(), hashlib.sha256).hexdigest()


def is_ours(sha256: str, signed: str | None) -> bool:
    """Whether a blob was packed here."""
    return isinstance(signed, str) and hmac.compare_digest(signed, signature(sha256))
