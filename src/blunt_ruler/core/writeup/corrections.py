"""Corrections: what the journal says was changed after it was first entered."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from blunt_ruler.core.records.records import Contents, Review
from blunt_ruler.core.sentences import Sentence, sentence
from blunt_ruler.core.text import fps_text, list_text


@dataclass(frozen=True, slots=True)
class PastEdit:
    """One edit of the journal that stands: when, its name, and rows (table, before, after)."""

    at: str
    label: str
    rows: tuple[tuple[str, str | None, str | None], ...]


def corrections(
    contents: Contents, review: Review, edits: Sequence[PastEdit]
) -> tuple[Sentence, ...]:
    """Runs and prices of a review that were changed after they were first entered, oldest first."""
    rigs = {seat.rig_id for seat in review.seats}
    found = []
    for number, edit in enumerate(edits):
        for table, before, after in edit.rows:
            if before is None or table not in ("runs", "prices", "readings"):
                continue
            old, new = _body(before), _body(after)
            if old is None or not isinstance(old.get("id"), str):
                continue
            if table == "runs" and not _of_review(old, review, rigs):
                continue
            if table == "readings" and old.get("rig_id") not in rigs:
                continue
            what = _changed(old, new)
            if what:
                name = _name(contents, table, old)
                key = f"corrections.{number}.{old['id']}"
                found.append(sentence(key, f"{edit.at[:10]}: {name}: {what}."))
    return tuple(found)


def _body(text: str | None) -> dict[str, Any] | None:
    """A record as the journal keeps it; None where it was not there, or cannot be read."""
    try:
        found = json.loads(text) if text is not None else None
    except (ValueError, RecursionError):
        return None
    return found if isinstance(found, dict) else None


def _of_review(run: dict[str, Any], review: Review, rigs: set[str]) -> bool:
    return run.get("rig_id") in rigs and run.get("case_id") in review.case_ids


def _name(contents: Contents, table: str, body: dict[str, Any]) -> str:
    if table == "runs":
        rig = contents.rigs.get(body["rig_id"])
        case = contents.case_label(body["case_id"]) if body["case_id"] in contents.cases else ""
        return f"pass {body.get('repeat', 1)} of {case} on {rig.name if rig else body['rig_id']}"
    if table == "readings":
        rig = contents.rigs.get(body["rig_id"])
        return f"readings of {rig.name if rig else body['rig_id']}"
    for parts in (contents.hosts, contents.cards, contents.docks, contents.links):
        if body["id"] in parts:
            return f"price of {parts[body['id']].name}"
    return f"price of {body.get('name') or body['id']}"


def _changed(old: dict[str, Any], new: dict[str, Any] | None) -> str:
    """What was changed, in words; blank where nothing was that a figure rests on."""
    if new is None:
        return "taken away"
    said = []
    if old.get("decision") != new.get("decision"):
        words = f"{new['decision']}, was {old['decision']}"
        if new.get("reason"):
            words += f" ({new['reason']})"
        said.append(words)
    before, after = _average(old), _average(new)
    if before != after and before is not None and after is not None:
        said.append(f"{fps_text(after)} frames per second, was {fps_text(before)}")
    if old.get("trim") != new.get("trim"):
        said.append("trimmed again" if new.get("trim") else "taken whole again")
    plain = ("rig_id", "case_id", "amount", "currency", "count", "owned", "idle_wall_w")
    said += [
        f"{field.replace('_', ' ')} {new.get(field)}, was {old.get(field)}"
        for field in (*plain, "ambient_c", "noise_distance_m", "background_dba")
        if old.get(field) != new.get(field)
    ]
    return list_text(said)


def _average(run: dict[str, Any]) -> float | None:
    for part in ("figures", "typed"):
        if run.get(part) and run[part].get("average_fps") is not None:
            return float(run[part]["average_fps"])
    return None
