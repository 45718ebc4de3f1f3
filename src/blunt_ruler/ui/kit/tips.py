"""Words of a logbook where Qt would take them for more than words: in tooltips and on actions."""

import html

from PyQt6.QtCore import Qt


def plain_tip(words: str) -> str:
    """A tooltip that shows these words as they are; Qt takes a text with a tag in it for HTML."""
    if not Qt.mightBeRichText(words):  # type: ignore[attr-defined]  # it is missing in the stubs
        return words
    return f"<span>{html.escape(words)}</span>".replace("\n", "<br>")


def no_shortcut(words: str) -> str:
    """The text of an action or a button that shows these words as they are; Qt takes "&" for the
    mark of a shortcut.
    """
    return words.replace("&", "&&")
