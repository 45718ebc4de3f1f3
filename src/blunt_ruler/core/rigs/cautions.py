"""Cautions for hands, mains and heavy cards, shown at the step where they matter.

They are the usual ones and do not replace the makers' manuals, the local electrical code, or a
licensed electrician.
"""

from dataclasses import dataclass

DEFER = (
    "Follow the makers' manuals and the local electrical code; leave mains work to a licensed "
    "electrician."
)


@dataclass(frozen=True, slots=True)
class Caution:
    """One caution."""

    key: str
    says: str


CAUTIONS = {
    caution.key: caution
    for caution in (
        Caution(
            "power_off",
            "Switch the supply off and unplug it, and the host too, before you touch a card, a "
            "slot or a plug; wait until every light is out.",
        ),
        Caution(
            "never_open",
            "Never open a power supply: it holds a dangerous charge even when unplugged.",
        ),
        Caution("earth", "Earth yourself before you touch a board, and hold cards by the edges."),
        Caution(
            "second_supply",
            "A second supply must be switched on and off together with the host.",
        ),
        Caution("ribbon", "Do not crease, pinch or sharply fold a ribbon or flat cord."),
        Caution("open_board", "Nothing that conducts may lie under or touch an open board."),
        Caution("heavy", "Support a heavy card: a slot does not carry it."),
        Caution(
            "cutting",
            "Bent metal and cut cases are at your own risk: edges cut, chips short out boards, "
            "and warranties end.",
        ),
        Caution("under_load", "Never unplug a link while it is under load."),
        Caution("hot", "Coolers, plates and plugs get hot enough to burn; let them cool."),
        Caution(
            "plugs",
            "Push power plugs home until they lock; a 12V-2x6 plug that is not fully in can melt.",
        ),
    )
}
