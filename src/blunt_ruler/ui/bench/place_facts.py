"""The facts of what is chosen on the Bench: a part, the rig, where its picture goes, its state."""

from collections.abc import Sequence

from pydantic import BaseModel
from PyQt6.QtWidgets import QComboBox, QWidget

from blunt_ruler.core.records.hardware import Card, Dock, Host, Link, Rig, RigState
from blunt_ruler.core.records.records import Contents
from blunt_ruler.core.rigs.fields import UNKNOWN, fields_of
from blunt_ruler.core.rigs.rig_edits import PART_TABLES
from blunt_ruler.core.rigs.strip import PARTS, Place
from blunt_ruler.core.text import count_text
from blunt_ruler.ui.kit.facts import Facts, FactsColumn
from blunt_ruler.ui.kit.layouts import stacked
from blunt_ruler.ui.kit.widgets import label

# What a figure or a check of the fit rests on stands open; the rest is folded behind it.
FIRST: dict[Place, tuple[str, ...]] = {
    Place.HOST: (
        *("name", "cpu", "cores", "sustained_power_w", "memory_gb", "operating_system"),
        *("drives_tunnel", "charging_w", "supply_w", "ports"),
    ),
    Place.LINK: ("name", "hops", "length_m", "hot_plug"),
    Place.DOCK: (
        *("name", "supply_w", "outlets", "slot_feed", "slots_wide", "length_mm", "charging_w"),
    ),
    Place.CARD: (
        *("name", "board_power_w", "power_inputs", "slots_wide", "length_mm", "generation"),
        *("lanes", "vram_gb"),
    ),
    Place.PICTURE: ("screen_path", "screen"),
    Place.RIG: ("name", "measured_gb_per_s", "measured_how", "adapters", "notes"),
    Place.STATE: (),
}
MODELS: dict[Place, type[BaseModel]] = {
    Place.HOST: Host,
    Place.LINK: Link,
    Place.DOCK: Dock,
    Place.CARD: Card,
    Place.PICTURE: Rig,
    Place.RIG: Rig,
    Place.STATE: RigState,
}
MORE = "More of the "


def field_names(place: Place) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The fields of a place that stand open, and those that are folded."""
    every = [spec.name for spec in fields_of(MODELS[place])]
    first = [name for name in every if name in FIRST[place]] or every
    elsewhere = FIRST[Place.PICTURE] if place is Place.RIG else ()
    rest = [name for name in every if name not in first and name not in elsewhere]
    return tuple(first), tuple(rest if place is not Place.PICTURE else ())


class PlaceFacts(FactsColumn):
    """Everything that can be said of a place, on all the rigs that are chosen."""

    def __init__(self) -> None:
        of: dict[str, Facts] = {}
        for place in Place:
            first, rest = field_names(place)
            of[str(place)] = Facts(str(place).capitalize(), MODELS[place], first)
            if rest:
                of[MORE + place] = Facts(MORE + place, MODELS[place], rest)
        super().__init__(of)
        for place in Place:
            for key in (str(place), MORE + place):
                if key in self.of:
                    self.of[key].changed.connect(
                        lambda made, words, place=place: self._on_changed(place, made, words)
                    )
            self.of[str(place)].head.setChecked(True)
        self.graphics = QComboBox()
        self.graphics.setAccessibleName("Host: built-in graphics")
        self.graphics.activated.connect(lambda _index: self._on_graphics())
        self.graphics_row = QWidget()
        stacked(label("built-in graphics", "quiet"), self.graphics, spacing=2, on=self.graphics_row)
        column = self.layout()
        assert column is not None
        column.addWidget(self.graphics_row)
        self._rigs: tuple[Rig, ...] = ()
        self._contents: Contents | None = None

    def show_place(self, contents: Contents, rigs: Sequence[Rig], place: Place) -> None:
        """Show the facts of one place of some rigs."""
        self._rigs, self._contents = tuple(rigs), contents
        records = parts_at(contents, rigs, place)
        key = " ".join(rig.id for rig in rigs) if place not in PARTS else ""
        for one in Place:
            for name in (str(one), MORE + one):
                if name in self.of:
                    self.of[name].show_records(records if one is place else (), key)
        self._show_graphics(records if place is Place.HOST else ())
        rated = _ratings(contents, rigs)
        for name in (str(Place.STATE), MORE + Place.STATE):
            if name in self.of:
                self.of[name].form.rated = rated

    def _show_graphics(self, hosts: Sequence[BaseModel]) -> None:
        self.graphics_row.setVisible(len(hosts) == 1)
        if self._contents is None or len(hosts) != 1:
            return
        (host,) = hosts
        assert isinstance(host, Host)
        self.graphics.clear()
        self.graphics.addItem(UNKNOWN, None)
        for card in self._contents.cards.values():
            if card.built_in:
                self.graphics.addItem(card.name, card.id)
        self.graphics.setCurrentIndex(max(self.graphics.findData(host.built_in_card_id), 0))

    def _on_graphics(self) -> None:
        assert self._contents is not None
        for host in parts_at(self._contents, self._rigs, Place.HOST):
            assert isinstance(host, Host)
            made = host.model_copy(update={"built_in_card_id": self.graphics.currentData()})
            self.ask_edit(f"built-in graphics of {host.name}", (made,))

    def _on_changed(self, place: Place, made: Sequence[BaseModel], words: str) -> None:
        rigs = self._rigs
        if place is Place.STATE:
            whose = rigs[0].name if len(rigs) == 1 else count_text(len(rigs), "rig")
            pairs = zip(rigs, made, strict=True)
            records = [rig.model_copy(update={"state": state}) for rig, state in pairs]
            self.ask_edit(f"{words} of {whose}", records)
            return
        one = str(getattr(made[0], "name", ""))
        noun = str(place) if place in PARTS else "rig"
        whose = one if len(made) == 1 else count_text(len(made), noun)
        self.ask_edit(f"{words} of {whose}", made)  # type: ignore[arg-type]

    def take_focus(self, place: Place) -> None:
        """Stand in the first field of a place."""
        facts = self.of[str(place)]
        facts.head.setChecked(True)
        names = [name for name in facts.form.fields if name != "name"]
        facts.form.fields[names[0]].box.setFocus()


def _ratings(contents: Contents, rigs: Sequence[Rig]) -> dict[str, float | None]:
    """What power limits are percentages of: ratings of card and host that all rigs share."""
    cards = {card.board_power_w for rig in rigs if (card := contents.cards.get(rig.card_id or ""))}
    hosts = {host.sustained_power_w for rig in rigs if (host := contents.host_of(rig.id))}
    return {
        "card_power_limit_w": cards.pop() if len(cards) == 1 else None,
        "cpu_power_limit_w": hosts.pop() if len(hosts) == 1 else None,
    }


def parts_at(contents: Contents, rigs: Sequence[Rig], place: Place) -> tuple[BaseModel, ...]:
    """What can be said something of at a place of some rigs, each once."""
    if place is Place.STATE:
        return tuple(rig.state for rig in rigs)
    if place not in PARTS:
        return tuple(rigs)
    table = getattr(contents, PART_TABLES[place])
    ids = dict.fromkeys(getattr(rig, f"{place}_id") for rig in rigs)
    return tuple(table[key] for key in ids if key in table)
