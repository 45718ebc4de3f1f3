"""The tables of a logbook file and how an older file becomes a current one.

Every record is one row: an id and its JSON body. The columns that are searched are generated
from the body by SQLite itself, so that they cannot disagree with it. The views flatten results
for other tools that read SQLite.
"""

import sqlite3
from collections.abc import Mapping
from contextlib import closing
from functools import cache

APPLICATION_ID = 0x424C5255  # "BLRU"
SCHEMA_VERSION = 12


def _table(name: str, *searched: str) -> str:
    columns = ["id TEXT PRIMARY KEY", "body TEXT NOT NULL CHECK (json_valid(body))", *searched]
    return f"CREATE TABLE {name} (\n  " + ",\n  ".join(columns) + "\n)"


def _from_body(column: str, references: str = "") -> str:
    target = f" REFERENCES {references} DEFERRABLE INITIALLY DEFERRED" if references else ""
    return f"{column} TEXT GENERATED ALWAYS AS (json_extract(body, '$.{column}')) STORED{target}"


VERSION_1 = (
    *(_table(part, _from_body("name")) for part in ("hosts", "cards", "docks", "links")),
    _table(
        "rigs",
        _from_body("name"),
        _from_body("host_id", "hosts(id)"),
        _from_body("card_id", "cards(id)"),
        _from_body("dock_id", "docks(id)"),
        _from_body("link_id", "links(id)"),
    ),
    _table("titles", _from_body("name")),
    _table("cases", _from_body("title_id", "titles(id)")),
    """CREATE TABLE traces (
  sha256 TEXT PRIMARY KEY,
  frames INTEGER NOT NULL,
  parquet BLOB NOT NULL
)""",
    _table(
        "runs",
        _from_body("rig_id", "rigs(id)"),
        _from_body("case_id", "cases(id)"),
        _from_body("decision"),
        _from_body("trace_sha256", "traces(sha256)"),
    ),
    "CREATE INDEX runs_by_cell ON runs (rig_id, case_id)",
    _table("reviews", _from_body("name")),
    """CREATE TABLE journal (
  seq INTEGER PRIMARY KEY,
  at TEXT NOT NULL,
  label TEXT NOT NULL,
  state TEXT NOT NULL CHECK (state IN ('done', 'undone', 'dropped'))
)""",
    """CREATE TABLE journal_images (
  seq INTEGER NOT NULL REFERENCES journal(seq),
  tbl TEXT NOT NULL,
  id TEXT NOT NULL,
  before TEXT,
  after TEXT
)""",
    "CREATE INDEX journal_images_by_seq ON journal_images (seq)",
    """CREATE TABLE mappings (
  header TEXT PRIMARY KEY,
  body TEXT NOT NULL CHECK (json_valid(body))
)""",
    """CREATE VIEW results AS SELECT
  runs.id AS run,
  rigs.name AS rig,
  titles.name AS title,
  json_extract(cases.body, '$.scene') AS scene,
  json_extract(cases.body, '$.resolution') AS resolution,
  json_extract(cases.body, '$.preset') AS preset,
  json_extract(runs.body, '$.repeat') AS repeat,
  runs.decision AS decision,
  coalesce(json_extract(runs.body, '$.figures.average_fps'),
           json_extract(runs.body, '$.typed.average_fps')) AS average_fps,
  coalesce(json_extract(runs.body, '$.figures.low_1.percentile'),
           json_extract(runs.body, '$.typed.low_1_fps')) AS low_1_fps_percentile,
  json_extract(runs.body, '$.figures.frames') AS frames,
  json_extract(runs.body, '$.figures.duration_s') AS duration_s
FROM runs
JOIN rigs ON rigs.id = runs.rig_id
JOIN cases ON cases.id = runs.case_id
JOIN titles ON titles.id = cases.title_id""",
)

VERSION_2 = (_table("ticks", _from_body("rig_id", "rigs(id)"), _from_body("step")),)

VERSION_3 = (_table("plans"),)

VERSION_4 = (_table("published", _from_body("source")),)

VERSION_5 = (
    _table("prices", _from_body("rig_id", "rigs(id)")),
    _table("readings", _from_body("rig_id", "rigs(id)")),
)

# Which open logbook wrote an edit, so that undo takes back one's own.
VERSION_6 = ("ALTER TABLE journal ADD COLUMN session TEXT NOT NULL DEFAULT ''",)

# Runs hold the course of their pass, cases what was called their scene: an older program would
# refuse the first body it reads, so it is told by the version.
VERSION_7 = ()

# Typed figures say how they were read, runs what happened instead of a figure. Before, every case
# claimed to be a scripted route, which nobody could say or unsay.
VERSION_8 = (
    "UPDATE cases SET body = json_remove(body, '$.method') "
    "WHERE json_extract(body, '$.method') = 'scripted route'",
)

# What changed during a test, own pre-flight steps; docks have sockets, links a length, prices a
# past and bundles.
VERSION_9 = (_table("changes"), _table("own_steps"))

# In which order edits were done and undone: what several sessions leave to redo has no other order.
# Of one session the edit undone last is the oldest that is undone.
VERSION_10 = (
    "ALTER TABLE journal ADD COLUMN turn INTEGER NOT NULL DEFAULT 0",
    "UPDATE journal SET turn = CASE state WHEN 'undone'"
    " THEN 2 * (SELECT max(seq) FROM journal) - seq ELSE seq END",
    "CREATE INDEX journal_by_turn ON journal (state, turn)",
    # Sessions had the name of the computer in them, which is nobody's business; all are closed.
    "UPDATE journal SET session = ''",
    # What says that a trace was packed by this program on this machine.
    "ALTER TABLE traces ADD COLUMN signed TEXT",
)

# Runs read from recordings: small pictures of what was read stand behind them.
VERSION_11 = (
    """CREATE TABLE pictures (
  sha256 TEXT PRIMARY KEY,
  png BLOB NOT NULL
)""",
)

# Troubles of rigs, and what one could buy instead; a review's write-up holds a script, which an
# older program would not know.
VERSION_12 = (_table("diary"), _table("alternatives"))

MIGRATIONS: dict[int, tuple[str, ...]] = {
    1: VERSION_1,
    2: VERSION_2,
    3: VERSION_3,
    4: VERSION_4,
    5: VERSION_5,
    6: VERSION_6,
    7: VERSION_7,
    8: VERSION_8,
    9: VERSION_9,
    10: VERSION_10,
    11: VERSION_11,
    12: VERSION_12,
}
"""Statements that bring a file from the version before to this one; 1 makes an empty file."""


def structure(db: sqlite3.Connection) -> dict[str, str]:
    """What a file is made of, all of it: kind and name → the statement that made it.

    SQLite's own indexes have no statement. Nothing is left out by its name: a trigger can be
    called whatever one likes by writing the schema itself.
    """
    return {
        f"{kind} {name} on {table}": " ".join(str(sql or "").split())
        for kind, name, table, sql in db.execute(
            "SELECT type, name, tbl_name, sql FROM sqlite_master"
        )
    }


@cache
def expected_structure(version: int) -> Mapping[str, str]:
    """What a sound file of a version is made of."""
    with closing(sqlite3.connect(":memory:")) as db:
        for step in range(1, version + 1):
            for statement in MIGRATIONS[step]:
                db.execute(statement)
        return structure(db)
