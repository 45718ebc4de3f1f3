"""A rig against what one could buy instead, which nobody benchmarked; and what a later host costs.

Frames of an alternative are published or estimated, and every sentence says which.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from blunt_ruler.core.records.alternatives import AlternativeKind
from blunt_ruler.core.records.records import Contents, Role
from blunt_ruler.core.sentences import Figure, Sentence, Span, sentence
from blunt_ruler.core.text import amount, list_text
from blunt_ruler.core.worth.costs import CARD, DOCK, HOST, LINK
from blunt_ruler.core.worth.figures import WorthFigure, money_text
from blunt_ruler.core.worth.money import level_price
from blunt_ruler.core.worth.report import AlternativeRow, Worth, WorthRow

ALTERNATIVE = "alternative"
PRICE_TO_WIN, GAIN_TO_WIN = "price_to_win_over", "gain_to_win_over"
CARRIES_OVER, PATH = "carries_over", "upgrade_path"
WHOLE_COMPUTERS = (AlternativeKind.LAPTOP, AlternativeKind.TOWER, AlternativeKind.PROCESSOR)


@dataclass(frozen=True, slots=True)
class ToWin:
    """What a rig would have to cost, or to gain, for its gained frames to cost as little as those
    of an alternative: p · a/b, and its own price over the alternative's price for each frame.

    `wins` is whether they cost less already; `ends` are the prices at the least and at the most of
    the alternative's frames, where these are a range.
    """

    row: WorthRow
    other: AlternativeRow
    price: float
    gain: float
    wins: bool
    ends: tuple[float, float] | None = None

    @property
    def is_open(self) -> bool:
        """Whether the range of the alternative's frames decides who wins."""
        cost = self.row.value(WorthFigure.COST) or 0.0
        return self.ends is not None and min(self.ends) <= cost <= max(self.ends)


def to_win(row: WorthRow, other: AlternativeRow) -> ToWin | None:
    """A rig against an alternative; None where either has no price for a gained frame."""
    cost, gained = row.value(WorthFigure.COST), row.value(WorthFigure.GAINED)
    each, theirs = other.per_gained.value, other.gained.value
    if None in (cost, gained, each, theirs) or row.column.role is Role.BASE:
        return None
    assert cost is not None and gained is not None and each is not None and theirs is not None
    if gained <= 0 or each <= 0:
        return None
    price = level_price(gained, other.cost.value or 0.0, theirs)
    base = (other.frames.value or 0.0) - theirs
    ends = None
    if other.least is not None and other.most is not None and other.least > base:
        low, high = (
            level_price(gained, other.cost.value or 0.0, end - base)
            for end in (other.most, other.least)
        )
        ends = low, high
    return ToWin(row, other, price, cost / each, cost < price, ends)


def alternative_sentence(worth: Worth, one: AlternativeRow) -> Sentence:
    """An alternative by itself: its price, its frames, and what each gained one costs."""
    key, name = f"worth.alternative.{one.alternative.id}", one.alternative.id
    base = worth.board.base.name if worth.board.base else "the base"
    missing = [what for answer in (one.cost, one.frames) for what in answer.missing]
    if missing:
        return sentence(key, f"Not known: {list_text(list(dict.fromkeys(missing)))}.")
    said: list[Span] = [one.name]
    assert one.cost.value is not None and one.frames.value is not None
    cost = money_text(one.cost.value, worth.currency)
    fps = amount(one.frames.value, "fps", 0)
    said += [": ", Figure(cost, f"{ALTERNATIVE}_cost", name, "", one.cost.value)]
    said += [" for about ", Figure(fps, f"{ALTERNATIVE}_fps", name, "", one.frames.value)]
    if one.least is not None and one.most is not None:
        said.append(f" ({one.least:.0f} to {one.most:.0f})")
    each = one.per_gained.value
    if each is not None:
        text = money_text(each, worth.currency)
        said += [", ", Figure(text, f"{ALTERNATIVE}_cost_per_gained_frame", name, "", each)]
        said.append(f" for each gained over {base}")
    elif one.gained.value is not None:
        said.append(f", which gains nothing over {base}")
    if one.alternative.kind in WHOLE_COMPUTERS:
        said.append("; it stands in for the host too")
    if one.alternative.source:
        said.append(f"; frames from {one.alternative.source}")
    return sentence(key, *said, ".")


def to_win_sentence(worth: Worth, found: ToWin) -> Sentence:
    """What a rig would have to cost or gain to win over an alternative, or that it wins."""
    rig, other = found.row, found.other
    key = f"worth.to_win.{rig.rig_id}.{other.alternative.id}"
    text, of = money_text(found.price, worth.currency), other.alternative.id
    price = Figure(text, f"{PRICE_TO_WIN}.{of}", rig.rig_id, "", found.price)
    if found.is_open and found.ends is not None:
        least, most = found.ends
        return sentence(
            key,
            f"Whether {rig.column.name} gains frames more cheaply than {other.name} depends on "
            "frames nobody measured: it would have to cost at most ",
            price,
            f" ({least:.0f} to {most:.0f}).",
        )
    if found.wins:
        return sentence(
            key,
            f"{rig.column.name} gains frames more cheaply than {other.name}, up to a price of ",
            price,
            ".",
        )
    gained = rig.value(WorthFigure.GAINED) or 0.0
    text = amount(found.gain, "fps", 0)
    gain = Figure(text, f"{GAIN_TO_WIN}.{of}", rig.rig_id, "", found.gain)
    less = money_text(round((rig.value(WorthFigure.COST) or 0.0) - found.price), worth.currency)
    return sentence(
        key,
        f"To gain frames as cheaply as {other.name}, {rig.column.name} would have to cost at most ",
        price,
        f" ({less} less than now), or gain ",
        gain,
        f" instead of {gained:.0f}.",
    )


def pairs_to_win(worth: Worth) -> Iterator[ToWin]:
    """Every rig under test against every alternative."""
    for row in worth.rows:
        if row.column.role is not Role.TESTED:
            continue
        for other in worth.alternatives:
            if (found := to_win(row, other)) is not None:
                yield found


@dataclass(frozen=True, slots=True)
class Later:
    """What of a rig goes on to the next host: its lines, what they are worth, and all of a path.

    `path` is what the rig still costs and the next host with it; None without a price of one.
    """

    row: WorthRow
    parts: tuple[str, ...]
    worth: float | None
    link: str
    path: float | None


def later(contents: Contents, worth: Worth, row: WorthRow) -> Later | None:
    """What carries over; None for a rig without a card of its own outside its host."""
    rig = contents.rigs[row.rig_id]
    host = next((line for line in row.lines if line.kind == HOST), None)
    kept = [line for line in row.lines if line.kind in (CARD, DOCK, LINK)]
    if host is None or rig.dock_id is None or not kept:
        return None
    link = contents.link_of(row.rig_id)
    values = [line.worth.value for line in kept]
    known = [value for value in values if value is not None]
    cost, next_host = row.value(WorthFigure.COST), worth.review.worth.next_host
    return Later(
        row,
        tuple(line.what for line in kept),
        sum(known) if len(known) == len(values) else None,
        link.name if link is not None else "",
        None if cost is None or next_host is None else cost + next_host,
    )


def later_sentence(worth: Worth, found: Later) -> Sentence:
    """What carries over to the next host, what it has to offer, and what the path costs."""
    row = found.row
    verb = "carries" if len(found.parts) == 1 else "carry"
    parts = list_text(list(found.parts))
    said: list[Span] = [f"{parts} of {row.column.name} {verb} over to the next host"]
    if found.worth is not None:
        text = money_text(found.worth, worth.currency)
        said += [" (worth ", Figure(text, CARRIES_OVER, row.rig_id, "", found.worth), ")"]
    if found.link:
        said.append(f" if that takes the {found.link}")
    if found.path is not None:
        text = money_text(found.path, worth.currency)
        next_host = money_text(worth.review.worth.next_host or 0.0, worth.currency)
        said += [f"; with a host at {next_host} the path costs ",
                 Figure(text, PATH, row.rig_id, "", found.path), " in all"]  # fmt: skip
    return sentence(f"worth.later.{row.rig_id}", *said, ".")


def later_sentences(contents: Contents, worth: Worth) -> Iterator[Sentence]:
    """The same of every rig that is under test, where somebody asked what a next host costs."""
    if worth.review.worth.next_host is None:
        return
    for row in worth.rows:
        if row.column.role is Role.TESTED and (found := later(contents, worth, row)) is not None:
            yield later_sentence(worth, found)
