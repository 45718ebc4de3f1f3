"""Packed logs: gzip, xz, bzip2, and zip with one file in it, unpacked within limits."""

import bz2
import io
import lzma
import zipfile
import zlib
from collections.abc import Callable, Iterator
from typing import Protocol

CHUNK_BYTES = 1024**2
MEMORY_BYTES = 128 * 1024**2  # that an xz file may ask for its dictionary


class BadPacked(Exception):
    """A packed file that is cut short, damaged, or holds other than one file; `fix` helps."""

    def __init__(self, what: str, fix: str = "Copy it again") -> None:
        super().__init__(what)
        self.what, self.fix = what, fix


class _Unpacker(Protocol):
    """What the unpackers of the standard library share."""

    @property
    def eof(self) -> bool:
        """Whether a member is whole."""
        ...

    @property
    def unused_data(self) -> bytes:
        """What comes after it."""
        ...

    @property
    def needs_input(self) -> bool:
        """Whether more of the packed bytes is needed."""
        ...

    def decompress(self, data: bytes, /, max_length: int) -> bytes:
        """The next bytes, so many at most."""
        ...


class _Gzip:
    """gzip as the other unpackers are used."""

    def __init__(self) -> None:
        self._stream = zlib.decompressobj(wbits=31)

    @property
    def eof(self) -> bool:
        return self._stream.eof

    @property
    def unused_data(self) -> bytes:
        return self._stream.unused_data

    @property
    def needs_input(self) -> bool:
        return not self._stream.unconsumed_tail

    def decompress(self, data: bytes, /, max_length: int) -> bytes:
        return self._stream.decompress(data or self._stream.unconsumed_tail, max_length)


ZIP, ZIP_MAGIC = "zip", b"PK\x03\x04"
KINDS: dict[str, tuple[bytes, Callable[[], _Unpacker]]] = {
    "gzip": (b"\x1f\x8b", _Gzip),
    "xz": (b"\xfd7zXZ\x00", lambda: lzma.LZMADecompressor(memlimit=MEMORY_BYTES)),
    "bzip2": (b"BZh", bz2.BZ2Decompressor),
}


def kind_of(raw: bytes) -> str:
    """How a file is packed by its first bytes; blank for not at all."""
    if raw.startswith(ZIP_MAGIC):
        return ZIP
    return next((kind for kind, (magic, _) in KINDS.items() if raw.startswith(magic)), "")


def parts_of(packed: bytes, kind: str) -> Iterator[bytes]:
    """What a packed file holds, piece by piece, member by member. Raises BadPacked."""
    try:
        if kind == ZIP:
            yield from _zipped(packed)
            return
        magic, unpacker = KINDS[kind]
        rest = packed
        while rest.startswith(magic):
            stream = unpacker()
            while not stream.eof:
                part = stream.decompress(rest, CHUNK_BYTES)
                rest = b""
                yield part
                if not part and not stream.eof and stream.needs_input:
                    raise BadPacked("the compressed log is cut short or damaged")
            rest = stream.unused_data
    except (zlib.error, lzma.LZMAError, zipfile.BadZipFile, OSError, EOFError, ValueError) as error:
        raise BadPacked(f"the compressed log is cut short or damaged ({error})") from error


def _zipped(packed: bytes) -> Iterator[bytes]:
    with zipfile.ZipFile(io.BytesIO(packed)) as whole:
        members = [one for one in whole.infolist() if not one.is_dir()]
        if len(members) != 1:
            raise BadPacked(
                f"it holds {len(members)} files", "Unpack it, and give the logs or their folder"
            )
        if members[0].flag_bits & 0x1:
            raise BadPacked("it is locked with a password", "Unpack it yourself")
        try:
            with whole.open(members[0]) as file:
                while part := file.read(CHUNK_BYTES):
                    yield part
        except (NotImplementedError, RuntimeError) as error:
            raise BadPacked(f"it cannot be unpacked ({error})", "Unpack it yourself") from error
