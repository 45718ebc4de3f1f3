"""Daily life with a rig: what each docking costs, what unplugging does, where its ports sit."""

from collections.abc import Iterator

from blunt_ruler.core.records.hardware import Rig
from blunt_ruler.core.text import list_text

MINUTES = {
    "driver_switch_min": "switching drivers",
    "settings_min": "settings of each game",
    "opening_min": "opening a lid or panel",
}
UNPLUGGED = {
    "unplug_idle": "Unplugged while idle",
    "unplug_game": "Unplugged in a game",
    "unplug_asleep": "Unplugged while asleep",
}


def docking_minutes(rig: Rig) -> float | None:
    """What each docking takes, minutes; None where nobody said."""
    said = [value for name in MINUTES if (value := getattr(rig, name)) is not None]
    return sum(said) if said else None


def docking_words(rig: Rig) -> str:
    """“Docking costs about 4 minutes (switching drivers, opening a lid) and a restart.”; blank
    where nobody said.
    """
    minutes = docking_minutes(rig)
    parts = []
    if minutes is not None:
        what = [words for name, words in MINUTES.items() if getattr(rig, name)]
        unit = "minute" if minutes == 1 else "minutes"
        of = f" ({list_text(what)})" if what else ""
        parts.append(f"about {minutes:g} {unit}{of}" if minutes else "no time")
    if rig.restart_at_docking:
        parts.append("a restart")
    if not parts:
        return ""
    also = "" if rig.restart_at_docking is not False else " and no restart"
    return f"Docking costs {list_text(parts)}{also}."


def daily_lines(rig: Rig) -> Iterator[str]:
    """Everything that was said of a rig's daily life, a sentence each."""
    if said := docking_words(rig):
        yield said
    for name, words in UNPLUGGED.items():
        if told := getattr(rig, name):
            yield f"{words}: {told.rstrip('.')}."
    if rig.ports_where:
        yield f"Ports: {rig.ports_where.rstrip('.')}."
