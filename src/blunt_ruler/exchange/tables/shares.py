"""Tables of percentages, or of changes, of one rig."""

import re
from collections.abc import Sequence
from dataclasses import dataclass

from blunt_ruler.exchange.tables.arithmetic import Number, is_hundred
from blunt_ruler.exchange.tables.asking import Asked
from blunt_ruler.exchange.tables.blocks import Block
from blunt_ruler.exchange.tables.lines import Line
from blunt_ruler.exchange.tables.roles import Roles
from blunt_ruler.exchange.tables.sheet import RATES
from blunt_ruler.exchange.tables.words import SHARE, Said

PERCENT, CHANGE = "percentages", "changes in percent"


@dataclass(frozen=True, slots=True)
class Shares:
    """How percentages are meant: of which rig, whether as changes, and whether as losses."""

    base: str
    change: bool
    loss: bool


def shares_in(
    asked: Asked,
    block: Block,
    lines: Sequence[Line],
    columns: Sequence[Line],
    numbers: Sequence[Sequence[Number]],
    over: Said,
    roles: Roles,
) -> Shares | None:
    """How a table is read whose figures are all percentages of one rig; None for any other."""
    across = roles.rig == "column"
    each = columns if across else lines
    values = [*zip(*numbers, strict=True)] if across else [*numbers]
    names = [line.name or line.rig for line in each]
    hundred = (
        [name for name, of in zip(names, values, strict=True) if name and is_hundred(of)]
        if roles.rig in ("row", "column") and roles.case != roles.rig
        else []
    )
    texts = [cell for _, _, row in block.body for cell in (row[p] for p in block.figures) if cell]
    marked = [cell for cell in texts if re.search(r"\d\s*(?:%|[x×])$|^[x×]\s*\d", cell)]
    said = over.measure == SHARE or (len(marked) == len(texts) and bool(texts))
    if not said and not hundred:
        return None
    base = next((name for name in names if name and name.lower() in over.head.lower()), "")
    base = hundred[0] if len(hundred) == 1 else base
    if not said:
        answer = asked.ask(
            "percent",
            f"All figures of {hundred[0]} are the same: "
            f"are these percentages of {hundred[0]}, or frame rates?",
            (PERCENT, RATES),
            proposed=PERCENT,
        )
        if answer == RATES:
            return None
    signed = any(re.match(r"[+−–-]\s*\d", cell) for cell in texts)
    gains = re.search(r"gain|uplift|faster|slower|change|diff|loss|improve|Δ", over.head, re.I)
    of_one = re.search(r"=\s*100|% of|relative|index|scaling|retained", over.head, re.I)
    sure = PERCENT if hundred or of_one else CHANGE if signed or gains else ""
    how = asked.ask(
        "meaning",
        f"Is {texts[0]} a percentage of another rig, or a change against it?",
        (PERCENT, CHANGE),
        sure=sure,
        proposed=PERCENT,
    )
    loss = re.search(r"loss|lost|slower", over.head, re.I) is not None and not signed
    return Shares(base, how == CHANGE, loss)
