"""The plan command as a script sees it."""

import pytest


def test_plan_gives_cells_order_and_what_is_given_up(as_json, demo_book):
    plan = as_json("plan", demo_book)
    assert set(plan) >= {
        *("cells", "minutes", "swaps", "minutes_saved", "order", "dropped", "optimal")
    }
    assert len(plan["cells"]) == 50
    assert plan["swaps"] == 4
    assert plan["minutes_saved"] == pytest.approx(plan["minutes_as_entered"] - plan["minutes"])
    assert plan["minutes_at_once"] < plan["minutes"]
    assert plan["dropped"] == []
    assert set(plan["order"][0]) == {"rig", "case", "repeat", "kind", "minutes", "starts"}
    assert sum(item["minutes"] for item in plan["order"]) == pytest.approx(plan["minutes"])
    short = as_json("plan", demo_book, "--hours", "3", "--seed", "4")
    assert short["minutes"] <= 180
    assert short["of_best"] > 0.8
    assert {"rig", "case", "why"} == set(short["dropped"][0])
    assert as_json("plan", demo_book, "--seed", "4") == as_json("plan", demo_book, "--seed", "4")


def test_plan_in_words_and_on_a_sheet(run, demo_book, tmp_path):
    code, out, _ = run("plan", demo_book, "--hours", "3", "--sheet", tmp_path / "sheet.pdf")
    assert code == 0
    assert "given up" in out
    assert (tmp_path / "sheet.pdf").read_bytes().startswith(b"%PDF")


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["plan", "none.blunt"], "no such file"),
        (["plan", "DEMO", "--hours", "0"], "--hours: 0 is out of range"),
        (["plan", "DEMO", "--hours", "soon"], "Invalid value for '--hours'"),
        (["plan", "DEMO", "--review", "x"], "The reviews are"),
        (["plan", "DEMO", "--seed", "-1"], "Invalid value for '--seed'"),
        (["plan", "DEMO", "--sheet", "sheet.doc"], "End the name in"),
        (["plan", "DEMO", "--sheet", "sheet.pdf", "--page", "A5"], "no size “A5”"),
    ],
)
def test_bad_input_is_one_line_and_exit_2(run, arguments, says, demo_book, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    code, out, err = run(*(demo_book if one == "DEMO" else one for one in arguments))
    assert code == 2
    assert says in err
    assert out == ""
    assert err.count("\n") == 1
    assert not list(tmp_path.glob("sheet*"))
