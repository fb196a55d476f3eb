"""Figures read as all the world writes them, and written to three digits without an exponent."""

import doctest
import re

import pytest
from hypothesis import given
from hypothesis import strategies as st

from jaunty_copper.parts import figures
from jaunty_copper.parts.figures import PREFIXES, figure, figure_rows, quantity, short


def test_the_examples_hold():
    assert doctest.testmod(figures).failed == 0


@given(st.floats(min_value=1e-8, max_value=9e11))
def test_a_quantity_reads_back_to_three_digits(value):
    said = quantity(value, "A")
    number, prefix = re.fullmatch(r"([\d.]+) (\D?)A", said).groups()
    factor = next(f for f, p in PREFIXES if p == prefix)
    assert float(number) * factor == pytest.approx(value, rel=5.01e-3)
    assert len(number.replace(".", "").lstrip("0")) <= 3
    assert 1.0 <= float(number) < 1000.0


@given(st.floats(allow_nan=True, allow_infinity=True))
def test_no_figure_has_an_exponent(value):
    assert "e" not in short(value)
    assert "e" not in short(value).lower()


@pytest.mark.parametrize("text", ["1_2", "nan", "inf", "0x1", "", "1 2", "1e9999", "٣", "--1", "1,5"])
def test_what_only_python_takes_is_no_figure(text):
    with pytest.raises(ValueError):
        figure(text)


@pytest.mark.parametrize(("text", "value"), [("1.5", 1.5), (" -2e-3 ", -0.002), ("+.5", 0.5), ("7.", 7.0)])
def test_figures(text, value):
    assert figure(text) == value


def test_rows_have_all_their_cells():
    assert list(figure_rows("\ufeffa,b\n1\n\n2,3,4\n")) == [(2, {"a": "1", "b": ""}), (4, {"a": "2", "b": "3"})]
