"""Rigs that nobody described: which card each has is read off its name."""

import pytest

from blunt_ruler.core.claims.names import is_full_slot, named_card


@pytest.mark.parametrize(
    ("name", "card"),
    [
        ("Tower + Marram 12", "marram 12"),
        ("Mini PC + Marram 12 (USB4)", "marram 12"),
        ("Marram 12 over OCuLink 4 lanes", "marram 12"),
        ("Quern 16 XL, x4", "quern 16"),
        ("Laptop 14 + Quern 16", "quern 16"),
        ("Big card in the dock", "big card"),
        ("The same card in the tower", ""),
        ("Card on USB4", ""),
        ("x4 Gen 3 riser", ""),
        ("PCIe 4.0 x4", ""),
        ("USB 4 box", ""),
        ("OCuLink", ""),
        ("Dock 40 Gb/s", ""),
        ("Built-in", ""),
        ("Windows 11 laptop", ""),
        ("Dock 1, driver 560", ""),
        ("Card 2 in the dock", "card 2"),
    ],
)
def test_the_card_that_a_name_names(name, card):
    assert named_card(name) == card


@pytest.mark.parametrize(
    ("name", "full"),
    [("Tower + Marram 12", True), ("Full slot", True), ("Desktop x16", True), ("Dock", False)],
)
def test_a_slot_of_its_own_machine(name, full):
    assert is_full_slot(name) == full


def test_each_card_is_held_against_itself_in_the_tower(tmp_path, run):
    table = tmp_path / "cards.tsv"
    table.write_text(
        "Game\tMini PC\tMini PC + Marram 12\tTower + Marram 12\tMini PC + Quern 16"
        "\tTower + Quern 16\n"
        "Tidewrack 1080p\t33\t121\t139\t148\t186\nSkitter 1080p\t88\t262\t331\t271\t402\n"
    )
    book = tmp_path / "cards.blunt"
    assert run("import", book, table)[0] == 0
    _, said, _ = run("compare", book)
    # 121/139 and 262/331: the geometric mean is 0.830; of the other card 0.732.
    assert "Mini PC + Marram 12 keeps about 83\u202f% of its speed in Tower + Marram 12" in said
    assert "Mini PC + Quern 16 keeps about 73\u202f% of its speed in Tower + Quern 16" in said
    assert "Mini PC + Marram 12 is about 2" not in said  # nor against the bigger card
