"""Tables whose rows have other lengths than their head: nobody can say which figure is whose."""

import pytest

from blunt_ruler.exchange.tables.cells import BadShape, pasted_rows
from blunt_ruler.exchange.tables.files import is_table


@pytest.mark.parametrize(
    ("text", "what"),
    [
        ("Rig,Tidewrack,Hall, large,Skitter\nBox,10,20,30\nDock,40,50,60", "row 1: it has 5 cells"),
        ("Rig;A;B;C\nBox;1;2\nDock;3;4\n", "every row below it 3"),
        ("Rig,Tidewrack,Skitter\nBox,19,5,30,2\nDock,40,1,60,7", "commas part its cells"),
    ],
)
def test_they_are_refused_in_a_sentence(text, what, tmp_path, run):
    with pytest.raises(BadShape, match=what):
        pasted_rows(text)
    path = tmp_path / "t.csv"
    path.write_text(text)
    assert is_table(path)
    code, _, err = run("import", tmp_path / "b.blunt", path)
    assert code == 2 and what.removeprefix("row 1: ") in err and err.count("\n") == 1


@pytest.mark.parametrize(
    "text",
    [
        "Rig,Tidewrack,Skitter,,\nBox,10,20\nDock,40,50",  # blank heads
        "Rig,Tidewrack,Skitter,Notes\nBox,10,20\nDock,40,50",  # notes nobody made
        "Rig,Tidewrack,Skitter\nBox,10\nDock,40,50",  # one figure is missing
        "Rig;Tidewrack;Skitter\nBox;19,5;30,2\nDock;40,1;60,7",
        'Rig,"Hall, large",Skitter\nBox,10,20\nDock,40,50',
    ],
)
def test_others_are_read(text):
    assert len(pasted_rows(text)) == 3
