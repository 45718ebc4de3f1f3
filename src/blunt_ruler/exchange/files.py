"""Write a file whole or not at all."""

import os
import tempfile
from pathlib import Path

from blunt_ruler.core.errors import UserFixable


class CannotWrite(UserFixable):
    """A file or folder that cannot be written to."""


def write_whole(path: Path, body: bytes | str) -> Path:
    """Put a file in place only when all of it is written; CannotWrite says why not."""
    raw = body.encode() if isinstance(body, str) else body
    part: str | None = None
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, part = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
        with os.fdopen(handle, "wb") as file:
            file.write(raw)
        Path(part).chmod(0o644)
        Path(part).replace(path)
    except OSError as error:
        if part is not None:
            Path(part).unlink(missing_ok=True)
        raise CannotWrite(
            str(path), f"cannot be written ({error.strerror})", "Choose another folder"
        ) from error
    return path
