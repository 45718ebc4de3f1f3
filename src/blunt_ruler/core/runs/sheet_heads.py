"""The heads of a sheet: what a column of words is, and what figures under a head are."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

RIG_WORDS = frozenset(
    ["rig", "rigs", "system", "setup", "machine", "computer", "device", "configuration", "config"]
)
CASE_WORDS = frozenset(["case", "cases"])
TITLE_WORDS = frozenset(["title", "titles", "game", "games", "test", "benchmark", "name"])
SCENE_WORDS = frozenset(["scene", "map", "level"])
RESOLUTION_WORDS = frozenset(["resolution", "res"])
PRESET_WORDS = frozenset(["preset", "settings", "quality", "graphics"])
PASS_WORDS = frozenset(["run", "runs", "pass", "repeat", "#", "no", "nr", "number"])
OTHER_WORDS = frozenset(["frames", "duration_s", "duration", "notes", "note", "comment", "remarks"])
BY_WORDS = frozenset(["source", "published by"])
SOURCE_WORDS = BY_WORDS | {"date", "differs", "what differs"}
MEAN_WORDS = frozenset(
    [
        "mean",
        "average",
        "avg",
        "geomean",
        "total",
        "sum",
        "median",
        "overall",
        "ø",
        "all",
        "all games",
    ]
) | {"durchschnitt", "mittel", "mittelwert", "gesamt", "moyenne", "media", "promedio"}

# What figures under a head are. A bare “low” is a preset, unless other heads say “average”.
METRICS = (
    (
        "low",
        re.compile(r"\b1\s?%(?:\s*(?:lows?|fps))*|\blow_1_fps\b|\bp1\b|\b1st percentile\b", re.I),
    ),
    ("minimum", re.compile(r"\b(?:minimum|minimal|min)\.?(?:_fps|\s+fps)", re.I)),
    ("maximum", re.compile(r"\b(?:maximum|maximal|max)\.?(?:_fps|\s+fps)", re.I)),
    (
        "average",
        re.compile(r"\b(?:average_fps|average|avg\.?)(?:\s+fps)?(?!\w)|\bfps\b|frames/s", re.I),
    ),
)
BARE = (
    ("low", re.compile(r"\blows?", re.I)),
    ("minimum", re.compile(r"\bmin(?:imum)?", re.I)),
    ("maximum", re.compile(r"\bmax(?:imum)?", re.I)),
)
# What says that figures are scores and no frame rates.
# Other quantities, where they are all that a head says, or stand at its end as a unit.
QUANTITY = re.compile(
    r"(?:(?:average|avg|max|peak|total|card|gpu|cpu|system|wall|idle|load)\s+)*"
    r"(?:watts?|power(?: draw| consumption)?|tdp|temp(?:erature)?s?|noise(?: level)?|prices?|costs?"
    r"|msrp|vram|memory|ram|load(?:ing)? times?|latency|input lag|ping|(?:release )?years?|rank"
    r"|refresh(?: rate)?|usage|load|utili[sz]ation|clocks?|bandwidth|fan speed|energy)"
    r"\s*(?:[(\[][^)\]]*[)\]]|,\s*\S+)?",
    re.I,
)
UNIT = re.compile(
    r"[(\[,]\s*(?:W|watts?|°\s?C|°\s?F|dB(?:\(?A\)?)?|€|\$|£|USD|EUR|GBP|GB|MB|GiB|GB/s|Gb/s|s|sec|h"
    r"|MHz|GHz|Hz|rpm|Wh|kWh|J|mm)\s*[)\]]?$"
)
FRAME_TIME = re.compile(r"\bframe\s?times?\b|[(\[,]\s*ms\s*[)\]]?$|^ms$|\bms/frame\b", re.I)
SCORE = re.compile(r"\b(?:scores?|points?|pts|marks?|index)\b", re.I)
TENTH = re.compile(r"0[.,]1\s?%|low_01|p0[.,]1", re.I)


def plain_head(name: str) -> str:
    """A head without case and colon."""
    return name.strip().lower().rstrip(":")


def kind_of(name: str) -> str:
    """What a column of words is by its head; blank for none."""
    for kind, words in (
        ("rig", RIG_WORDS),
        ("case", CASE_WORDS),
        ("title", TITLE_WORDS),
        ("scene", SCENE_WORDS),
        ("resolution", RESOLUTION_WORDS),
        ("preset", PRESET_WORDS),
        ("pass", PASS_WORDS),
        ("other", OTHER_WORDS),
        ("source", SOURCE_WORDS),
    ):
        if name in words:
            return kind
    return ""


def is_share(top: str) -> bool:
    """Whether a column holds shares, gains or losses and no rates."""
    top = re.sub(r"(?<!\d)(?:0[.,])?1\s?%", "", top)
    return bool(
        re.search(
            r"\b(?:gain|loss|change|diff|difference|ratio|scaling|vs\.?|improvement|uplift"
            r"|relative|faster|slower)\b|Δ|%|=\s*100\b",
            top,
            re.I,
        )
    )


def is_other(head: str) -> bool:
    """Whether figures under a head are of another quantity than frames: watts, degrees, prices."""
    plain = head.strip().rstrip(":")
    return bool(QUANTITY.fullmatch(plain) or UNIT.search(plain))


def without_frame_time(head: str) -> str:
    """A head without the words that say its figures are frame times."""
    return FRAME_TIME.sub("", head).strip(" ,:;(–-[/")


def is_mean(top: str) -> bool:
    """Whether a head is that of a mean over others."""
    return plain_head(top).partition(" / ")[0] in MEAN_WORDS


@dataclass(frozen=True, slots=True)
class Head:
    """A head: its name, and what figures under it are; blank where it does not say."""

    name: str
    metric: str


def metric_of(head: str) -> str:
    """What figures under a head are; blank where it does not say."""
    found = next((name for name, words in METRICS if words.search(head)), "")
    plain = plain_head(head).rstrip(".")
    return found or next((name for name, words in BARE if words.fullmatch(plain)), "")


def heads_of(names: Sequence[str]) -> list[Head]:
    """Names and metrics of the heads of one side.

    A metric stands at the end of a head. Words like “low” and “max” are presets and names too: the
    heads hold metrics only where all of them do, or where names come again with another metric.
    """
    told = [_split(name, METRICS) for name in names]
    plain = [Head("" if _is_metric(name) else name, "") for name in names]
    bare = [head if head.metric else _split(head.name, BARE) for head in told]
    for found in (bare, told):
        measured = [head for head in found if head.metric]
        kinds: dict[str, set[str]] = {}
        for head in measured:
            kinds.setdefault(head.name, set()).add(head.metric)
        again = all(len(each) > 1 and "average" in each for each in kinds.values())
        whole = found is told and len(measured) == sum(bool(name) for name in names)
        if measured and all(head.name for head in measured) and (again or whole):
            return found
    return plain


def _is_metric(name: str) -> bool:
    """Whether a head is nothing but a metric; “P1” can be a name."""
    head = _split(name, METRICS)
    return bool(head.metric) and not head.name and name.lower() != "p1"


def _split(head: str, metrics: Sequence[tuple[str, re.Pattern[str]]]) -> Head:
    """A head without the metric at its end, where there is one."""
    plain = head.rstrip(" .:)]")
    for metric, words in metrics:
        for found in words.finditer(plain):
            if found.end() == len(plain):
                return Head(plain[: found.start()].rstrip(" /,:;(–-["), metric)
    return Head(head, "")
