"""What a picture costs: active pixels, and display timings with their blanking.

The timings are VESA Coordinated Video Timings: standard blanking and both versions of reduced
blanking, for progressive pictures without margins. Formulas transcribed from the published
standard, from memory; the tests hold them against the program edid-decode.
"""

import math
from dataclasses import dataclass

from blunt_ruler.core.errors import BadFigure
from blunt_ruler.core.records.hardware import Blanking, Screen

CELL_PIXELS = 8
MIN_FRONT_PORCH_LINES = 3
MIN_BACK_PORCH_LINES = 6
MIN_SYNC_AND_BACK_PORCH_US = 550.0
DUTY_OFFSET, DUTY_GRADIENT = 30.0, 300.0  # C′ and M′ of the standard's blanking formula
REDUCED_BLANKING_US = 460.0


@dataclass(frozen=True, slots=True)
class Timing:
    """A display timing: totals include blanking."""

    pixel_clock_mhz: float
    total_pixels: int
    total_lines: int

    @property
    def refresh_hz(self) -> float:
        """The refresh rate that the rounded pixel clock really gives."""
        return self.pixel_clock_mhz * 1e6 / (self.total_pixels * self.total_lines)


def stream_gb_per_s(screen: Screen) -> float:
    """Active pixels alone: width × height × bytes × rate. What a picture sent back costs."""
    pixels = screen.width * screen.height
    return pixels * screen.bits_per_pixel / 8.0 * screen.refresh_hz / 1e9


def timed_stream_gb_per_s(screen: Screen, blanking: Blanking) -> float:
    """A display stream with its blanking: pixel clock × bits per pixel."""
    if blanking is Blanking.NONE:
        return stream_gb_per_s(screen)
    timing = cvt(screen.width, screen.height, screen.refresh_hz, blanking)
    return timing.pixel_clock_mhz * 1e6 * screen.bits_per_pixel / 8.0 / 1e9


def cvt(width: int, height: int, refresh_hz: float, blanking: Blanking) -> Timing:
    """The timing of a mode. Raises BadFigure for a rate that leaves no time for the lines."""
    if min(width, height) < CELL_PIXELS or not refresh_hz > 0:
        raise BadFigure(
            "screen",
            f"{width} × {height} at {refresh_hz:g} Hz is not a valid mode",
            "Give a real one",
        )
    frame_us = 1e6 / refresh_hz
    blank_us = MIN_SYNC_AND_BACK_PORCH_US if blanking is Blanking.STANDARD else REDUCED_BLANKING_US
    if frame_us <= blank_us:
        raise BadFigure(
            "screen", f"{refresh_hz:g} Hz leaves no time for the lines", "Give a lower rate"
        )
    match blanking:
        case Blanking.NONE:
            return Timing(width * height * refresh_hz / 1e6, width, height)
        case Blanking.STANDARD:
            return _standard(width, height, frame_us)
        case Blanking.REDUCED:
            active = width // CELL_PIXELS * CELL_PIXELS
            least = MIN_FRONT_PORCH_LINES + _sync_lines(width, height) + MIN_BACK_PORCH_LINES
            return _reduced(active + 160, height, frame_us, least, step_mhz=0.25)
        case Blanking.REDUCED_V2:
            return _reduced(width + 80, height, frame_us, least_blank=1 + 8 + 6, step_mhz=0.001)


def _standard(width: int, height: int, frame_us: float) -> Timing:
    active = width // CELL_PIXELS * CELL_PIXELS
    sync = _sync_lines(width, height)
    line_us = (frame_us - MIN_SYNC_AND_BACK_PORCH_US) / (height + MIN_FRONT_PORCH_LINES)
    sync_and_back = max(
        math.floor(MIN_SYNC_AND_BACK_PORCH_US / line_us) + 1, sync + MIN_BACK_PORCH_LINES
    )
    duty = max(DUTY_OFFSET - DUTY_GRADIENT * line_us / 1000.0, 20.0)
    blank = math.floor(active * duty / (100.0 - duty) / (2 * CELL_PIXELS)) * 2 * CELL_PIXELS
    total = active + blank
    clock = math.floor(total / line_us / 0.25) * 0.25
    return Timing(clock, total, height + sync_and_back + MIN_FRONT_PORCH_LINES)


def _reduced(total: int, height: int, frame_us: float, least_blank: int, step_mhz: float) -> Timing:
    line_us = (frame_us - REDUCED_BLANKING_US) / height
    blank = max(math.floor(REDUCED_BLANKING_US / line_us) + 1, least_blank)
    lines = height + blank
    clock = math.floor(total * lines / frame_us / step_mhz + 1e-6) * step_mhz
    return Timing(round(clock, 6), total, lines)


def _sync_lines(width: int, height: int) -> int:
    """Lines of vertical sync, by which the standard's timings say their aspect ratio."""
    for lines, wide, high in ((4, 4, 3), (5, 16, 9), (6, 16, 10), (7, 5, 4), (7, 15, 9)):
        if height * wide // high // CELL_PIXELS * CELL_PIXELS == width and height % high == 0:
            return lines
        if width * high == height * wide:
            return lines
    return 10
