"""Charts parsed back: marks as long as core's figures; the same inputs, the same bytes."""

import io
import re
import xml.etree.ElementTree as ET
from dataclasses import replace

import pytest
from PIL import Image

from blunt_ruler.core.analysis.analyse import analyse
from blunt_ruler.core.drawing.palette import CONTRAST, PAPER, SLATE, blend, contrast, rig_shades
from blunt_ruler.core.writeup.compose import compose
from blunt_ruler.core.writeup.document import ChartKey
from blunt_ruler.core.writeup.results import typical_case, waterfall_split
from blunt_ruler.core.writeup.trace import traced_figures
from blunt_ruler.exchange.charts.sheet import HEIGHT, SIZES, WIDTH
from blunt_ruler.exchange.documents.writeup.files import Charts

SVG = "{http://www.w3.org/2000/svg}"


@pytest.fixture(scope="module")
def charts(demo_analysis):
    return Charts(demo_analysis, compose(demo_analysis))


@pytest.fixture(scope="module")
def drawn(charts):
    return {key: ET.fromstring(svg) for key, svg in charts.svg().items()}


def extent(root, name):
    """(left, top, right, bottom) of a marked shape, in pixels of 1280 × 720."""
    group = next(one for one in root.iter() if one.get("id") == name)
    path = next(one for one in group.iter() if one.tag == f"{SVG}path")
    numbers = [float(one) for one in re.findall(r"-?\d+\.?\d*", path.get("d"))]
    scale = WIDTH / float(root.get("viewBox").split()[2])
    xs, ys = [x * scale for x in numbers[0::2]], [y * scale for y in numbers[1::2]]
    return min(xs), min(ys), max(xs), max(ys)


@pytest.mark.parametrize("key", [key for key in ChartKey if key is not ChartKey.REFERENCES])
def test_each_chart_is_a_svg_with_its_title_and_its_words(charts, drawn, key):
    root = drawn[key]
    assert root.tag == f"{SVG}svg"
    assert root.get("role") == "img"
    title, says = root.find(f"{SVG}title"), root.find(f"{SVG}desc")
    assert title.text
    assert len(says.text) > 40
    raw = charts.svg()[key].decode()
    assert "<script" not in raw
    outside = [
        url
        for url in re.findall(r"https?://[^\"'\s>]+", raw)
        if not url.startswith(("http://www.w3.org", "http://purl.org", "http://creativecommons"))
    ]
    assert outside == [], "a chart fetches nothing"


def test_the_rulers_bars_end_at_the_rates(demo_analysis, drawn):
    board, root = demo_analysis.board, drawn[ChartKey.RULER]
    row = typical_case(board)
    ends = {}
    for column in board.columns:
        cell = board.cells[column.rig_id, row.case_id]
        box = extent(root, f"average_fps.{column.rig_id}.{row.case_id}")
        ends[column.rig_id] = (box, cell)
    (first, slow), (last, fast) = ends["built-in-ig-6"], ends["workbench-marram-12"]
    pixels_per_fps = (last[2] - first[2]) / (fast.average_fps - slow.average_fps)
    for box, cell in ends.values():
        expected = first[2] + (cell.average_fps - slow.average_fps) * pixels_per_fps
        assert box[2] == pytest.approx(expected, abs=0.5)
        assert box[2] - box[0] == pytest.approx(
            (cell.average_fps - cell.low_1_fps) * pixels_per_fps, abs=0.6
        ), "a bar runs from the low to the average"


def test_the_waterfalls_parts_are_as_wide_as_what_they_took(demo_analysis, drawn):
    split, root = waterfall_split(demo_analysis), drawn[ChartKey.WATERFALL]
    ends = f"{split.rig}.{split.case}"
    whole = extent(root, f"lost_reference_fps.{ends}")
    pixels_per_fps = (whole[2] - whole[0]) / split.reference_fps
    link = extent(root, f"lost_link_fps.{ends}")
    assert link[2] - link[0] == pytest.approx(split.parts["link"].fps * pixels_per_fps, abs=0.6)
    rig = extent(root, f"lost_rig_fps.{ends}")
    assert rig[2] - rig[0] == pytest.approx(split.average_fps * pixels_per_fps, abs=0.6)


def test_the_plot_of_worth_puts_the_dearer_further_right(demo_analysis, drawn):
    points, root = demo_analysis.worth.points(), drawn[ChartKey.WORTH]
    middle = {}
    for rig in points:
        left, _, right, _ = extent(root, f"cost.{rig}")
        middle[rig] = (left + right) / 2
    by_price = sorted(points, key=lambda rig: points[rig][0])
    assert sorted(middle, key=middle.get) == by_price
    spread = middle[by_price[-1]] - middle[by_price[0]]
    for rig in points:
        share = points[rig][0] / points[by_price[-1]][0]
        assert middle[rig] - middle[by_price[0]] == pytest.approx(share * spread, abs=0.6)


def test_nothing_marked_leaves_the_sheet(drawn):
    for root in drawn.values():
        marked = [one.get("id") for one in root.iter() if "." in (one.get("id") or "")]
        for name in marked:
            group = next(one for one in root.iter() if one.get("id") == name)
            if any(one.tag == f"{SVG}path" and one.get("clip-path") for one in group.iter()):
                left, top, right, bottom = extent(root, name)
                assert 0 <= left <= right <= WIDTH + 0.5, name
                assert 0 <= top <= bottom <= HEIGHT + 0.5, name


@pytest.mark.parametrize("size", SIZES)
def test_pictures_have_the_size_that_was_asked_for(charts, size):
    for image in charts.png(size).values():
        with Image.open(io.BytesIO(image)) as opened:
            assert f"{opened.width}x{opened.height}" == size
            colours = opened.convert("RGB").getcolors(1 << 20)
            assert colours is None or len(colours) > 20, "something is drawn"


@pytest.mark.deep
def test_the_same_review_gives_the_same_bytes(demo_analysis, charts):
    again = Charts(demo_analysis, compose(demo_analysis))
    with again.saving(("svg", *SIZES)):  # some by another process
        assert again.svg() == charts.svg()
        assert all(set(kinds) == {"svg", *SIZES} for kinds in again._saved.values())
    assert again.png() == charts.png()


def test_charts_follow_a_theme(demo_analysis):
    document = compose(demo_analysis)
    dark = Charts(demo_analysis, document, SLATE).image(ChartKey.RULER, "1280x720")
    with Image.open(io.BytesIO(dark)) as opened:
        pixel = opened.convert("RGB").getpixel((4, 4))
    assert "#{:02X}{:02X}{:02X}".format(*pixel) == SLATE.card


def test_many_rigs_and_many_cases_still_fit(demo_analysis):
    board = demo_analysis.board
    columns = [board.columns[0]]
    cells = dict(board.cells)
    for number in range(14):
        like = board.columns[1 + number % 3]
        key = f"rig-{number}"
        columns.append(replace(like, rig_id=key, name=f"A rig with a rather long name {number}"))
        for row in board.rows:
            cells[key, row.case_id] = board.cells[like.rig_id, row.case_id]
    columns.append(board.columns[-1])
    rows = board.rows * 3
    many = replace(
        demo_analysis, board=replace(board, columns=tuple(columns), rows=rows, cells=cells)
    )
    document = compose(demo_analysis)
    for key in (ChartKey.RULER, ChartKey.BOARD):
        root = ET.fromstring(Charts(many, document).image(key, "svg"))
        ids = {one.get("id") or "" for one in root.iter()}
        assert any(one.startswith("average_fps.built-in-ig-6") for one in ids)
        assert any(one.startswith("average_fps.workbench-marram-12") for one in ids)
        assert sum(one.startswith("average_fps.rig-") for one in ids) <= 6 * 10


@pytest.mark.parametrize("theme", [PAPER, SLATE, CONTRAST], ids=["paper", "slate", "contrast"])
def test_marks_stand_out_of_the_sheet(demo_analysis, theme):
    for shade in rig_shades(demo_analysis.board, theme).values():
        assert contrast(shade, theme.card) >= 3.0, shade
    for text in (theme.ink, theme.steel, theme.caution):
        assert contrast(text, theme.card) >= 4.5


def test_colours_blend_from_one_end_to_the_other():
    assert blend("#000000", "#FFFFFF", 0.0) == "#000000"
    assert blend("#000000", "#FFFFFF", 1.0) == "#FFFFFF"
    assert blend("#102030", "#304050", 0.5) == "#203040"


def test_several_references_have_a_chart_a_table_and_their_sentence(demo_contents):
    review = demo_contents.reviews["which-link"].with_one_more_reference("breakwater-marram-12")
    analysis = analyse(demo_contents, review)
    document = compose(analysis)
    assert ChartKey.REFERENCES in document.charts
    svg = Charts(analysis, document).image(ChartKey.REFERENCES, "svg").decode()
    assert "change of" not in svg
    assert "of_reference.sluice-marram-12.breakwater-marram-12" in svg
    said = [
        one.computed
        for section in document.sections
        for one in section.sentences
        if one.key == "results.references.sluice-marram-12"
    ]
    assert said[0].startswith("Sluice Marram 12 comes closest to Breakwater Marram 12: ")
    assert "slower than itself in Workbench Marram 12" in said[0]
    named = {(one.figure, one.rig) for one in traced_figures(analysis)}
    assert ("change_of.breakwater-marram-12", "sluice-marram-12") in named
