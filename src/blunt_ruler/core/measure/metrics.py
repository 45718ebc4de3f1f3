"""Every figure of a trace, declared once for the evidence column, `metrics --json` and its schema.

A new one is a property of `FrameFigures` and an entry here; its hover text stands under the same
words in `resources/explained.toml`, its definition in `help/figures.md`.
"""

from collections.abc import Callable
from dataclasses import dataclass
from operator import attrgetter

from blunt_ruler.core.measure.frames import FrameFigures, LowSchool
from blunt_ruler.core.text import count_text, duration_text, fps_text, percent_text


@dataclass(frozen=True, slots=True)
class Metric:
    """A figure of a trace: its key in JSON, its words on screen, its value, how that is written.

    `fragile`: it rests on a single frame, and is shown apart.
    """

    key: str
    words: str
    of: Callable[[FrameFigures, LowSchool], float | None]
    text: Callable[[float | None], str]
    fragile: bool = False

    def words_by(self, school: LowSchool) -> str:
        """Its words, with the definition of the low where it has several."""
        return f"{self.words}, {school}" if self.key == "low_1_fps" else self.words


def _plain(name: str) -> Callable[[FrameFigures, LowSchool], float | None]:
    value = attrgetter(name)
    return lambda figures, _: value(figures)


def _fps(value: float | None) -> str:
    return f"{fps_text(value)} fps"


METRICS: tuple[Metric, ...] = (
    Metric("frames", "frames", _plain("frames"), lambda n: count_text(int(n or 0), "frame")),
    Metric("duration_s", "length", _plain("duration_s"), lambda s: duration_text(s or 0.0)),
    Metric("average_fps", "average", _plain("average_fps"), _fps),
    Metric("median_fps", "median", _plain("median_fps"), _fps),
    Metric("low_1_fps", "1 % low", lambda figures, school: figures.low_1.by(school), _fps),
    Metric("low_01_fps", "0.1 % low", lambda figures, school: figures.low_01.by(school), _fps),
    Metric("minimum_fps", "minimum", _plain("minimum_fps"), _fps, fragile=True),
    Metric("maximum_fps", "maximum", _plain("maximum_fps"), _fps, fragile=True),
    Metric("steadiness", "steadiness", FrameFigures.steadiness, percent_text),
    Metric(
        *("stutters_per_min", "stutters a minute", _plain("stutters_per_min")),
        lambda value: f"{value:.1f}",
    ),
    Metric(
        *("stutter_time_share", "time in stutter", _plain("stutter_time_share")),
        lambda value: percent_text(value, decimals=1),
    ),
)
