"""Which font draws and prints a letter, whatever script it is of.

Barlow's Latin set is followed by DejaVu Sans, which comes with matplotlib and has Greek,
Cyrillic, Arabic and Hebrew, and then by whatever font of this machine has the letter, as
Chinese, Japanese and Korean need.
"""

import io
import logging
import unicodedata
import zlib
from collections.abc import Iterable, Iterator
from functools import cache, lru_cache
from itertools import groupby
from pathlib import Path
from typing import Any

from matplotlib import get_data_path
from matplotlib.font_manager import findSystemFonts
from matplotlib.ft2font import FT2Font

from blunt_ruler.exchange.printing.fonts import font_file

log = logging.getLogger(__name__)

FALLBACK = "DejaVu Sans"
UNITS = 1000  # of an em, of a font that is made here
NEVER_SEEN = frozenset({"Cc", "Cf", "Zl", "Zp", "Zs"})  # kinds of letters that leave no mark


def fallback_file() -> Path:
    """The TrueType file of DejaVu Sans."""
    return Path(get_data_path(), "fonts", "ttf", "DejaVuSans.ttf")


@cache
def _shipped() -> frozenset[int]:
    """The letters that Barlow and DejaVu Sans have."""
    return _letters_in(font_file(400)) | _letters_in(fallback_file())


def are_own(words: str) -> bool:
    """Whether Barlow has every letter of words."""
    return words.isascii() or _letters_in(font_file(400)).issuperset(map(ord, words))


@cache
def _of_the_system() -> tuple[Path, ...]:
    """Font files of this machine, plain upright ones first."""
    paths = [Path(found) for found in findSystemFonts()]

    def plainness(path: Path) -> tuple[bool, ...]:
        name = path.stem.casefold()
        return ("regular" not in name, "sans" not in name, "mono" in name, "italic" in name)

    return tuple(sorted(paths, key=lambda path: (*plainness(path), str(path))))


@cache
def _letters_in(path: Path) -> frozenset[int]:
    try:
        return frozenset(FT2Font(str(path)).get_charmap())
    except (OSError, RuntimeError, ValueError):  # a broken file, or a kind that cannot be read
        return frozenset()


@lru_cache(maxsize=20_000)
def font_of(letter: str) -> Path | None:
    """The font of this machine for a letter; None where a shipped one has it, or none does."""
    code = ord(letter)
    if code in _shipped() or unicodedata.category(letter) in NEVER_SEEN:
        return None
    having = (path for path in _of_the_system() if code in _letters_in(path))
    return next((path for path in having if _draws(path, letter)), None)


def _draws(path: Path, letter: str) -> bool:
    """Whether a letter of a font can be taken out of it; fonts of a machine are of any make."""
    try:
        truetype(path, letter)
    except Exception:  # fontTools raises what it meets; another font is tried
        log.info("a font that could not be used", exc_info=True)
        return False
    return True


def fonts_of(words: str) -> tuple[Path, ...]:
    """The fonts of this machine that words need beside the shipped ones."""
    if words.isascii():
        return ()
    found = (font_of(letter) for letter in words)
    return tuple(dict.fromkeys(path for path in found if path is not None))


def boxed(words: str) -> str:
    """The letters of words that no font here has, each once: they come out as boxes."""
    found = dict.fromkeys(
        letter
        for letter in words
        if ord(letter) not in _shipped()
        and unicodedata.category(letter) not in NEVER_SEEN
        and font_of(letter) is None
    )
    return "".join(found)


def boxed_words(words: str) -> str:
    """What to tell about letters that come out as boxes; blank where there are none."""
    letters = boxed(words)
    if not letters:
        return ""
    some = letters[:8] + ("…" if len(letters) > 8 else "")
    return (
        f"No font on this machine has “{some}”: charts and PDF show boxes in their place. "
        "Install a font for that script and write them again; pages, tables and texts are whole."
    )


def by_font(words: str) -> Iterator[tuple[Path | None, str]]:
    """Words in stretches of one system font each; None for the shipped ones."""
    for path, stretch in groupby(words, key=font_of):
        yield path, "".join(stretch)


def part_name(path: Path, letters: str) -> str:
    """What a font made of some letters of another is called: of other letters, otherwise."""
    return f"{path.stem} {zlib.crc32(letters.encode()):08x}"


@cache
def _opened(path: Path) -> Any:
    from fontTools.ttLib import TTFont

    return TTFont(path, fontNumber=0, lazy=True)


@lru_cache(maxsize=2_000)
def truetype(path: Path, letters: str) -> bytes:
    """A few letters of a font as a TrueType font: what PDF takes, whatever its outlines are."""
    from fontTools.fontBuilder import FontBuilder
    from fontTools.pens.cu2quPen import Cu2QuPen
    from fontTools.pens.recordingPen import DecomposingRecordingPen
    from fontTools.pens.transformPen import TransformPen
    from fontTools.pens.ttGlyphPen import TTGlyphPen

    source = _opened(path)
    known, drawn = source.getBestCmap(), source.getGlyphSet()
    scale = UNITS / source["head"].unitsPerEm
    names = {ord(letter): f"u{ord(letter):X}" for letter in letters}
    glyphs, widths = {".notdef": TTGlyphPen(None).glyph()}, {".notdef": (UNITS // 2, 0)}
    for code, name in names.items():
        pen, glyph = TTGlyphPen(None), drawn[known[code]]
        whole = DecomposingRecordingPen(drawn)  # a letter may be made of others
        glyph.draw(whole)
        whole.replay(TransformPen(Cu2QuPen(pen, max_err=1.0), (scale, 0, 0, scale, 0, 0)))
        glyphs[name] = pen.glyph()
        widths[name] = (round(glyph.width * scale), 0)
    made = FontBuilder(UNITS, isTTF=True)
    made.setupGlyphOrder([".notdef", *names.values()])
    made.setupCharacterMap(names)
    made.setupGlyf(glyphs)
    made.setupHorizontalMetrics(widths)
    heights = source["hhea"]
    ascent, descent = round(heights.ascent * scale), round(heights.descent * scale)
    made.setupHorizontalHeader(ascent=ascent, descent=descent)
    # Two parts of one font in one PDF are told apart by this name alone.
    family = part_name(path, letters)
    made.setupNameTable({"familyName": family, "styleName": "Regular", "psName": _plain(family)})
    made.setupOS2(sTypoAscender=ascent, sTypoDescender=descent)
    made.setupPost()
    made.font["head"].created = made.font["head"].modified = 0  # the same letters, the same bytes
    out = io.BytesIO()
    made.font.recalcTimestamp = False
    made.save(out)
    return out.getvalue()


def _plain(name: str) -> str:
    return "".join(letter for letter in name if letter.isascii() and letter.isalnum())


def names_of(paths: Iterable[Path]) -> list[str]:
    """The families of font files, as matplotlib knows them once they are made known to it."""
    return [FT2Font(str(path)).family_name for path in paths]
