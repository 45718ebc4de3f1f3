"""What is typed into a rig's row on the Bench: a name, a part, where the picture goes.

A part is known by its name; what no part is called becomes a new one. A link may be typed the way
it is spoken: "PCIe Gen 4 x8", "USB4 40 Gb/s" or "host port: 4.0 x4; cable: 40 Gb/s" makes one with
those hops; a standard named alone is asked about.
"""

import re
from collections.abc import Callable, Sequence

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.records.edits import Edit, checked_name, free_name
from blunt_ruler.core.records.hardware import Card, Link, Rig, ScreenPath
from blunt_ruler.core.records.records import Contents, Record, Review
from blunt_ruler.core.rigs.links import hop_words, screen_words
from blunt_ruler.core.rigs.notation import (
    NOT_KNOWN,
    BadSpec,
    Incomplete,
    parse_hops,
    parse_screen,
)
from blunt_ruler.core.rigs.rig_edits import PART_MODELS, PART_TABLES, Part, new_rig, rigs_with
from blunt_ruler.core.rigs.strip import PARTS, PICTURE_WORDS, Place
from blunt_ruler.core.text import MISSING, count_text
from blunt_ruler.core.values import LONGEST_NAME

NewId = Callable[[], str]
BUILT_IN = re.compile(
    r"(?:the )?(?:built-?in|integrated|internal|on-?board)(?: (?:graphics|gpu|card))?|igpu", re.I
)
NAMED_BUILT_IN = re.compile(r"\b(?:built-?in|integrated|on-?board|igpu)\b", re.I)
NONE_WORDS = ("", MISSING, "-", "none")


def type_rig(contents: Contents, review: Review | None, name: str, new_id: NewId) -> Edit:
    """A new rig under a name, on the host of the last rig of the review."""
    name = _name(contents, name)
    made = new_rig(contents, review, new_id)
    rig, *rest = made.put
    assert isinstance(rig, Rig)
    seats = review.seats if review else ()
    last = contents.rigs.get(seats[-1].rig_id) if seats else None
    host = last.host_id if last is not None else rig.host_id
    rig = rig.model_copy(update={"name": name, "host_id": host})
    return Edit(f"new rig {name}", (rig, *rest))


def _name(contents: Contents, typed: str, but: str = "") -> str:
    taken = [one.name for one in contents.rigs.values() if one.id != but]
    return checked_name(typed, taken, "rig", "rig's", BadSpec)


def type_place(
    contents: Contents, rig_ids: Sequence[str], place: Place, typed: str, new_id: NewId
) -> Edit | None:
    """What was typed at a place of some rigs; None where it says what is there already.

    Raises BadSpec with a sentence for what cannot stand.
    """
    rigs = [contents.rigs[key] for key in rig_ids]
    typed = " ".join(typed.split())
    made: list[Record] = []
    if place is Place.RIG:
        update: dict[str, object] = {"name": _name(contents, typed, rigs[0].id)}
        rigs = rigs[:1]
    elif place is Place.PICTURE:
        update = _picture(typed)
    elif place in PARTS:
        part_id, made = _part(contents, place, typed, new_id, rigs[0].host_id)
        update = {f"{place}_id": part_id}
    else:
        raise BadSpec(str(place), "it is not typed here", "Enter its facts beside the table")
    changed = [rig.model_copy(update=update) for rig in rigs]
    if not made and changed == rigs:
        return None
    return Edit(f"{place} of {_whose(rigs)}", (*made, *changed))


def typed_says(contents: Contents, rig_id: str | None, place: Place, typed: str) -> str:
    """What a text would do at a place of a rig, while it is typed; None for a new rig.

    Raises BadSpec for what cannot stand.
    """
    typed = " ".join(typed.split())
    if place is Place.RIG:
        name = _name(contents, typed, rig_id or "") if typed or rig_id else ""
        return f"a new rig, {name}" if rig_id is None and name else ""
    if place is Place.PICTURE:
        said = _picture(typed)
        made = contents.rigs[rig_id or ""].model_copy(update=said)
        return screen_words(made.screen) if "screen" in said else str(made.screen_path)
    if place not in PARTS:
        return ""
    rig = contents.rigs.get(rig_id or "")
    host_id = rig.host_id if rig is not None else None
    part_id, new = _part(contents, place, typed, lambda: "new", host_id)
    if part_id is None:
        return f"no {place}"
    if not new:
        part = getattr(contents, PART_TABLES[place])[part_id]
        users = count_text(len(rigs_with(contents, place, part_id)), "rig")
        return f"{part.name}, on {users} so far"
    part = new[0]
    hops = part.hops if isinstance(part, Link) else ()
    if isinstance(part, Card) and part.built_in:
        return "a new card, built into the host"
    return f"a new {place}: {', '.join(map(hop_words, hops))}" if hops else f"a new {place}"


def likely_links(typed: str) -> tuple[str, ...]:
    """What may be meant by a link that is named by its standard or its width alone."""
    try:
        parse_hops(typed)
    except Incomplete as error:
        return error.likely
    except UserFixable:
        pass
    return ()


def put_part(contents: Contents, rig_ids: Sequence[str], kind: str, part: Part) -> Edit:
    """A part on some rigs; one that the logbook does not have yet is added."""
    rigs = [contents.rigs[key] for key in rig_ids]
    known = part.id in getattr(contents, PART_TABLES[kind])
    changed = [rig.model_copy(update={f"{kind}_id": part.id}) for rig in rigs]
    new = () if known else (part,)
    return Edit(f"{part.name} on {_whose(rigs)}", (*new, *changed))


def _whose(rigs: Sequence[Rig]) -> str:
    return rigs[0].name if len(rigs) == 1 else count_text(len(rigs), "rig")


def _part(
    contents: Contents, place: Place, typed: str, new_id: NewId, host_id: str | None
) -> tuple[str | None, list[Record]]:
    """The id of the part that was typed, and the records that are made for it, the part first."""
    if place is Place.CARD and BUILT_IN.fullmatch(typed):
        return _built_in(contents, host_id, new_id)
    if typed.lower() in NONE_WORDS:
        return None, []
    table = getattr(contents, PART_TABLES[place])
    named = {part.name.lower(): part.id for part in table.values()}
    if typed.lower() in named:
        return named[typed.lower()], []
    if len(typed) > LONGEST_NAME:
        what = f"its name has {len(typed)} letters"
        raise BadSpec(str(place), what, f"Give 1 to {LONGEST_NAME}")
    if place is Place.CARD and NAMED_BUILT_IN.search(typed):
        card = Card(id=new_id(), name=typed, built_in=True)
        return card.id, [card, *_with_built_in(contents, host_id, card.id)]
    made: Part = PART_MODELS[place](id=new_id(), name=typed)
    if isinstance(made, Link):
        made = _spoken_link(made, typed, [part.name for part in table.values()])
    return made.id, [made]


def _built_in(contents: Contents, host_id: str | None, new_id: NewId) -> tuple[str, list[Record]]:
    """A host's own graphics: what the host names, what another rig on it uses, or a new card."""
    host = contents.hosts.get(host_id or "")
    if host is not None and host.built_in_card_id in contents.cards:
        return str(host.built_in_card_id), []
    on_host = [rig for rig in contents.rigs.values() if host_id and rig.host_id == host_id]
    cards = [contents.cards.get(rig.card_id or "") for rig in on_host]
    used = next((card.id for card in cards if card is not None and card.built_in), None)
    made: list[Record] = []
    if used is None:
        name = f"Built-in graphics of {host.name}" if host is not None else "Built-in graphics"
        taken = [card.name for card in contents.cards.values()]
        card = Card(id=new_id(), name=free_name(name[:LONGEST_NAME], taken), built_in=True)
        used, made = card.id, [card]
    return used, [*made, *_with_built_in(contents, host_id, used)]


def _with_built_in(contents: Contents, host_id: str | None, card_id: str) -> list[Record]:
    """A host that now names its own graphics; nothing where it is not known, or names others."""
    host = contents.hosts.get(host_id or "")
    if host is None or host.built_in_card_id in contents.cards:
        return []
    return [host.model_copy(update={"built_in_card_id": card_id})]


def _spoken_link(link: Link, typed: str, taken: Sequence[str]) -> Link:
    """A link with the hops that were typed, where they can be read as such; Incomplete where they
    name a standard or a width alone.
    """
    try:
        hops = parse_hops(typed.replace(";", "\n"))
    except Incomplete:
        raise
    except UserFixable:
        return link
    name = " ".join(NOT_KNOWN.sub(" ", typed).split())  # it may become known
    return link.model_copy(update={"hops": hops, "name": free_name(name, taken)})


def _picture(typed: str) -> dict[str, object]:
    """Where the picture goes, or what screen shows it."""
    plain = typed.lower()
    for path, words in PICTURE_WORDS.items():
        if plain and (words.startswith(plain) or plain in words.split() or plain == str(path)):
            return {"screen_path": path}
    if any(mark in plain for mark in "@×") or "x" in plain:
        return {"screen": parse_screen(typed)}
    raise BadSpec(
        "picture",
        f"“{typed}” is not a screen path",
        f"Write one of {', '.join(PICTURE_WORDS[path] for path in ScreenPath)}, or 1920x1080@60",
    )
