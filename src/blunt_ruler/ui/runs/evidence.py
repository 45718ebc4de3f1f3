"""What the evidence column says of a run: findings, figures, and a trim before and after."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QLabel

from blunt_ruler.core.checks.findings import Finding
from blunt_ruler.core.measure.frames import FrameFigures, LowSchool, why_no_low
from blunt_ruler.core.measure.metrics import METRICS
from blunt_ruler.core.recordings.quantities import MEANINGS, Quantity
from blunt_ruler.core.records.records import FromRecording, Run
from blunt_ruler.core.records.severity import Severity
from blunt_ruler.core.runs.trim_run import Cut
from blunt_ruler.core.text import (
    capital,
    duration_text,
    fps_text,
    list_text,
)
from blunt_ruler.ui.kit.widgets import Parts, figure_row, label

WIDEST_PICTURE = 212  # pixels, of the evidence column

TRIM_FIGURES: tuple[tuple[str, Callable[[FrameFigures, LowSchool], float | None]], ...] = (
    ("average", lambda figures, _school: figures.average_fps),
    ("1 % low", lambda figures, school: figures.low_1.by(school)),
    ("0.1 % low", lambda figures, school: figures.low_01.by(school)),
    ("maximum", lambda figures, _school: figures.maximum_fps),
)


def before_and_after(made: Cut, school: LowSchool) -> Parts:
    """Figures of the whole trace and of the part that is kept, side by side."""
    parts: Parts = [label("WHOLE AND KEPT", "heading")]
    for name, value in TRIM_FIGURES:
        whole, kept = (fps_text(value(figures, school)) for figures in (made.whole, made.kept))
        if "low" in name:
            name = f"{name}, {school}"
        parts.append(figure_row(name, f"{whole} → {kept}"))
    whole_s, kept_s = (duration_text(one.duration_s) for one in (made.whole, made.kept))
    parts += [figure_row("length", f"{whole_s} → {kept_s}"), 10]
    return parts


def run_parts(run: Run, school: LowSchool) -> Parts:
    """The figures of one run."""
    parts: Parts = []
    parts.append(label("THIS RUN", "heading"))
    figures = run.figures
    if figures is None:
        says = "Typed figures, no trace" if run.recording is None else "Read from a recording"
        parts.append(label(says, "says"))
        return parts + _typed_rows(run)
    rows = {
        fragile: [
            figure_row(one.words_by(school), one.text(one.of(figures, school)))
            for one in METRICS
            if one.fragile is fragile and one.key != "average_fps"
        ]
        for fragile in (False, True)
    }
    parts += [
        label(f"{fps_text(figures.average_fps)} frames per second", "says"),
        *rows[False],
        8,
        label("FRAGILE, ONE FRAME EACH", "heading"),
        *rows[True],
    ]
    for share in (0.01, 0.001):
        why = why_no_low(figures.frames, share)
        if why:
            parts.append(label(why, "caution"))
    if run.trim is not None:
        parts += [8, label(f"trimmed{f': {run.trim.why}' if run.trim.why else ''}", "small")]
    parts += [8, label(f"from {run.origin.file or run.origin.kind}", "small")]
    return parts


def _typed_rows(run: Run) -> Parts:
    """The typed figures of a run, those that there are."""
    typed = run.typed
    if typed is None:
        return []
    rows: Parts = []
    for name, value in (
        ("average", typed.average_fps),
        ("1 % low", typed.low_1_fps),
        ("0.1 % low", typed.low_01_fps),
        ("minimum", typed.minimum_fps),
        ("maximum", typed.maximum_fps),
    ):
        if value is not None:
            rows.append(figure_row(name, f"{fps_text(value)} fps"))
    if typed.score is not None:
        rows.append(figure_row("score", f"{typed.score:g}"))
    rows += [figure_row(part.name, f"{part.score:g}") for part in typed.parts]
    return rows


def recording_parts(run: Run, read: FromRecording, png: bytes) -> Parts:
    """How a run was read from a recording, and its boxes at five moments."""
    shown = [Quantity(box.quantity) for box in read.boxes]
    counters = [MEANINGS[one].words for one in shown if one is not Quantity.IGNORE]
    parts: Parts = [
        label("HOW IT WAS READ", "heading"),
        label(run.origin.file, "quiet"),
        figure_row("from", f"{read.from_s:.1f} to {read.to_s:.1f} s"),
        figure_row("recording", f"{read.width} × {read.height}, {read.fps:.4g} fps"),
    ]
    if counters:
        parts += [
            figure_row("figures of the rate", f"{read.readings}"),
            figure_row("asked about", f"{read.asked}"),
            figure_row("read for", f"{read.read_share:.0%} of the time"),
            label(f"Counters: {list_text(counters)}", "small"),
        ]
    parts += [label(f"{capital(note)}.", "small") for note in read.notes]
    if png:
        picture = QLabel()
        picture.setAccessibleName("Its boxes at five moments")
        pixmap = QPixmap()
        pixmap.loadFromData(png, "PNG")
        if not pixmap.isNull():
            picture.setPixmap(
                pixmap.scaledToWidth(
                    min(pixmap.width(), WIDEST_PICTURE),
                    Qt.TransformationMode.SmoothTransformation,
                )
            )
            parts += [6, picture]
    return parts


def finding_parts(finding: Finding) -> Parts:
    """A finding as the evidence column shows it: its name, what it says, what to do."""
    kind = "error" if finding.severity is Severity.BLOCKING else "caution"
    return [
        label(f"{finding.severity}: {finding.check.words}", kind),
        label(capital(finding.says)),
        label(f"{finding.sure}{f': {list_text(finding.signs)}' if finding.signs else ''}", "small"),
        label(finding.remedy, "quiet"),
        4,
    ]
