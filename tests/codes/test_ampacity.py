"""Ampacity against the tables themselves, read from them by hand."""

from math import inf, sqrt

import pytest

from jaunty_copper.codes.ampacity import ampacity, bundle_factor
from jaunty_copper.codes.code import UnknownCode, code_name, code_names, code_of

NA, ISO = code_of("north_american_small_craft").ampacity, code_of("iso_small_craft").ampacity


def amps(table, area, insulation, terminal=200.0, ambient=30.0, engine=False, bundle=1, heat=inf):
    return ampacity(table, area, insulation, terminal, ambient, engine, bundle, heat)


@pytest.mark.parametrize(
    ("table", "area", "insulation", "expected"),
    [
        (NA, 13.30, 105, 120), (NA, 107.2, 60, 300), (NA, 0.823, 200, 25), (NA, 53.48, 90, 245),
        (ISO, 10, 70, 65), (ISO, 150, 200, 560), (ISO, 0.75, 60, 8), (ISO, 50, 105, 270),
    ],
)  # fmt: skip
def test_a_row_and_a_column_of_the_table(table, area, insulation, expected):
    found = amps(table, area, insulation)
    assert found.amps == expected
    assert found.governs == "insulation"


def test_a_size_between_rows_uses_the_smaller_and_a_class_between_columns_the_cooler():
    assert amps(NA, 16.0, 105).amps == 120
    assert amps(ISO, 16.0, 90).amps == 100
    assert amps(ISO, 20.0, 100).amps == 100


def test_insulation_cooler_than_every_column_carries_nothing():
    assert amps(NA, 10.0, 50).amps == 0.0


def test_engine_space_factors():
    found = amps(NA, 13.30, 105, engine=True)
    assert found.amps == pytest.approx(120 * 0.85)
    assert found.governs == "engine space"
    assert amps(ISO, 10, 70, engine=True).amps == pytest.approx(65 * 0.75)
    assert amps(ISO, 10, 60, engine=True).amps == 0.0


def test_the_engine_space_factor_holds_up_to_its_own_temperature_and_falls_beyond():
    for table, area, standing, factor in ((NA, 13.30, 50.0, 0.85), (ISO, 16.0, 60.0, 0.86)):
        full = amps(table, area, 105).amps
        assert amps(table, area, 105, ambient=standing, engine=True).amps == pytest.approx(full * factor)
        hotter = amps(table, area, 105, ambient=70.0, engine=True)
        assert hotter.amps == pytest.approx(full * factor * sqrt((105 - 70) / (105 - standing)))
        assert hotter.governs == "engine space"
    warm = amps(NA, 13.30, 105, ambient=70.0)
    assert warm.amps == pytest.approx(120 * sqrt(35 / 75))
    assert warm.governs == "ambient"
    assert amps(NA, 13.30, 60, ambient=65.0, engine=True).amps == 0.0


def test_cool_air_gives_no_credit_and_air_at_the_limit_leaves_nothing():
    assert amps(NA, 13.30, 105, ambient=0.0).amps == 120
    assert amps(NA, 13.30, 60, ambient=60.0).amps == 0.0


def test_company_lowers():
    assert [bundle_factor(NA, n) for n in (1, 2, 3, 4, 6, 7, 24, 25, 60)] == [1, 1, 0.7, 0.6, 0.6, 0.5, 0.5, 0.4, 0.4]
    found = amps(NA, 13.30, 105, bundle=4)
    assert found.amps == pytest.approx(72.0)
    assert found.governs == "bundling"


def test_terminals_limit_hot_insulation_by_their_own_column():
    found = amps(NA, 13.30, 200, terminal=75.0)
    assert found.amps == 95
    assert found.governs == "terminals"
    assert found.by_table == 135


def test_the_heat_balance_governs_where_it_is_lower():
    found = amps(NA, 13.30, 105, heat=77.0)
    assert (found.amps, found.governs) == (77.0, "heat balance")


def test_a_size_thinner_than_the_table_has_the_heat_balance_only():
    found = amps(NA, 0.5, 105, heat=9.0)
    assert (found.amps, found.by_table) == (9.0, inf)


def test_every_limit_of_every_book_has_unit_and_source_and_all_books_have_the_same():
    books = [code_of(name) for name in code_names()]
    assert len(books) >= 2
    for b in books:
        assert b.limits.keys() == books[0].limits.keys()
        assert all(limit.unit and limit.source for limit in b.limits.values())
        assert b.ampacity.source
        assert list(b.ampacity.areas_mm2) == sorted(b.ampacity.areas_mm2)
        for row in b.ampacity.amps:
            assert list(row) == sorted(row)


def test_a_practice_that_does_not_exist_names_those_that_do():
    for reading in (code_of, code_name):
        with pytest.raises(UnknownCode, match="iso_small_craft"):
            reading("none")


def test_the_head_of_a_file_names_the_code_as_the_whole_of_it_does():
    assert {name: code_name(name) for name in code_names()} == {name: code_of(name).name for name in code_names()}
