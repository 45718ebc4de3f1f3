"""Files made from a description of what there can be, opened one after another in this process.

    python fuzz.py KIND COUNT SEED FOLDER

The bytes under test are in FOLDER/last before each try: when the process is ended, they did it.
"""

import json
import os
import resource
import shutil
import signal
import string
import struct
import subprocess
import sys
from contextlib import suppress
from pathlib import Path

from hypothesis import HealthCheck, given, seed, settings
from hypothesis import strategies as st

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.records.records import Contents
from blunt_ruler.logbook import Logbook

SECONDS = 5  # for one try
BYTES = st.binary(max_size=200)
NUMBER = st.one_of(
    st.integers(0, 2**32 - 1), st.sampled_from([0, 1, 512, 4096, 65536, 2**31, 2**32 - 1])
)
HOT = """
import os, sqlite3, sys
db = sqlite3.connect(sys.argv[1], isolation_level=None)
db.execute("PRAGMA cache_size = 1")
db.execute("BEGIN IMMEDIATE")
for n in range(400):
    db.execute("INSERT INTO mappings VALUES (?, ?)", (str(n), '"' + "x" * 500 + '"'))
os._exit(9)
"""


# What lies beside a logbook (SQLite file format, sections 3 and 4)

CANARY = b"/canary"
MAGIC = bytes.fromhex("d9d505f920a163d7")


def mostly(right, *wrong):
    """What a forger would write, and now and then something else: a file that is wrong in every
    place is refused for the first.
    """
    return st.sampled_from([right] * 9 + list(wrong))


@st.composite
def super_record(draw, canary):
    """The name of a file to be deleted, whole or hurt, as the end of a rollback journal."""
    name = draw(mostly(canary, canary + b"\0", b"./canary", b"", b"x" * 300))
    length = draw(mostly(len(name), 0, 2**31, len(name) + 1))
    total = draw(mostly(sum(name) & 0xFFFFFFFF, 0))
    page = draw(mostly(0x40000000 // 4096 + 1, 0, 1))
    parts = struct.pack(">I", page) + name + struct.pack(">II", length, total)
    return parts + draw(mostly(MAGIC, MAGIC[::-1], b""))


@st.composite
def rollback_journal(draw, hot, canary):
    """A journal that was left behind, with its header, its pages and its end drawn anew."""
    head = bytearray(hot[:28])
    for place in draw(st.sets(mostly(8, 12, 16, 20, 24), max_size=draw(mostly(0, 3)))):
        struct.pack_into(">I", head, place, draw(NUMBER))
    body = bytearray(hot[28:])
    if not draw(mostly(True, False, False)):
        for place in draw(st.lists(st.integers(0, len(body) - 1), max_size=8)):
            body[place] ^= draw(st.integers(1, 255))
    body = body[: draw(mostly(len(body), len(body) // 2, 484, 0))]
    end = draw(st.one_of(super_record(canary), st.just(b""), BYTES))
    before, after = (b"\0" * draw(mostly(0, 1, 512, 4096)) for _ in range(2))
    return bytes(head) + bytes(body) + before + end + after


@st.composite
def write_ahead_log(draw):
    """Header and frames, with numbers that may fit."""
    head = struct.pack(
        ">8I",
        draw(st.sampled_from([0x377F0682, 0x377F0683, 0])),
        draw(st.sampled_from([3007000, 0])),
        draw(st.sampled_from([4096, 512, 65536, 1, 0, 2**31])),
        *(draw(NUMBER) for _ in range(5)),
    )
    frames = b"".join(
        struct.pack(">6I", *(draw(NUMBER) for _ in range(6))) + draw(BYTES).ljust(4096, b"\0")
        for _ in range(draw(st.integers(0, 3)))
    )
    return head + frames


class Journals:
    """A logbook with something beside it: it opens as it was or is refused, and no other file is
    touched.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self.good = folder / "good.blunt"
        with Logbook.create(self.good) as book:
            book.commit("fill", put=[Rig(id="r1", name="Cable")])
            book.compact()
        hurt = folder / "hurt.blunt"
        shutil.copy(self.good, hurt)
        subprocess.run([sys.executable, "-c", HOT, str(hurt)], check=False)
        self.hurt = hurt.read_bytes()
        self.canary = folder / "canary"
        self.canary.write_text("precious")  # an empty one is never deleted
        hot = (folder / "hurt.blunt-journal").read_bytes()
        name = str(self.canary).encode()
        self.cases = st.one_of(
            *[st.tuples(st.just("-journal"), rollback_journal(hot, name))] * 2,
            st.tuples(st.just("-wal"), write_ahead_log()),
            st.tuples(st.just("-shm"), BYTES),
            st.tuples(st.just("-journal"), BYTES),
        )

    def run(self, case: tuple[str, bytes]) -> None:
        ending, beside = case
        path = self.folder / "try.blunt"
        for name in ("", "-journal", "-wal", "-shm"):
            path.with_name(path.name + name).unlink(missing_ok=True)
        path.write_bytes(self.hurt if ending == "-journal" else self.good.read_bytes())
        path.with_name(path.name + ending).write_bytes(beside)
        with suppress(UserFixable), Logbook.reading(path) as book:
            book.contents()
        with suppress(UserFixable), Logbook.open(path) as book:
            book.contents()
        assert self.canary.exists(), "a file that the journal names is gone"


# Settings

INI = st.one_of(
    st.text(max_size=30),
    st.sampled_from(["@ByteArray(\\x1\\xd9)", "@Rect(1 2 3)", "@Point(a b)", "@Invalid()", "@@"]),
    st.binary(max_size=40).map(
        lambda raw: "@Variant(" + "".join(f"\\x{byte:x}" for byte in raw) + ")"
    ),
    st.lists(st.text(string.printable, max_size=9), max_size=5).map(", ".join),
    st.just("x" * 5000),
    st.just("/" + "y" * 300 + "/a.blunt"),
    st.integers().map(str),
)
KEYS = ("recent", "theme", "geometry", "stop", "last_look", "columns/runs", "allowed/x")


class SettingsFiles:
    """Settings that somebody edited or a disk spoiled: each is read as something."""

    cases = st.one_of(
        st.dictionaries(st.sampled_from(KEYS), INI).map(
            lambda found: "[General]\n" + "\n".join(f"{key}={one}" for key, one in found.items())
        ),
        st.text(max_size=200),
    )

    def __init__(self, folder: Path) -> None:
        os.environ["XDG_CONFIG_HOME"] = str(folder / "config")
        self.file = folder / "config" / "blunt-ruler" / "settings.ini"
        self.file.parent.mkdir(parents=True, mode=0o700)

    def run(self, case: str) -> None:
        from blunt_ruler.ui.desk.settings import Settings

        self.file.write_text(case, "utf-8", "surrogatepass")
        self.file.chmod(0o600)
        found = Settings()
        for name in ("recent", "theme", "geometry", "stop", "last_look"):
            getattr(found, name)
        assert all(isinstance(one, int) for one in found.columns("runs"))
        found.add_recent(self.file)
        assert found.recent[0] == self.file.resolve()


# Part files

FIELDS = ("kind", "name", "length_mm", "board_power_w", "lanes", "generation", "hops", "ports", "x")
JSON = st.recursive(
    st.one_of(st.none(), st.booleans(), st.integers(), st.floats(), st.text(max_size=20)),
    lambda inner: st.one_of(
        st.lists(inner, max_size=4),
        st.dictionaries(st.one_of(st.sampled_from(FIELDS), st.text(max_size=8)), inner, max_size=5),
    ),
    max_leaves=20,
)
PART = st.fixed_dictionaries(
    {"kind": st.sampled_from(["card", "host", "dock", "link", "supply", "rig", ""])},
    optional=dict.fromkeys(FIELDS[1:], JSON),
)


class PartFiles:
    """Catalogues of parts in JSON or CSV: parts come out, or a sentence of one line."""

    cases = st.one_of(
        st.lists(PART, max_size=3).map(json.dumps),
        PART.map(json.dumps),
        JSON.map(json.dumps),
        st.lists(st.lists(st.text(max_size=12), max_size=6), max_size=5).map(
            lambda rows: ",".join(FIELDS[:6]) + "\n" + "\n".join(",".join(row) for row in rows)
        ),
        st.text(max_size=100),
    )

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def run(self, case: str) -> None:
        from blunt_ruler.exchange.parts.part_files import read_part_file

        for ending in ("json", "csv"):
            path = self.folder / f"parts.{ending}"
            path.write_text(case, "utf-8", "surrogatepass")
            try:
                read_part_file(path, Contents.empty(), lambda: "id")
            except UserFixable as error:
                assert "\n" not in str(error), str(error)


KINDS = {"journals": Journals, "settings": SettingsFiles, "parts": PartFiles}


def main() -> None:
    kind, count, start, folder = sys.argv[1], int(sys.argv[2]), int(sys.argv[3]), Path(sys.argv[4])
    resource.setrlimit(resource.RLIMIT_AS, (3 << 30, 3 << 30))
    one = KINDS[kind](folder)
    last = folder / "last"

    @seed(start)
    @settings(
        max_examples=count, deadline=None, database=None, suppress_health_check=list(HealthCheck)
    )
    @given(one.cases)
    def attempt(case):
        last.write_text(repr(case), "utf-8", "backslashreplace")
        signal.alarm(SECONDS)  # what takes longer ends the process
        one.run(case)
        signal.alarm(0)

    attempt()


if __name__ == "__main__":
    main()
