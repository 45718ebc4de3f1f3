"""Charts written in running order, numbered, with their chapters and what is said to each."""

import re
import unicodedata
from collections.abc import Collection, Sequence
from pathlib import Path

from blunt_ruler.core.analysis.analyse import Analysis
from blunt_ruler.core.drawing.palette import PAPER, SLATE
from blunt_ruler.core.text import clock_text
from blunt_ruler.core.types import Progress, no_progress
from blunt_ruler.core.writeup.shots import Shot, chapter_list
from blunt_ruler.core.writeup.spoken import seconds_of
from blunt_ruler.exchange.charts.sheet import SVG_KIND
from blunt_ruler.files import staged, write_whole

THEMES = {"paper": PAPER, "slate": SLATE}
LONGEST_SLUG = 40


def write_shots(
    analysis: Analysis,
    shots: Sequence[Shot],
    folder: Path,
    kinds: Collection[str],
    themes: Collection[str] = ("paper",),
    step: Progress = no_progress,
) -> tuple[Path, ...]:
    """Write charts into a folder, each in some kinds (sizes of PNG, SVG_KIND, and CLEAR for a PNG
    without a background) and themes, with chapters.txt, chapters.vtt and narration.txt.
    """
    from blunt_ruler.exchange.charts.canvas import measure, saved
    from blunt_ruler.exchange.charts.shots import sheets

    names: list[Path] = []
    with staged(folder) as part:

        def put(name: str, body: bytes | str) -> None:
            write_whole(part / name, body)
            names.append(folder / name)

        total = len(shots) * len(themes)
        for turn, theme in enumerate(themes):
            drawn = sheets(analysis, shots, measure, THEMES[theme])
            for number, (shot, sheet) in enumerate(zip(shots, drawn, strict=True)):
                step("Drawing the charts", (turn * len(shots) + number) / max(total, 1))
                for kind, body in saved(sheet, kinds).items():
                    put(_name(number + 1, shot, kind, theme, len(kinds) > 1, len(themes) > 1), body)
        pace = analysis.review.writeup.style.pace
        put("chapters.txt", chapters_text(shots, pace))
        put("chapters.vtt", chapters_vtt(shots, pace))
        put("narration.txt", narration_text(shots, pace))
    return tuple(names)


def _name(
    number: int, shot: Shot, kind: str, theme: str, several_kinds: bool, several_themes: bool
) -> str:
    parts = [f"{number:02d}", slug(shot.full_title)]
    if several_themes:
        parts.append(theme)
    if several_kinds and kind != SVG_KIND:
        parts.append(kind)
    return f"{'-'.join(parts)}.{'svg' if kind == SVG_KIND else 'png'}"


def slug(words: str) -> str:
    """Words as part of a file name, on any system."""
    plain = unicodedata.normalize("NFKD", words).encode("ascii", "ignore").decode().lower()
    return re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:LONGEST_SLUG].strip("-") or "chart"


def chapters_text(shots: Sequence[Shot], pace: int) -> str:
    """“0:00 Title” a line, as video pages take chapters."""
    return "".join(f"{clock_text(at)} {title}\n" for at, _, title in chapter_list(shots, pace))


def chapters_vtt(shots: Sequence[Shot], pace: int) -> str:
    """The chapters as WebVTT."""
    cues = [
        f"{number}\n{_stamp(start)} --> {_stamp(end)}\n{title.replace('-->', '→')}\n"
        for number, (start, end, title) in enumerate(chapter_list(shots, pace), 1)
    ]
    return "\n".join(["WEBVTT\n", *cues])


def narration_text(shots: Sequence[Shot], pace: int) -> str:
    """What is said to each chart, each line with its seconds."""
    said = []
    for number, one in enumerate(shots, 1):
        if one.lines:
            said.append(f"{number:02d}  {one.full_title}")
            said += [f"{seconds_of(line, pace):5.1f} s  {line}" for line in one.lines]
            said.append("")
    return "\n".join(said)


def _stamp(seconds: float) -> str:
    thousandths = round(seconds * 1000)
    minutes, rest = divmod(thousandths, 60_000)
    return f"{minutes // 60:02d}:{minutes % 60:02d}:{rest // 1000:02d}.{rest % 1000:03d}"
