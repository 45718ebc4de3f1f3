"""The shipped Barlow as files, for whatever draws or prints; `letters` has what it lacks."""

from pathlib import Path

from blunt_ruler.files import shipped


def font_file(weight: int) -> Path:
    """The TrueType file of Barlow in a weight (400, 500, 600 or 700)."""
    return shipped("resources", "fonts", f"barlow-latin-{weight}-normal.ttf")
