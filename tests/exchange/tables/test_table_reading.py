"""Tables as people keep them: twenty layouts, and what nobody should take in by mistake."""

import statistics
import zipfile

import pytest
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.errors import UserFixable
from blunt_ruler.core.runs.entry import parse_entry
from blunt_ruler.core.runs.import_runs import parse_case
from blunt_ruler.exchange.tables.cells import BadSheet, bare_figures, pasted_rows
from blunt_ruler.exchange.tables.files import is_table, looks_like_results, read_sheets
from blunt_ruler.exchange.tables.reading import understand
from blunt_ruler.exchange.tables.sheet import DOWN, RATES, SCORES, Known, sheet_words

TIDEWRACK, SKITTER = "Tidewrack / 1080p / High", "Skitter / 1080p / Low"
FOUR = {
    ("Built-in", TIDEWRACK): "27",
    ("Sluice", TIDEWRACK): "69.5",
    ("Built-in", SKITTER): "60",
    ("Sluice", SKITTER): "200",
}
WITH_LOWS = {
    ("Built-in", TIDEWRACK): "27/20",
    ("Sluice", TIDEWRACK): "69.5/57",
    ("Built-in", SKITTER): "60/41",
    ("Sluice", SKITTER): "200/140",
}
LAYOUTS = {
    "rigs across": f"\tBuilt-in\tSluice\n{TIDEWRACK}\t27\t69.5\n{SKITTER}\t60\t200",
    "rigs down": f"\t{TIDEWRACK}\t{SKITTER}\nBuilt-in\t27\t60\nSluice\t69.5\t200",
    "settings in one cell": "Game\tBuilt-in\tSluice\n"
    "Tidewrack 1080p High\t27\t69.5\nSkitter 1080p Low\t60\t200",
    "settings in columns": "Title;Resolution;Preset;Built-in;Sluice\n"
    "Tidewrack;1080p;High;27;69,5\nSkitter;1080p;Low;60;200",
    "lines without a p": "Game,Res,Preset,Built-in,Sluice\n"
    "Tidewrack,1080,High,27,69.5\nSkitter,1080,Low,60,200",
    "two rows of heads": "\tTidewrack\tSkitter\n\t1080p High\t1080p Low\n"
    "Built-in\t27\t60\nSluice\t69.5\t200",
    "one run a row": "rig,title,scene,resolution,preset,run,average_fps\n"
    "Built-in,Tidewrack,,1080p,High,1,27\nSluice,Tidewrack,,1080p,High,1,69.5\n"
    "Built-in,Skitter,,1080p,Low,1,60\nSluice,Skitter,,1080p,Low,1,200",
    "one run a row, other words": "System;Game;Resolution;Settings;FPS\n"
    "Built-in;Tidewrack;1080p;High;27\nSluice;Tidewrack;1080p;High;69,5\n"
    "Built-in;Skitter;1080p;Low;60\nSluice;Skitter;1080p;Low;200",
    "Markdown": "| Game | Built-in | Sluice |\n|:---|---:|---:|\n"
    "| Tidewrack 1080p High | 27 | 69.5 |\n| Skitter 1080p Low | 60 | 200 |",
    "wide gaps": "Game                    Built-in   Sluice\n"
    "Tidewrack 1080p High    27         69.5\nSkitter 1080p Low       60         200",
    "with a mean and a gain": "Game\tBuilt-in\tSluice\tgain\n"
    "Tidewrack 1080p High\t27\t69.5\t157 %\nSkitter 1080p Low\t60\t200\t233 %\n"
    "Average\t43.5\t134.8\t210 %",
    "with units": "Game\tBuilt-in (fps)\tSluice (fps)\n"
    "Tidewrack 1080p High\t27 fps\t69.5 fps\nSkitter 1080p Low\t60 fps\t200 fps",
    "under a heading": "My evening\t\t\n\t\t\nGame\tBuilt-in\tSluice\n"
    "Tidewrack 1080p High\t27\t69.5\nSkitter 1080p Low\t60\t200",
    "blank columns about": "\t\tGame\tBuilt-in\tSluice\t\n"
    "\t\tTidewrack 1080p High\t27\t69.5\t\n\t\tSkitter 1080p Low\t60\t200\t",
}
LOWS = {
    "averages and lows beside each other": "Game,Built-in avg,Built-in 1% low,Sluice avg,"
    "Sluice 1% low\nTidewrack 1080p High,27,20,69.5,57\nSkitter 1080p Low,60,41,200,140",
    "two rows of heads with lows": "Game\tBuilt-in\t\tSluice\t\n\tavg\tlow\tavg\tlow\n"
    "Tidewrack 1080p High\t27\t20\t69.5\t57\nSkitter 1080p Low\t60\t41\t200\t140",
    "lows in rows of their own": "Game\tBuilt-in\tSluice\n"
    "Tidewrack 1080p High avg\t27\t69.5\nTidewrack 1080p High 1% low\t20\t57\n"
    "Skitter 1080p Low avg\t60\t200\nSkitter 1080p Low 1% low\t41\t140",
    "one run a row with lows": "rig,title,resolution,preset,average_fps,low_1_fps\n"
    "Built-in,Tidewrack,1080p,High,27,20\nSluice,Tidewrack,1080p,High,69.5,57\n"
    "Built-in,Skitter,1080p,Low,60,41\nSluice,Skitter,1080p,Low,200,140",
    "in the notation": "Game\tBuilt-in\tSluice\nTidewrack 1080p High\t27/20\t69.5/57\n"
    "Skitter 1080p Low\t60/41\t200/140",
    "rigs down with lows": "Rig\tTidewrack 1080p High avg\tTidewrack 1080p High 1% low\t"
    "Skitter 1080p Low avg\tSkitter 1080p Low 1% low\nBuilt-in\t27\t20\t60\t41\n"
    "Sluice\t69.5\t57\t200\t140",
}


def found(sheet):
    return {
        (cell.rig, parse_case(cell.case).label): cell.text.replace(",", ".").removesuffix(" fps")
        for cell in sheet.cells
    }


@pytest.mark.parametrize("text", LAYOUTS.values(), ids=LAYOUTS)
def test_twenty_layouts_say_the_same(text):
    sheet = understand(pasted_rows(text))
    assert found(sheet) == FOUR
    assert not [cell for cell in sheet.cells if cell.wrong]
    assert sheet_words(sheet).startswith("2 rigs, 2 cases, 4 figures")


@pytest.mark.parametrize("text", LOWS.values(), ids=LOWS)
def test_lows_go_with_their_averages(text):
    assert found(understand(pasted_rows(text))) == WITH_LOWS


def test_rows_of_the_same_case_are_passes():
    text = "Game\tRun\tBuilt-in\tSluice\nTidewrack\t1\t27\t70\nTidewrack\t2\t28\t71"
    assert found(understand(pasted_rows(text))) == {
        ("Built-in", "Tidewrack"): "27 28",
        ("Sluice", "Tidewrack"): "70 71",
    }


def test_what_names_neither_rigs_nor_cases_is_asked_about():
    text = "\tAlpha\tBeta\nGamma\t27\t70\nDelta\t30\t80"
    sheet = understand(pasted_rows(text))
    assert [one.about for one in sheet.asked] == ["layout"]
    assert found(sheet)["Alpha", "Gamma"] == "27"
    turned = understand(pasted_rows(text), answers={"layout": DOWN})
    assert found(turned)["Gamma", "Alpha"] == "27"
    assert turned.is_sure
    known = Known(rigs=frozenset({"gamma", "delta"}))
    told = understand(pasted_rows(text), known)
    assert told.is_sure
    assert told.rigs == ("Gamma", "Delta")


def test_what_is_not_taken_is_said():
    sheet = understand(pasted_rows(LAYOUTS["with a mean and a gain"]))
    assert {one.where for one in sheet.left_out} == {"row Average", "column gain"}


def test_a_cell_that_is_no_figure_is_kept_with_the_reason():
    text = "Game\tBuilt-in\tSluice\nTidewrack\t27\tn/a\nSkitter\t2x7\t71"
    sheet = understand(pasted_rows(text))
    assert [cell.text for cell in sheet.cells if cell.wrong] == ["2x7"]
    assert len(sheet.sound) == 2


def test_figures_alone_are_told_from_tables():
    assert bare_figures(pasted_rows("27\t70\n28\t71"))
    assert pasted_rows("69,5") == [["69,5"]]
    assert pasted_rows("69,5\n70,1") == [["69,5"], ["70,1"]]
    assert not bare_figures(pasted_rows(LAYOUTS["rigs across"]))


@pytest.mark.parametrize("text", ["", "words\tonly\nno\tfigure", "27\t70\n28\t71"])
def test_without_heads_or_figures_it_says_what_is_missing(text):
    with pytest.raises(BadSheet, match=r"table|copied"):
        understand(pasted_rows(text))


@given(st.text(alphabet="ab1.,;\t\n|~/- %p0", max_size=120))
def test_any_copied_text_is_a_sheet_or_a_sentence(text):
    try:
        sheet = understand(pasted_rows(text))
    except UserFixable as error:
        assert len(str(error)) < 400
    else:
        assert sheet.cells


# Files


def xlsx(path, rows):
    """The least workbook that is one (ECMA-376, from memory)."""
    cells = "".join(
        "<row>"
        + "".join(
            f"<c><v>{cell}</v></c>"
            if isinstance(cell, float | int)
            else f'<c t="inlineStr"><is><t>{cell}</t></is></c>'
            for cell in row
        )
        + "</row>"
        for row in rows
    )
    main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    office = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    package = "http://schemas.openxmlformats.org/package/2006"
    parts = {
        "[Content_Types].xml": f'<Types xmlns="{package}/content-types"><Default Extension="rels" '
        'ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
        '<Default Extension="xml" ContentType="application/xml"/></Types>',
        "_rels/.rels": f'<Relationships xmlns="{package}/relationships"><Relationship Id="r" '
        f'Type="{office}/officeDocument" Target="xl/workbook.xml"/></Relationships>',
        "xl/workbook.xml": f'<workbook xmlns="{main}" xmlns:r="{office}"><sheets>'
        '<sheet name="Results" sheetId="1" r:id="s"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": f'<Relationships xmlns="{package}/relationships">'
        f'<Relationship Id="s" Type="{office}/worksheet" Target="sheet.xml"/></Relationships>',
        "xl/sheet.xml": f'<worksheet xmlns="{main}"><sheetData>{cells}</sheetData></worksheet>',
    }
    with zipfile.ZipFile(path, "w") as file:
        for name, body in parts.items():
            file.writestr(name, f'<?xml version="1.0" encoding="UTF-8"?>{body}')


def ods(path, rows):
    from odf.opendocument import OpenDocumentSpreadsheet
    from odf.table import Table, TableCell, TableRow
    from odf.text import P

    book = OpenDocumentSpreadsheet()
    table = Table(name="Results")
    for row in rows:
        line = TableRow()
        for cell in row:
            number = isinstance(cell, float | int)
            made = (
                TableCell(valuetype="float", value=cell)
                if number
                else TableCell(valuetype="string")
            )
            made.addElement(P(text=str(cell)))
            line.addElement(made)
        table.addElement(line)
    book.spreadsheet.addElement(table)
    book.save(str(path))


ROWS = [["Game", "Built-in", "Sluice"], [TIDEWRACK, 27, 69.5], [SKITTER, 60.0, 200]]


@pytest.mark.parametrize("make", [xlsx, ods])
def test_workbooks_are_read_as_they_are_seen(tmp_path, make):
    path = tmp_path / f"results.{make.__name__}"
    make(path, ROWS)
    assert is_table(path)
    (sheet,) = read_sheets(path)
    assert sheet.name == "Results"
    assert found(understand(sheet.rows)) == FOUR


def test_a_table_in_a_text_file_is_told_from_a_log(tmp_path):
    path = tmp_path / "table.csv"
    path.write_text(LAYOUTS["one run a row"])
    assert is_table(path)
    path.write_text(LAYOUTS["settings in columns"])
    assert is_table(path)
    for text in (
        "frame,ms\n" + "\n".join(f"{n},{16 + n % 3}" for n in range(300)),
        "time,fps\n" + "\n".join(f"12:00:{n:02d},{60 + n % 3}" for n in range(60)),
        "app,ms,fps\n" + "\n".join(f"skitter,{16 + n % 3},60" for n in range(300)),
    ):
        path.write_text(text)
        assert not is_table(path)
        assert not looks_like_results(pasted_rows(text))


def test_a_broken_workbook_is_one_sentence(tmp_path):
    path = tmp_path / "broken.xlsx"
    path.write_bytes(b"PK\x03\x04 not a workbook")
    with pytest.raises(UserFixable, match="cannot be read"):
        read_sheets(path)


SCORE_TABLES = {
    "a word in the corner": "Score\tTower\tCable\nLattice\t4433\t3791\nLoom\t880\t790",
    "a word in the rows": "\tTower\tCable\nLattice score\t4433\t3791\nLoom points\t880\t790",
    "a column of scores": "rig,title,score\nTower,Lattice,4433\nCable,Lattice,3791\n"
    "Tower,Loom,880\nCable,Loom,790",
    "points over the heads": "Points\t\t\n\tTower\tCable\nLattice\t4433\t3791\nLoom\t880\t790",
}


@pytest.mark.parametrize("how", SCORE_TABLES)
def test_what_a_word_calls_scores_is_no_frame_rate(how):
    sheet = understand(pasted_rows(SCORE_TABLES[how]))
    assert len(sheet.scores) == len(sheet.cases) == 2
    assert sheet.is_sure
    assert not any(cell.wrong for cell in sheet.cells)
    assert sorted(cell.text for cell in sheet.cells) == ["3791", "4433", "790", "880"]
    assert "scores" in sheet_words(sheet)


@pytest.mark.parametrize(
    ("text", "doubtful"),
    [
        ("\tTower\tCable\nLattice\t4433\t3791\nTidewrack / 1080p\t107\t70", ["Lattice"]),
        ("\tTower\tCable\nLattice\t4433\t3791\nLoom\t880\t790", ["Lattice", "Loom"]),
        ("\tTower\tCable\nLattice\t4,433\t3,791\nLoom\t12,000\t11 500", ["Lattice", "Loom"]),
        (
            "\tTower\tCable\nLattice overall\t443\t379\nLattice graphics\t490\t492\n"
            "Lattice CPU\t300\t120",
            ["Lattice overall", "Lattice graphics", "Lattice CPU"],
        ),
        ("\tTower\tCable\nTidewrack\t107 108 106\t70 71 70", []),
    ],
)
def test_what_looks_like_scores_is_asked_about(text, doubtful):
    sheet = understand(pasted_rows(text))
    assert [case for one in sheet.asked for case in one.cases] == doubtful
    assert not sheet.scores
    chosen = understand(pasted_rows(text), answers=dict.fromkeys(doubtful, SCORES))
    assert list(chosen.scores) == doubtful
    assert not any(cell.wrong for cell in chosen.cells)
    if doubtful:
        assert list(understand(pasted_rows(text), answers={"scores": SCORES}).scores) == doubtful
        rates = understand(pasted_rows(text), answers={"scores": RATES})
        assert not rates.scores


BESIDE = [
    ("Power (W)", "180", "175"),
    ("Power draw", "180", "175"),
    ("GPU temperature", "62", "71"),
    ("Noise, dBA", "31", "38"),
    ("Price ($)", "389", "549"),
    ("VRAM", "8", "12"),
    ("Load time (s)", "12", "9"),
    ("Latency", "35", "22"),
    ("Release year", "2024", "2025"),
    ("CPU usage", "45", "80"),
    ("Gain", "57", "133"),
    ("Improvement", "57", "133"),
    ("Index (Tower = 100)", "25", "66"),
    ("% of Tower", "25", "66"),
]


@pytest.mark.parametrize("beside", BESIDE, ids=[one[0] for one in BESIDE])
def test_other_quantities_are_named_and_never_taken_for_rates(beside):
    head, one, two = beside
    down = f"Game\tBuilt-in\tSluice\nTidewrack 1080p High\t27\t69.5\n{head}\t{one}\t{two}"
    across = (
        f"Game\tSluice\t{head}\nTidewrack 1080p High\t69.5\t{one}\nSkitter 1080p Low\t200\t{two}"
    )
    for text, figures in ((down, {"27", "69.5"}), (across, {"69.5", "200"})):
        sheet = understand(pasted_rows(text))
        assert {cell.text for cell in sheet.cells} == figures
        assert head in " ".join(sheet.remarks)
        assert not any(cell.wrong for cell in sheet.cells)


@pytest.mark.parametrize(
    "text",
    [
        "Game\tBuilt-in (ms)\tSluice (ms)\nTidewrack 1080p\t40\t16.7\nSkitter 1080p\t20,0\t5",
        "Frame time\tBuilt-in\tSluice\nTidewrack 1080p\t40\t16.7\nSkitter 1080p\t20\t5.0",
        "Game\tBuilt-in\tSluice\nTidewrack 1080p (ms)\t40\t16.7 ms\nSkitter 1080p, ms\t20 ms\t5",
    ],
)
def test_frame_times_become_rates(text):
    sheet = understand(pasted_rows(text))
    assert [cell.text for cell in sheet.cells] == ["25.0", "59.9", "50.0", "200.0"]
    assert sheet.rigs == ("Built-in", "Sluice")
    assert "4 frame times in ms became frame rates" in " ".join(sheet.notes).replace("\u202f", " ")


@pytest.mark.parametrize("mean", ["arithmetic", "geometric", "sum", "median"])
@pytest.mark.parametrize("turned", [False, True])
def test_a_mean_is_known_by_arithmetic_whatever_it_is_called(mean, turned):
    rates = {"Built-in": [27.1, 19.4, 61.3, 38.8], "Sluice": [69.5, 53.2, 224.2, 89.4]}
    of = {
        "arithmetic": statistics.fmean,
        "geometric": statistics.geometric_mean,
        "sum": sum,
        "median": statistics.median,
    }[mean]
    rows = [["Game", *rates]]
    rows += [[f"Title {n} / 1080p", *(f"{each[n]}" for each in rates.values())] for n in range(4)]
    rows.append(["Zusammen", *(f"{of(each):.1f}" for each in rates.values())])
    sheet = understand([*zip(*rows, strict=True)] if turned else rows)
    assert len(sheet.cells) == 8
    assert "Zusammen" in " ".join(sheet.remarks)
    assert "of the others" in " ".join(sheet.remarks)


def test_a_last_row_that_is_no_mean_is_taken():
    rows = [["Game", "A one", "B two"], *([f"T{n} / 1080p", f"{n}1", f"{n}7"] for n in range(2, 7))]
    assert len(understand(rows).cells) == 10


def test_minima_and_maxima_are_kept_beside_averages():
    text = (
        "Game\tTower min\tTower avg\tTower max\tCable min\tCable avg\tCable max\n"
        "Tidewrack 1080p\t71\t107\t140\t38\t70\t99\nSkitter 1080p\t180\t305\t410\t120\t224\t300"
    )
    sheet = understand(pasted_rows(text))
    assert sheet.rigs == ("Tower", "Cable")
    assert not any(cell.wrong for cell in sheet.cells)
    assert sorted(cell.text for cell in sheet.cells) == [
        "avg 107 min 71 max 140",
        "avg 224 min 120 max 300",
        "avg 305 min 180 max 410",
        "avg 70 min 38 max 99",
    ]


def test_marks_about_a_figure_are_no_part_of_it():
    text = (
        "Game\t**Built-in**\tSluice\nTidewrack 1080p\t46.5*\t**134.6**\nSkitter 1080p\t61 ± 2\t200¹"
    )
    sheet = understand(pasted_rows(text))
    assert sheet.rigs == ("Built-in", "Sluice")
    assert [cell.text for cell in sheet.cells] == ["46.5", "134.6", "61", "200"]


def test_a_pair_is_asked_about_until_the_review_says_what_it_is():
    rows = pasted_rows("Game\tDock\tTower\nTidewrack\t102/71\t140/98")
    assert [one.about for one in understand(rows).asked] == ["second"]
    for said, name in (("low", "low_1_fps"), ("minimum", "minimum_fps")):
        sheet = understand(rows, Known(second_figure=said))
        assert not sheet.asked
        read = [getattr(parse_entry(cell.text).passes[0], name) for cell in sheet.cells]
        assert read == [71, 98]


def test_where_every_rig_is_held_at_one_rate_none_is_the_mean_of_the_others():
    rows = [["Game", "Cord", "Cable", "Tower"], *([name, "60", "60", "60"] for name in "ABC")]
    sheet = understand(rows)
    assert len(sheet.cells) == 9 and not sheet.left_out and not sheet.asked


def test_the_lanes_in_the_name_of_a_rig_are_no_resolution():
    sheet = understand([["Game", "Cord 4x4", "Cord 3x4"], ["A", "61", "52"], ["B", "34", "31.5"]])
    assert sheet.rigs == ("Cord 4x4", "Cord 3x4") and sheet.cases == ("A", "B")
