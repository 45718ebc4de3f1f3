"""Pictures of results: drawn here, with labels as people's programs write them."""

import pytest
from PIL import Image, ImageDraw, ImageFont
from typer.testing import CliRunner

from blunt_ruler.core.recordings.quantities import Quantity
from blunt_ruler.exchange.recordings.decoding import BadRecording
from blunt_ruler.exchange.recordings.still import read_still
from blunt_ruler.files import shipped
from blunt_ruler.logbook import Logbook

FONT = "barlow-latin-500-normal.ttf"
RESULTS = (("Average FPS", "87.4"), ("1% low", "61.2"), ("Minimum", "44"), ("Maximum", "131"),
           ("Frames rendered", "5230"))  # fmt: skip
SCORES = (("Overall score", "7,310"), ("Graphics", "8 406"), ("Processor", "4,120"))


def drawn(path, rows, dark=True):
    image = Image.new("RGB", (1000, 140 + 70 * len(rows)), (24, 30, 40) if dark else (250,) * 3)
    pen, ink = ImageDraw.Draw(image), (245,) * 3 if dark else (15,) * 3
    large, small = (ImageFont.truetype(str(shipped("resources", "fonts") / FONT), px)
                    for px in (34, 22))  # fmt: skip
    for at, (name, value) in enumerate(rows):
        pen.text((70, 60 + 70 * at), name, ink, small)
        pen.text((640, 56 + 70 * at), value, ink, large)
    image.save(path)
    return path


def test_figures_are_found_with_their_labels(tmp_path):
    found = read_still(drawn(tmp_path / "results.png", RESULTS)).figures
    assert [(one.label, one.value, one.box.quantity) for one in found[:4]] == [
        ("Average FPS", 87.4, Quantity.FPS),
        ("1% low", 61.2, Quantity.LOW_1),
        ("Minimum", 44.0, Quantity.MINIMUM),
        ("Maximum", 131.0, Quantity.MAXIMUM),
    ]
    assert found[4].box.quantity is Quantity.IGNORE


def test_a_score_may_part_its_thousands(tmp_path):
    found = read_still(drawn(tmp_path / "score.jpg", SCORES, dark=False)).figures
    assert found[0].box.quantity is Quantity.SCORE and found[0].value == 7310
    assert found[1].value == 8406 and found[1].label == "Graphics"


def run(*words):
    from blunt_ruler.cli import app, bring_in

    bring_in()
    return CliRunner().invoke(app, [str(one) for one in words])


@pytest.mark.deep  # the window hands on the same, and is tested
def test_a_score_goes_into_a_logbook_by_command(tmp_path):
    book, score = tmp_path / "a.blunt", drawn(tmp_path / "score.png", SCORES)
    assert run("import", book, score, "--rig", "Cord", "--case", "Loom").exit_code == 0
    with Logbook.reading(book) as opened:
        contents = opened.contents()
        (run_of,) = contents.runs.values()
        assert run_of.typed.score == 7310
        assert contents.titles[contents.cases[run_of.case_id].title_id].kind == "synthetic"


def test_they_go_into_a_logbook_by_command(tmp_path):
    picture, book = drawn(tmp_path / "results.png", RESULTS), tmp_path / "a.blunt"
    told = run("import", book, picture, "--rig", "Cord", "--case", "Tidewrack / 1080p / High")
    assert told.exit_code == 0, told.output
    with Logbook.reading(book) as opened:
        (first,) = opened.contents().runs.values()
        assert (first.average_fps, first.typed.low_1_fps, first.typed.maximum_fps) == (
            87.4,
            61.2,
            131,
        )
        assert opened.picture(first.recording.pictures_sha256).startswith(b"\x89PNG")


@pytest.mark.parametrize("content", [b"", b"no picture", b"\x89PNG\r\n\x1a\n" + bytes(200)])
def test_what_is_no_picture_is_refused(tmp_path, content):
    path = tmp_path / "shot.png"
    path.write_bytes(content)
    with pytest.raises(BadRecording, match=r"shot\.png"):
        read_still(path)


def test_a_blank_picture_has_no_figure(tmp_path):
    Image.new("RGB", (300, 200), (90, 90, 90)).save(tmp_path / "blank.png")
    assert read_still(tmp_path / "blank.png").figures == ()
