"""What a form shows of a value is what it reads back, for every field of every form."""

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from blunt_ruler.core.records.hardware import Card, Dock, Host, Link, Rig, RigState
from blunt_ruler.core.records.plan_settings import Hours, SwapMinutes, TitleTimes
from blunt_ruler.core.records.pricing import (
    Audience,
    ExchangeRate,
    NoiseReading,
    Price,
    Readings,
    WorthSettings,
)
from blunt_ruler.core.records.records import Case, Meters, Title
from blunt_ruler.core.records.thresholds import Thresholds
from blunt_ruler.core.records.writeup_settings import Disclosure
from blunt_ruler.core.rigs.fields import (
    FieldKind,
    bounds_words,
    field_text,
    fields_of,
    read_field,
    with_field,
)
from blunt_ruler.core.rigs.notation import BadSpec
from blunt_ruler.core.rigs.worth_notation import noise_text, parse_noise, parse_rates, rates_text

SAMPLES = (
    Host(id="h", name="Quillon 24"),
    Card(id="c", name="Marram 12"),
    Dock(id="d", name="Sluice"),
    Link(id="l", name="cable"),
    Rig(id="r", name="Rig"),
    RigState(),
    Hours(),
    Price(id="p"),
    Readings(id="r", rig_id="r"),
    WorthSettings(),
    Audience(),
    Disclosure(what="Sluice"),
    Thresholds(),
    Case(id="c", title_id="t"),
    Title(id="t", name="Tidewrack"),
    Meters(),
)
FIELDS = [(sample, spec) for sample in SAMPLES for spec in fields_of(type(sample))]


def ids(pair):
    return f"{type(pair[0]).__name__}.{pair[1].name}"


@pytest.mark.parametrize("pair", FIELDS, ids=ids)
def test_what_is_shown_reads_back_as_the_same(pair):
    sample, spec = pair
    text = spec.text(getattr(sample, spec.name))
    assert with_field(sample, spec.name, text) == sample


@pytest.mark.parametrize(
    "pair", [one for one in FIELDS if one[1].kind is FieldKind.NUMBER], ids=ids
)
def test_a_number_is_read_however_it_is_typed(pair):
    sample, spec = pair
    model = type(sample)
    for text, value in (("0,75", 0.75), ("3", 3.0), (f"2 {spec.typed_unit}", 2.0), (" 4 ", 4.0)):
        assert read_field(model, spec.name, text) == value / spec.typed_scale
    with pytest.raises(BadSpec, match="is not a number"):
        with_field(sample, spec.name, "twelve")


@pytest.mark.parametrize(
    "pair", [one for one in FIELDS if one[1].kind is FieldKind.NUMBER], ids=ids
)
def test_a_number_out_of_bounds_is_refused_with_them(pair):
    sample, spec = pair
    words = bounds_words(type(sample), spec.name)
    assert words.startswith("Give ")
    with pytest.raises(BadSpec, match="cannot be"):
        with_field(sample, spec.name, "-12345678901")


@pytest.mark.parametrize("pair", [one for one in FIELDS if one[1].name == "notes"], ids=ids)
def test_words_that_are_too_long_are_counted_not_repeated(pair):
    sample, spec = pair
    with pytest.raises(BadSpec, match=r"has 5000 characters\. Give at most 4000 characters"):
        with_field(sample, spec.name, "x" * 5000)


@pytest.mark.parametrize(
    "pair", [one for one in FIELDS if one[1].kind is FieldKind.CHOICE], ids=ids
)
def test_every_choice_can_be_chosen(pair):
    sample, spec = pair
    for choice in spec.choices:
        chosen = with_field(sample, spec.name, choice)
        shown = field_text(getattr(chosen, spec.name))
        assert shown == choice or (shown, choice) == ("", "unknown")
    with pytest.raises(BadSpec, match="is not a choice"):
        with_field(sample, spec.name, "perhaps")


def test_a_share_is_typed_as_per_cent():
    audience = Audience(name="a")
    for text in ("150", "150 %", "150%"):
        assert with_field(audience, "gain_at_least", text).gain_at_least == 1.5
    spec = next(one for one in fields_of(Audience) if one.name == "gain_at_least")
    assert (spec.text(1.5), spec.text(None), spec.typed_unit) == ("150", "", "%")
    assert with_field(audience, "loss_at_most", "12,5%").loss_at_most == 0.125
    with pytest.raises(BadSpec, match="at most 100"):
        with_field(audience, "loss_at_most", "120 %")


@pytest.mark.parametrize("model", [TitleTimes, SwapMinutes])
def test_forms_of_the_plan_have_words_and_units(model):
    for spec in fields_of(model):
        assert spec.says
        assert spec.unit or spec.kind is not FieldKind.NUMBER


words = st.text("abcdefgh ", min_size=1, max_size=12).map(str.strip).filter(bool)


@given(
    st.lists(
        st.builds(
            NoiseReading,
            source=words,
            dba=st.integers(0, 150).map(float),
            distance_m=st.none() | st.integers(1, 400).map(lambda n: n / 4),
        ),
        max_size=4,
    )
)
def test_noise_is_typed_as_it_is_shown(readings):
    assert list(parse_noise(noise_text(readings))) == readings


@given(
    st.lists(
        st.builds(
            ExchangeRate,
            currency=st.text("ABCXYZ", min_size=3, max_size=3),
            rate=st.integers(1, 10_000).map(lambda n: n / 100),
        ),
        max_size=4,
    )
)
def test_rates_are_typed_as_they_are_shown(rates):
    assert list(parse_rates(rates_text(rates))) == rates


@pytest.mark.parametrize(
    ("text", "source", "dba", "distance_m"),
    [
        ("card fan 34 at 0.5 m", "card fan", 34.0, 0.5),
        ("card: 34,5 dB(A) @ 1 m", "card", 34.5, 1.0),
        ("41 dBA at 2m", "all of it", 41.0, 2.0),
        ("card fan 34", "card fan", 34.0, None),
        ("38 dBA", "all of it", 38.0, None),
    ],
)
def test_noise_is_read_in_several_spellings(text, source, dba, distance_m):
    (one,) = parse_noise(text)
    assert (one.source, one.dba, one.distance_m) == (source, dba, distance_m)


@pytest.mark.parametrize(
    "text", ["fan", "fan at 1 m", "fan 34 at", "fan 200 at 1 m", "fan 30 at 0 m"]
)
def test_noise_without_level_or_distance_is_refused(text):
    with pytest.raises(BadSpec, match="noise by source"):
        parse_noise(text)


@pytest.mark.parametrize("text", ["0.9", "USD", "EURO 1", "USD 0", "USD -1"])
def test_a_rate_without_currency_or_value_is_refused(text):
    with pytest.raises(BadSpec, match="exchange rates"):
        parse_rates(text)


@pytest.mark.parametrize(
    ("model", "values"),
    [
        (Price, {"id": "p", "currency": "E1R"}),
        (Price, {"id": "p", "amount": float("nan")}),
        (Readings, {"id": "r", "rig_id": "r", "idle_wall_w": 0}),
        (NoiseReading, {"source": "a", "dba": 30, "distance_m": 0}),
        (Audience, {"name": " "}),
        (WorthSettings, {"years": 0}),
    ],
)
def test_values_that_cannot_be_are_refused(model, values):
    with pytest.raises(ValidationError):
        model(**values)
