"""Hours of a day as people write them."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaunty_copper.plan.clock import NotOnTheClock, SunNotRead, clock, hours_read, hours_text, sun_read, sun_text

SHARES = st.one_of(st.sampled_from([0.0, 0.0, 1.0, 1.0, 0.5, 0.25, 0.1]), st.floats(0.0, 1.0))


@pytest.mark.parametrize(
    ("text", "hours"),
    [
        ("18-23", {18: 1, 19: 1, 20: 1, 21: 1, 22: 1}),
        ("22-1", {22: 1, 23: 1, 0: 1}),
        ("6-8 50 %, 17:30-19", {6: 0.5, 7: 0.5, 17: 0.5, 18: 1}),
        ("5:15 to 5:45", {5: 0.5}),
        ("6–7; 8-9", {6: 1, 8: 1}),
        ("0-24", dict.fromkeys(range(24), 1)),
        ("", None),
    ],
)
def test_spans(text, hours):
    assert hours_read(text) == (() if hours is None else pytest.approx(tuple(hours.get(k, 0.0) for k in range(24))))


@pytest.mark.parametrize("text", ["noon", "25-26", "6-8 120", "6-8, 7-9", "6", "5:70-6", "0 1 2", "1 " * 23 + "2"])
def test_what_is_no_span_is_refused_with_its_words(text):
    with pytest.raises(NotOnTheClock) as error:
        hours_read(text)
    assert str(error.value)


def test_a_row_of_a_spreadsheet_can_be_pasted():
    shares = tuple(k / 23 for k in range(24))
    for between in ("\t", " ", "; ", ", "):
        assert hours_read(between.join(f"{x:.15g}" for x in shares)) == pytest.approx(shares)


@given(st.lists(SHARES, min_size=24, max_size=24))
def test_what_is_written_is_read_again(shares):
    if any(x > 1e-4 for x in shares):
        assert hours_read(hours_text(tuple(shares))) == pytest.approx(tuple(shares), abs=1e-6)


def test_the_shortest_words():
    assert hours_text(hours_read("9-11:30, 14-15")) == "9-11:30, 14-15"
    assert hours_text(hours_read("22-6")) == "22-6"
    assert hours_text(()) == ""
    assert clock(14.51) == "14:31"
    assert clock(38.0, day=True) == "day 2, 14:00"


def test_sun():
    assert sun_read("100 30, 5 %") == pytest.approx((1.0, 0.3, 0.05))
    assert sun_text(sun_read("100 30 5")) == "100 30 5"
    for text in ("bright", "101", "10 " * 31):
        with pytest.raises(SunNotRead):
            sun_read(text)
