"""Profiles and fingerprints as text: what was kept is what is read."""

import base64

import pytest
from hypothesis import given
from hypothesis import strategies as st

from blunt_ruler.core.measure.profile import _raw


@given(st.binary(max_size=90))
def test_text_is_read_as_base64_reads_it(raw):
    assert _raw(base64.b85encode(raw).decode()) == raw


@given(st.text(st.characters(min_codepoint=33, max_codepoint=255), max_size=12))
def test_what_is_no_such_text_is_refused_as_base64_refuses_it(text):
    try:
        expected = base64.b85decode(text)
    except ValueError:
        with pytest.raises(ValueError):
            _raw(text)
    else:
        assert _raw(text) == expected
