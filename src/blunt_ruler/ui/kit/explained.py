"""What the name of a figure says of itself when the pointer rests on it: formula and source."""

from functools import cache

from blunt_ruler.files import shipped


@cache
def _known() -> dict[str, str]:
    import tomllib  # at the first name, not at the start of the window
    from html import escape

    text = shipped("resources", "explained.toml").read_text("utf-8")
    return {
        name: f"<b>{escape(name)}</b><br>{escape(one['says'])}.<br><i>{escape(one['source'])}</i>"
        for one in tomllib.loads(text)["figure"]
        for name in one["names"]
    }


def explained(name: str) -> str:
    """What a figure's name says of itself, as rich text; blank for a name that is no figure's."""
    plain = name.strip().replace("\u202f", " ").replace("\u00a0", " ").lower()
    # Worth means other things by a few of the names: there they are asked for by its own.
    return _known().get(plain) or _known().get(plain.removeprefix("worth "), "")
