"""The notation: what is typed, what it means, and that it comes back as it was."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.measure.kinds import Kind
from blunt_ruler.core.measure.reading import HowRead
from blunt_ruler.core.runs.entry import BadEntry, Entry, entry_text, entry_words, parse_entry


@pytest.mark.parametrize(
    ("typed", "average", "kind"),
    [
        ("69.5", 69.5, Kind.EYE),
        ("69,5", 69.5, Kind.EYE),
        ("60 fps", 60.0, Kind.EYE),
        ("45-50", 47.5, Kind.RANGE),
        ("45–50", 47.5, Kind.RANGE),
        ("45 to 50", 47.5, Kind.RANGE),
        ("50 - 45", 47.5, Kind.RANGE),
        ("~60", 60.0, Kind.ABOUT),
        ("about 60", 60.0, Kind.ABOUT),
        ("200+", 200.0, Kind.AT_LEAST),
        ("over 200", 200.0, Kind.AT_LEAST),
        ("<30", 30.0, Kind.AT_MOST),
        ("(58 61 63 55)", 59.25, Kind.EYE),
        # words of the trade: common practice, no source
        ("sub 30", 30.0, Kind.AT_MOST),
        ("sub-30 fps", 30.0, Kind.AT_MOST),
        ("under 30", 30.0, Kind.AT_MOST),
        ("60 locked", 60.0, Kind.AT_LEAST),
        ("60fps locked", 60.0, Kind.AT_LEAST),
        ("locked at 60", 60.0, Kind.AT_LEAST),
        ("capped to 144", 144.0, Kind.AT_LEAST),
        ("mid 50s", 55.0, Kind.RANGE),
        ("in the mid-50s", 55.0, Kind.RANGE),
        ("low 40s", 41.5, Kind.RANGE),
        ("high 70s", 78.0, Kind.RANGE),
        ("mid to high 70s", 76.5, Kind.RANGE),
        ("low 110s", 111.5, Kind.RANGE),
        ("70s", 74.5, Kind.RANGE),
    ],
)
def test_one_figure_as_people_write_it(typed, average, kind):
    (one,) = parse_entry(typed).passes
    assert one.average_fps == pytest.approx(average)
    assert one.average_how.kind is kind


def test_a_pass_holds_average_low_and_minimum():
    (one,) = parse_entry("69.5/57/31").passes
    assert (one.average_fps, one.low_1_fps, one.minimum_fps) == (69.5, 57.0, 31.0)


@pytest.mark.parametrize(
    ("typed", "figures"),
    [
        ("avg 52 min 38 max 81", (52, None, 38, 81)),
        ("52 avg 38 min 81 max", (52, None, 38, 81)),
        ("52 avg, 1% 38", (52, 38, None, None)),
        ("1% low 38, average 52", (52, 38, None, None)),
        ("52, 1% low: 38, min: 31", (52, 38, 31, None)),
        ("52 min 38", (52, None, 38, None)),
        ("avg=52,4 / min=38,1", (52.4, None, 38.1, None)),
        ("Max 81 Avg 52 fps", (52, None, None, 81)),
        ("about 52 avg, 1 % low 38", (52, 38, None, None)),
        ("avg 52 p1 38", (52, 38, None, None)),
    ],
)
def test_named_figures_stand_in_any_order(typed, figures):
    read = parse_entry(typed)
    (one,) = read.passes
    assert (one.average_fps, one.low_1_fps, one.minimum_fps, one.maximum_fps) == figures
    assert parse_entry(entry_text(read)) == read


def test_named_passes_are_parted_by_semicolons():
    read = parse_entry("avg 52 min 38; 53/40; avg 51 max 80")
    assert [one.average_fps for one in read.passes] == [52, 53, 51]
    assert entry_text(read) == "avg 52 min 38; 53/40; avg 51 max 80"


def test_passes_are_parted_by_spaces_semicolons_and_listing_commas():
    for typed in ("69.5 70.1 68.8", "69,5; 70,1; 68,8", "69.5, 70.1, 68.8"):
        assert [one.average_fps for one in parse_entry(typed).passes] == [69.5, 70.1, 68.8]


def test_the_looks_of_a_pass_are_kept():
    (one,) = parse_entry("(58 61 63 55)/40").passes
    assert one.average_how.looks == (58.0, 61.0, 63.0, 55.0)
    assert one.low_1_fps == 40.0


def test_what_did_not_run_keeps_its_words():
    assert parse_entry("no: artefacts, after 1/2 minute").outcome == "artefacts, after 1/2 minute"
    assert parse_entry("No").outcome


@pytest.mark.parametrize(
    ("typed", "says"),
    [
        ("1,234", "1.234 or 1234"),
        ("69,70", "69.70, or two passes"),
        ("1 234", "1234, or two passes"),
        ("57/69", "1 % low 69 is above the average 57"),
        ("69/50/55", "minimum 55 is above the 1 % low 50"),
        ("-5", "not understood"),
        ("0", "not a rate"),
        ("60/", "not a pass"),
        ("~45-50", "not understood"),
        ("1e5", "not understood"),
        ("１２", "not understood"),
        ("60x", "not understood"),
        ("(58 six)", "looks must be numbers"),
        ("200000", "impossibly high"),
        ("no 60", "not understood"),
        ("avg 52 avg 53", "names the average twice"),
        ("min 38 max 81", "no average"),
        ("avg 52 1% 18 0.1% 20", "0.1 % low 20 is above the 1 % low 18"),
        ("avg 52 0.1% ~20", "a 0.1 % low is one number"),
        ("avg 52 min", "do not go together"),
        ("avg min 52 38", "do not go together"),
        ("avg 30 min 38", "minimum 38 is above"),
        ("avg 52 min 30-38", "minimum is one number"),
    ],
)
def test_what_cannot_be_understood_or_means_two_things_says_so(typed, says):
    with pytest.raises(BadEntry, match=r".") as error:
        parse_entry(typed)
    assert says in str(error.value)


def test_a_score_is_one_number_and_thousands_are_asked_about():
    (one,) = parse_entry("4225", score=True).passes
    assert (one.score, one.average_fps) == (4225.0, None)
    for typed in ("4,225", "4.225"):
        with pytest.raises(BadEntry):
            parse_entry(typed, score=True)


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("89.4/77 90.1 ~91", "3 passes: 90.2 on average, one about; 1 % low 77 once"),
        ("45-50", "1 pass: between 45 and 50, middle 47.5"),
        ("(58 61 63 55)", "1 pass: 59.2 on 4 looks, 55 to 63"),
        ("200+", "1 pass: at least 200"),
        ("no: hung", "It did not run: hung"),
    ],
)
def test_the_hint_says_what_was_understood(typed, words):
    assert entry_words(parse_entry(typed)) == words


figure = st.builds(
    lambda whole, decimals, digits: f"{whole}.{digits:0{decimals}d}" if decimals else str(whole),
    st.integers(1, 999),
    st.integers(0, 2),
    st.integers(0, 9),
)
reading = st.one_of(
    figure,
    figure.map("~{}".format),
    figure.map("{}+".format),
    figure.map("<{}".format),
    st.tuples(figure, figure).map("-".join),
    st.lists(figure, min_size=1, max_size=6).map(lambda looks: f"({' '.join(looks)})"),
)
one_pass = st.one_of(reading, st.tuples(reading, st.just("0.5")).map("/".join))


@given(st.lists(one_pass, min_size=1, max_size=5))
def test_parsed_printed_and_parsed_again_it_is_the_same(words):
    typed = " ; ".join(words)
    read = parse_entry(typed)
    assert len(read.passes) == len(words)
    again = entry_text(read)
    assert parse_entry(again) == read
    assert entry_words(read)


@given(st.text(max_size=40))
def test_any_words_are_an_entry_or_a_sentence(words):
    for score in (False, True):
        try:
            read = parse_entry(words, score=score)
        except BadEntry as error:
            assert len(str(error)) < 400
        else:
            assert parse_entry(entry_text(read), score=score) == read


@given(st.text(alphabet="0123456789.,-+~/()<> no:;", max_size=24))
def test_any_mix_of_its_own_signs_too(words):
    test_any_words_are_an_entry_or_a_sentence.hypothesis.inner_test(words)


@given(
    st.lists(
        st.one_of(
            st.sampled_from(
                ["avg", "1%", "min", "max", "low", "mid", "0.1%", "sub", "locked", "to"]
            ),
            st.sampled_from(["52", "38.5", "50s", "~60", "200+", ",", ";", "/", "(5 6)", "12,000"]),
        ),
        max_size=9,
    ).map(" ".join)
)
def test_any_mix_of_its_own_words_too(words):
    test_any_words_are_an_entry_or_a_sentence.hypothesis.inner_test(words)


def test_an_empty_cell_says_nothing():
    assert parse_entry("  ") == Entry()
    assert entry_text(Entry()) == ""


def test_how_it_was_read_must_be_possible():
    for wrong in (
        {"kind": Kind.RANGE},
        {"kind": Kind.EYE, "edges": (1.0, 2.0)},
        {"kind": Kind.RANGE, "edges": (3.0, 2.0)},
        {"looks": (0.0, 1.0)},
    ):
        with pytest.raises(ValueError, match=r"."):
            HowRead(**wrong)
