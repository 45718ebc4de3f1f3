"""Where shipped files lie, and the one way in which any part writes files: whole or not at all.

What is being written stands beside its place under a hidden name and is put there only when all
of it is on the disk. A link under the final name is replaced, never followed, and who may read
the file is as the user's umask says.
"""

import errno
import os
import re
import stat
import time
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.text import shown_line
from blunt_ruler.machine import this_machine

# What the system says, as a reader needs it: what is wrong, and what to do.
REASONS = {
    errno.ENOSPC: ("the disk is full", "Make room on it, or choose another folder"),
    errno.EDQUOT: ("your quota on this disk is used up", "Make room, or choose another"),
    errno.EFBIG: ("it would be larger than files may be here", "Choose another folder"),
    errno.EROFS: ("the disk is read-only", "Choose another folder"),
    errno.EACCES: ("you may not write there", "Choose a folder of your own"),
    errno.EPERM: ("you may not write there", "Choose a folder of your own"),
    errno.ENOENT: ("the folder is not there", "Make it, or choose another folder"),
    errno.ENOTDIR: ("its folder is a file", "Choose another folder"),
    errno.EISDIR: ("a folder has that name", "Choose another name"),
    errno.ENAMETOOLONG: ("the name is too long", "Choose a shorter name"),
    errno.EIO: ("the disk gave an error", "Choose another disk, and look after this one"),
}

DAY_S = 86_400.0
SQLITE_MAGIC = b"SQLite format 3\0"  # what every logbook begins with


def shipped(*names: str) -> Path:
    """A file that ships inside the package, by its folders and name."""
    return Path(__file__).parent.joinpath(*names)


def as_text(path: Path | str) -> str:
    """A file's name as text that can be kept and printed: what is none is marked."""
    return shown_line(os.fsencode(path).decode("utf-8", "replace"))


class CannotWrite(UserFixable):
    """A file or folder that cannot be written to."""


def cannot_write(path: Path, error: OSError | ValueError) -> CannotWrite:
    """The sentence for what the system said."""
    number = error.errno if isinstance(error, OSError) else None
    what, fix = REASONS.get(
        number or 0, (f"{getattr(error, 'strerror', None) or error}", "Choose another folder")
    )
    return CannotWrite(str(path)[:200], f"cannot be written: {what}", fix)


@contextmanager
def placed(path: Path, *, replace: bool = True) -> Iterator[Path]:
    """A name beside `path` to write to; put in its place when the block ends well.

    The folder is made where it is missing. With `replace` off a file that is there stays, and
    FileExistsError is raised. CannotWrite says why nothing was written.
    """
    part = path.with_name(f"{_part_of(path)}{_host()}-{os.getpid()}-{os.urandom(4).hex()}.part")
    try:
        if not path.parent.is_dir():
            make_folder(path.parent)
        remove_stale(path)
        yield part
        _to_disk(part)
        if replace:
            part.replace(path)
        else:
            _put_new(part, path)
        with suppress(OSError):  # some file systems cannot do this for folders
            _to_disk(path.parent)
    except FileExistsError:
        if not replace:
            raise
        raise CannotWrite(str(path), "cannot be written: it is there", "Try again") from None
    except (OSError, ValueError) as error:
        raise cannot_write(path, error) from error
    finally:
        with suppress(OSError):
            part.unlink()


@contextmanager
def staged(folder: Path) -> Iterator[Path]:
    """A hidden folder to write files to, which are put into `folder` together when the block ends
    well; where it does not nothing of them is left, nor a folder that was made for them.
    """
    import shutil  # neither is needed before something is written
    import tempfile

    was_there = folder.is_dir()
    try:
        make_folder(folder)
        part = Path(tempfile.mkdtemp(prefix=_part_of(folder), suffix=".part", dir=folder))
    except OSError as error:
        raise cannot_write(folder, error) from error
    placed_already: list[str] = []
    try:
        yield part
        for file in sorted(one for one in part.rglob("*") if one.is_file()):
            name = file.relative_to(part)
            make_folder((folder / name).parent)
            file.replace(folder / name)
            placed_already.append(str(name))
    except OSError as error:
        found = cannot_write(folder, error)
        if placed_already:
            done = f"{found.what}; complete are {', '.join(placed_already)}"
            raise CannotWrite(found.where, done, found.fix) from error
        raise found from error
    finally:
        shutil.rmtree(part, ignore_errors=True)
        if not was_there:
            with suppress(OSError):  # it holds what was put there
                folder.rmdir()


def _part_of(path: Path) -> str:
    return f".{path.name[:80]}."


def _host() -> str:
    """This machine, so that on a shared disk nobody takes another's process for an ended one."""
    return this_machine()[:8]


# What `placed` and `staged` write to, and what SQLite puts beside it; files had no owner once.
_PART = re.compile(r"(?:([0-9a-f]{8})-(\d+)-)?\w+\.part(?:-journal|-wal|-shm)?")


def remove_stale(path: Path) -> None:
    """Remove what was being written in the place of a file when its writer was killed."""
    begins = _part_of(path)
    with suppress(OSError, ValueError):
        for part in path.parent.iterdir():
            found = part.name.startswith(begins) and _PART.fullmatch(part.name[len(begins) :])
            with suppress(OSError):
                if found and _is_stale(part, found[1], found[2]):
                    part.unlink()


def _is_stale(part: Path, host: str | None, process: str) -> bool:
    """Whether whoever wrote a part has ended, or left it alone for a day."""
    if host == _host():
        return not Path(f"/proc/{process}").exists()
    return time.time() - part.stat().st_mtime > DAY_S


def sha256_of(path: Path) -> str:
    """The checksum of a file, read piece by piece."""
    import hashlib  # the first window needs no checksum

    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def make_folder(path: Path) -> Path:
    """A folder, with those above it; CannotWrite where it cannot be made."""
    try:
        path.mkdir(parents=True, exist_ok=True)
    except FileExistsError as error:
        raise CannotWrite(
            str(path), "cannot be written: a file has that name", "Choose another folder"
        ) from error
    except (OSError, ValueError) as error:
        raise cannot_write(path, error) from error
    return path


def make_private(folder: Path) -> Path:
    """A folder that only the user may enter, whatever the umask; what is made above it is as well.
    OSError where that cannot be.
    """
    for one in (*reversed(folder.parents), folder):
        if not one.exists():
            one.mkdir(mode=0o700, exist_ok=True)
    found = folder.stat()
    if found.st_uid == os.getuid() and found.st_mode & 0o077:
        folder.chmod(0o700)
    return folder


def write_private(path: Path, body: bytes) -> None:
    """Put a file in place that only the user may read; OSError where that cannot be."""
    part = make_private(path.parent) / f"{_part_of(path)}{_host()}-{os.getpid()}-p.part"
    flags = os.O_WRONLY | os.O_CREAT | os.O_TRUNC | os.O_NOFOLLOW
    with os.fdopen(os.open(part, flags, 0o600), "wb") as file:
        os.fchmod(file.fileno(), 0o600)
        file.write(body)
    part.replace(path)


def read_private(path: Path, most_bytes: int) -> bytes:
    """A file of the user's own that nobody else may write to; blank where it is none of that."""
    try:
        with os.fdopen(os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK), "rb") as file:
            found = os.fstat(file.fileno())
            theirs = found.st_uid != os.getuid() or found.st_mode & 0o022
            if theirs or not stat.S_ISREG(found.st_mode) or found.st_size > most_bytes:
                return b""
            return file.read(most_bytes)
    except OSError:
        return b""


def write_whole(path: Path, body: bytes | str) -> Path:
    """Put a file in place only when all of it is written; CannotWrite says why not."""
    raw = body.encode() if isinstance(body, str) else body
    with placed(path) as part:
        flags = os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_NOFOLLOW
        with os.fdopen(os.open(part, flags, 0o666), "wb") as file:
            file.write(raw)
    return path


def _to_disk(path: Path) -> None:
    handle = os.open(path, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def _put_new(part: Path, path: Path) -> None:
    """Give a file its name where nothing has it, in one step."""
    try:
        os.link(part, path, follow_symlinks=False)
    except FileExistsError:
        raise
    except OSError:  # a disk without hard links
        if os.path.lexists(path):
            raise FileExistsError(errno.EEXIST, "is there already", str(path)) from None
        part.rename(path)
