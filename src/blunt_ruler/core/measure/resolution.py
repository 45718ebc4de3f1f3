"""Resolutions as people write them: "1080p", "4K", "2560x1440"."""

from functools import lru_cache

KNOWN_LINES = {720: 1280, 900: 1600, 1080: 1920, 1440: 2560, 1600: 2560, 2160: 3840, 4320: 7680}
KNOWN_K = {"2k": (2560, 1440), "4k": (3840, 2160), "5k": (5120, 2880), "8k": (7680, 4320)}


LONGEST = 16
LEAST = 100  # pixels a side: "4x4" is a link of four lanes, and no screen


def pixels(words: str) -> tuple[int, int] | None:
    """Width and height of a resolution in words; None where they are not one, or one of fewer than
    `LEAST` pixels a side. A line count alone is taken as 16:9.
    """
    plain = words.strip().lower().replace("×", "x").replace(" ", "")
    if not plain.isascii() or len(plain) > LONGEST:  # "²" is a digit to Python and no number
        return None
    if plain in KNOWN_K:
        return KNOWN_K[plain]
    width, cross, height = plain.partition("x")
    if cross and width.isdigit() and height.isdigit():
        return (int(width), int(height)) if min(int(width), int(height)) >= LEAST else None
    if plain.endswith("p") and plain[:-1].isdigit() and int(plain[:-1]) >= LEAST:
        lines = int(plain[:-1])
        return KNOWN_LINES.get(lines, round(lines * 16 / 9)), lines
    return None


@lru_cache(maxsize=4096)
def megapixels(words: str) -> float | None:
    """Millions of pixels of a resolution in words; None where they are not one."""
    size = pixels(words)
    return None if size is None else size[0] * size[1] / 1e6
