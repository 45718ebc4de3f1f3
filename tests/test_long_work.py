"""What long commands show of how far they are, and that the collector works again afterwards."""

import gc
import io
import sys

from blunt_ruler.cli.long_work import shown_progress, uncollected
from blunt_ruler.core.checks.all import check_runs
from blunt_ruler.core.types import no_progress


class Terminal(io.StringIO):
    def isatty(self):
        return True


def test_progress_is_one_line_that_is_taken_off(monkeypatch):
    seen = Terminal()
    monkeypatch.setattr(sys, "__stderr__", seen)
    with shown_progress() as step:
        step("Reading \x1b[2Jruns", 0.101)
        step("Reading \x1b[2Jruns", 0.102)
        step("Checking", 1.0)
    said = seen.getvalue()
    assert said.count("10 %") == 1
    assert "\\u001b[2J" in said
    assert "\n" not in said
    assert said.endswith("\r\x1b[K")


def test_without_a_terminal_nothing_is_shown(monkeypatch):
    seen = io.StringIO()
    monkeypatch.setattr(sys, "__stderr__", seen)
    with shown_progress() as step:
        step("Reading", 0.5)
    assert step is no_progress
    assert not seen.getvalue()


def test_checking_says_how_far_it_is_and_never_goes_back(demo_contents):
    shares = []
    check_runs(demo_contents, None, step=lambda _words, share: shares.append(share))
    assert shares[0] == 0.0
    assert shares == sorted(shares)
    assert 0.75 < shares[-1] < 1.0


def test_the_collector_works_again_after_what_goes_wrong():
    try:
        with uncollected():
            assert not gc.isenabled()
            raise ValueError
    except ValueError:
        pass
    assert gc.isenabled()
