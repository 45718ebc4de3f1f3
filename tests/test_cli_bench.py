"""The bench commands as a script sees them: link, fit-check, probe."""

import pytest

from blunt_ruler.bench.machines import lay_out

LINK_KEYS = {
    *("negotiated", "line_rate_gtps", "encoded_gbps", "encoded_gb_per_s", "packet_efficiency"),
    *("payload_gb_per_s", "tunnel_gbps", "practice_low_gb_per_s", "practice_high_gb_per_s"),
    *("return_gb_per_s", "left_gb_per_s", "per_frame_mb"),
}


def test_link_gives_every_step(as_json):
    link = as_json("link", "--hop", "4.0x4", "--hop", "cord: 3.0x8", "--payload", "128")
    assert set(link) >= LINK_KEYS
    assert link["negotiated"] == {
        "generation": 3,
        "lanes": 4,
        "set_by": {"generation": "cord", "lanes": "hop 1"},
    }
    assert link["line_rate_gtps"] == 8.0
    # lstopo (hwloc): generation 3 moves 984.615 MB/s per lane.
    assert link["encoded_gb_per_s"] == pytest.approx(4 * 0.984615, rel=1e-5)
    assert link["encoded_gbps"] == pytest.approx(8 * link["encoded_gb_per_s"])
    assert link["packet_efficiency"] == pytest.approx(128 / 148)
    assert link["left_gb_per_s"] == pytest.approx(link["encoded_gb_per_s"] * 128 / 148)
    assert link["per_frame_mb"] == pytest.approx(link["left_gb_per_s"] * 1000 / 60)
    assert link["tunnel_gbps"] is None


def test_link_with_a_tunnel_a_screen_and_a_measured_figure(as_json):
    link = as_json(
        *("link", "--hop", "4.0x4", "--tunnel", "40", "--screen", "1920x1080@60x32"),
        *("--at-fps", "120"),
    )
    assert link["return_gb_per_s"] == pytest.approx(0.497664)
    # The picture goes from card to host: host to card keeps all of it.
    assert link["left_gb_per_s"] == link["left_down_gb_per_s"] == pytest.approx(4.5)
    assert link["left_back_gb_per_s"] == pytest.approx(4.5 - 0.497664)
    assert link["per_frame_mb"] == pytest.approx(4.5 * 1000 / 120)
    measured = as_json("link", "--hop", "4.0x4", "--measured", "2.6")
    assert measured["left_gb_per_s"] == 2.6
    only_tunnel = as_json("link", "--tunnel", "20")
    assert only_tunnel["negotiated"] is None
    assert only_tunnel["left_gb_per_s"] == pytest.approx(2.25)


def test_link_in_words_names_each_step(run):
    code, out, _ = run("link", "--hop", "4.0x16", "--hop", "dock: 4.0x4", "--measured", "2.5")
    assert code == 0
    assert "dock sets 4 lanes" in out
    assert "left for the game" in out
    assert "half the lanes" in out


def test_fit_check_lists_findings_the_worst_first(as_json, run, demo_book):
    findings = as_json("fit-check", demo_book, "--rig", "Sluice Marram 16")
    assert [one["severity"] for one in findings] == ["blocking", "caution", "caution"]
    assert {"check", "severity", "what", "numbers", "do"} == set(findings[0])
    width = next(one for one in findings if one["check"] == "width")
    assert width["numbers"] == {"card_slots": 2.7, "room_slots": 2.5}
    assert "ran on it all the same" in width["what"]
    assert as_json("fit-check", demo_book, "--rig", "workbench-marram-12") == []
    code, out, _ = run("fit-check", demo_book, "--rig", "Workbench Marram 12")
    assert code == 0
    assert "Nothing found against" in out


def test_probe_reads_the_tree_it_is_given(as_json, run, tmp_path):
    machine = as_json("probe", "--root", lay_out("quillon-cord", tmp_path))
    card = machine["displays"][0]
    assert (card["link"]["generation"], card["link"]["lanes"]) == (4, 4)
    assert card["bridges"][0]["address"] == "0000:00:01.1"
    code, out, _ = run("probe", "--root", tmp_path)
    assert code == 0
    assert "0000:01:00.0 runs at PCIe 4.0 x4 of 4.0 x16" in out


@pytest.mark.parametrize(
    ("arguments", "says"),
    [
        (["link"], "no hop says what it can carry"),
        (["link", "--hop", "4.0x3"], "no link has 3 lanes"),
        (["link", "--hop", "9.0x4"], "generation 9"),
        (["link", "--hop", "fast"], "is not a hop"),
        (["link", "--hop", "4.0x4", "--at-fps", "0"], "--at-fps: 0 is out of range"),
        (["link", "--hop", "4.0x4", "--measured", "-2"], "--measured: -2 is out of range"),
        (["link", "--hop", "4.0x4", "--tunnel", "0"], "--tunnel: 0 is out of range"),
        (["link", "--hop", "4.0x4", "--payload", "100"], "no device uses 100 bytes"),
        (["link", "--hop", "4.0x4", "--screen", "big"], "is not a screen"),
        (["link", "--hop", "1.0x1", "--screen", "3840x2160@60"], "does not fit through it"),
        (["fit-check", "DEMO"], "Missing option '--rig'"),
        (["fit-check", "DEMO", "--rig", "x"], "no rig named “x”"),
        (["fit-check", "none.blunt", "--rig", "x"], "no such file"),
        (["probe", "--root", "DEMO"], "no device tree"),
    ],
)
def test_nonsense_is_one_line_and_exit_2(run, arguments, says, demo_book):
    code, out, err = run(*(demo_book if one == "DEMO" else one for one in arguments))
    assert code == 2
    assert says in err
    assert out == ""
    assert err.count("\n") == 1


def test_what_another_system_shows_is_read_from_a_text(run, tmp_path):
    text = tmp_path / "shown.txt"
    text.write_text("PCIe x16 4.0 @ x4 3.0\nDriver version 31.0.15\n")
    code, out, _ = run("probe", "--pasted", text)
    assert code == 0
    assert "The pasted text runs at PCIe 3.0 x4 of 4.0 x16." in out
    assert "Besides: driver version 31.0.15." in out
    text.write_text("nothing of the kind")
    code, _, err = run("probe", "--pasted", text)
    assert code == 2
    assert "no link, driver version or error code" in err
