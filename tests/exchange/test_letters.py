"""Names in any script: what each is printed with, and that one never turns a sentence around."""

import io
import re
from pathlib import Path

import pytest
from fontTools.fontBuilder import FontBuilder
from fontTools.pens.t2CharStringPen import T2CharStringPen
from fontTools.pens.ttGlyphPen import TTGlyphPen
from fontTools.ttLib import TTFont
from pypdf import PdfReader

from blunt_ruler.core.text import MARK, in_place
from blunt_ruler.exchange.printing import letters
from blunt_ruler.exchange.printing.pdf import built, printed_stretches, style, text

HEBREW, ARABIC, CHINESE = "שלום עולם", "مرحبا", "潮汐遺跡"


@pytest.fixture
def only_font(tmp_path, monkeypatch):
    """A machine whose only font has two of the Chinese letters, as cubic outlines."""
    path = tmp_path / "Square Sans Regular.otf"
    pen = T2CharStringPen(1000, None)
    pen.moveTo((100, 0))
    pen.curveTo((100, 500), (300, 700), (800, 700))
    pen.lineTo((800, 0))
    pen.closePath()
    drawn = pen.getCharString()
    made = FontBuilder(2000, isTTF=False)
    made.setupGlyphOrder([".notdef", "one", "two"])
    made.setupCharacterMap({ord(CHINESE[0]): "one", ord(CHINESE[1]): "two"})
    made.setupCFF("SquareSans", {}, {".notdef": drawn, "one": drawn, "two": drawn}, {})
    made.setupHorizontalMetrics(dict.fromkeys((".notdef", "one", "two"), (1000, 100)))
    made.setupHorizontalHeader(ascent=1600, descent=-400)
    made.setupNameTable(
        {"familyName": "Square Sans", "styleName": "Regular", "psName": "SquareSans"}
    )
    made.setupOS2()
    made.setupPost()
    made.save(path)
    broken = tmp_path / "broken.ttf"
    broken.write_bytes(b"no font at all")
    monkeypatch.setattr(letters, "_of_the_system", lambda: (broken, path))
    letters.font_of.cache_clear()
    yield path
    letters.font_of.cache_clear()


@pytest.mark.parametrize(
    ("said", "seen"),
    [
        ("plain 30 %", "plain 30 %"),
        (f"{HEBREW} 30 %", f"{MARK}{HEBREW}{MARK} 30 %"),
        (f"{HEBREW}, {ARABIC}", f"{MARK}{HEBREW}{MARK}, {MARK}{ARABIC}{MARK}"),
        (CHINESE, CHINESE),
    ],
)
def test_a_name_is_held_in_its_place(said, seen):
    assert in_place(said) == seen


def test_letters_go_to_the_first_font_that_has_them(only_font):
    assert letters.font_of("a") is None
    assert letters.font_of(HEBREW[0]) is None, "DejaVu Sans is shipped"
    assert letters.font_of(CHINESE[0]) == only_font
    assert letters.fonts_of(f"a {CHINESE} b") == (only_font,)
    assert letters.boxed(f"a\u202f{CHINESE}\u200e") == CHINESE[2:]
    assert CHINESE[2:] in letters.boxed_words(CHINESE)
    assert letters.boxed_words(CHINESE[:2]) == ""


def test_a_part_of_a_font_is_truetype_whatever_it_was_made_of(only_font):
    body = letters.truetype(only_font, CHINESE[:2])
    read = TTFont(io.BytesIO(body))
    assert set(read.getBestCmap()) == {ord(one) for one in CHINESE[:2]}
    assert read["hmtx"][f"u{ord(CHINESE[0]):X}"][0] == 500, "2000 units to the em are 1000 now"
    assert body == letters.truetype.__wrapped__(only_font, CHINESE[:2]), "and the same each time"


def test_print_holds_the_letters_and_their_order(only_font):
    words = f"{HEBREW} 30 % gained, {ARABIC} 1080p, {CHINESE[:2]} and {CHINESE[1]} alone"
    page = built([text(words, style(12, 15))], "Title", f"Foot {CHINESE[0]}")
    reader = PdfReader(io.BytesIO(page))
    read = reader.pages[0].extract_text()
    assert read.index("30 % gained") < read.index("1080p") < read.index(f"{CHINESE[:2]} and")
    assert f"{CHINESE[1]} alone" in read
    assert f"Foot {CHINESE[0]}" in read
    used = {
        str(one.get_object()["/BaseFont"])
        for one in reader.pages[0]["/Resources"]["/Font"].values()
    }
    assert len([one for one in used if "SquareSans" in one]) == 3, "one for each set of letters"


def test_stretches_are_in_the_order_in_which_they_are_seen(only_font):
    stretches = list(printed_stretches(f"x {HEBREW} 3", 600))
    assert stretches[0] == ("Barlow-600", "x ")
    assert "".join(part for _, part in stretches).replace("\u00a0", " ") == f"x {HEBREW[::-1]} 3"


def test_charts_take_the_same_fonts(only_font):
    from blunt_ruler.exchange.charts.canvas import measure, saved
    from blunt_ruler.exchange.charts.sheet import ChartSheet

    sheet = ChartSheet(f"{CHINESE[:2]} against {HEBREW} 30 %", "Two names", measure)
    sheet.head()
    svg = saved(sheet, ["svg"])["svg"].decode()
    assert {one.split("-")[0] for one in re.findall('href="#([^"]+)', svg)} >= {"SquareSans"}
    assert "<title>潮汐 against" in svg
    # The number stands to the right of the name that it follows, as it would after any other.
    assert measure(f"{HEBREW} 30", 20, 400) > measure(HEBREW, 20, 400)


@pytest.mark.skipif(not Path("/usr/share/fonts").is_dir(), reason="no fonts on this machine")
def test_the_fonts_of_a_real_machine_are_listed_once():
    listed = letters._of_the_system()
    assert len(listed) == len(set(listed))


def test_a_letter_made_of_others_is_taken_whole_and_a_bad_font_is_passed_over(
    tmp_path, monkeypatch
):
    """Composite glyphs, as most TrueType fonts have; and outlines that are torn."""
    paths = [tmp_path / f"{name} Sans Regular.ttf" for name in ("Torn", "Whole")]
    for path in paths:
        square, both = TTGlyphPen(None), TTGlyphPen({"one": None})
        square.moveTo((0, 0))
        square.lineTo((0, 500))
        square.lineTo((500, 500))
        square.closePath()
        both.addComponent("one", (1, 0, 0, 1, 0, 0))
        both.addComponent("one", (1, 0, 0, 1, 400, 100))
        made = FontBuilder(1000, isTTF=True)
        made.setupGlyphOrder([".notdef", "one", "two"])
        made.setupCharacterMap({ord(CHINESE[0]): "one", ord(CHINESE[1]): "two"})
        glyph = square.glyph()
        made.setupGlyf({".notdef": glyph, "one": glyph, "two": both.glyph()})
        made.setupHorizontalMetrics(dict.fromkeys((".notdef", "one", "two"), (600, 0)))
        made.setupHorizontalHeader(ascent=800, descent=-200)
        made.setupNameTable({"familyName": path.stem, "styleName": "Regular", "psName": "Square"})
        made.setupOS2()
        made.setupPost()
        made.save(path)
    body = bytearray(paths[0].read_bytes())
    at = body.index(b"glyf")  # of the directory of tables: the offset stands 8 bytes on
    body[at + 8 : at + 12] = (len(body) + 99).to_bytes(4, "big")
    paths[0].write_bytes(bytes(body))
    monkeypatch.setattr(letters, "_of_the_system", lambda: tuple(paths))
    letters.font_of.cache_clear()
    assert letters.font_of(CHINESE[1]) == paths[1]
    read = TTFont(io.BytesIO(letters.truetype(paths[1], CHINESE[1])))
    assert read["glyf"][f"u{ord(CHINESE[1]):X}"].numberOfContours == 2
    letters.font_of.cache_clear()
