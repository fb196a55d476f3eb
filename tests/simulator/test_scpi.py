"""The interpreter by itself: whatever is said to it, it answers in kind or queues an error."""

import string

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_copper.commissioning.meter import NO_NUMBER
from jaunty_copper.commissioning.model import METER_A, METER_A_SHARE
from jaunty_copper.commissioning.points import Point, to_measure_in
from jaunty_copper.plan import edits
from jaunty_copper.simulator.hidden import AsBuilt
from jaunty_copper.simulator.scpi import COUNTS, OVERLOAD, RANGES, Instrument, short_form, spelt
from tests.build import loop

PLAN = loop()
SCENARIOS = {s.id: s for s in to_measure_in(PLAN)}
AT_BATTERY = Point("volts", "B.plus", "B.minus")


def meter(*measures, probe=AT_BATTERY, plan=PLAN, seed=1):
    scenarios = {s.id: s for s in to_measure_in(plan)}
    return Instrument(
        "multimeter",
        measures or ("volts", "celsius"),
        AsBuilt(plan, None, seed),
        scenarios,
        probe,
        np.random.default_rng(seed),
    )


SAID = st.text(alphabet=string.ascii_letters + string.digits + ':;?*" ,.-', max_size=60)


@settings(max_examples=300, deadline=None)
@given(SAID)
def test_whatever_is_said_it_never_falls_over(line):
    m = meter()
    reply = m.answer(line)
    assert reply is None or "\n" not in reply
    # And it goes on as before.
    assert m.answer("*RST") is None
    m.answer("*CLS")
    assert m.answer("SYST:ERR?") == '0,"No error"'


@given(st.sampled_from(["MEASure", "VOLTage", "CURRent", "SYSTem", "ROUTe"]), st.integers(0, 8))
def test_a_keyword_is_its_short_form_or_the_whole_and_nothing_between(word, cut):
    least = sum(c.isupper() for c in word)
    said = word[: least + cut]
    known = said in (word[:least], word)
    assert bool(short_form(said)) == known
    assert bool(short_form(said.lower())) == known


@pytest.mark.parametrize("quantity", list(RANGES))
@given(value=st.floats(-3000.0, 3000.0, allow_nan=False))
def test_a_display_is_off_by_half_a_count_at_most(quantity, value):
    read = spelt(quantity, value)
    top = next((r for r in RANGES[quantity] if abs(value) < r), None)
    if top is None:
        assert read == OVERLOAD
    else:
        assert abs(read - value) <= 0.51 * top / min(COUNTS, {"volts": COUNTS, "amps": 4000, "celsius": 2000}[quantity])


def test_errors_come_in_their_order_and_are_cleared():
    m = meter()
    m.answer("OVEN;ROUT:PROB 1;SIM:SCEN nowhere")
    assert [m.answer("SYST:ERR?")[:4] for _ in range(4)] == ["-113", "-109", "-224", '0,"N']
    m.answer("OVEN")
    m.answer("*CLS")
    assert m.answer("SYST:ERR?").startswith("0")


def test_what_is_configured_is_read_and_reset_goes_back_to_the_first():
    m = meter("volts", "celsius", probe=Point("celsius", "out", ""))
    m.answer("CONF:TEMP")
    assert float(m.answer("READ?")) > 10.0
    m.answer("*RST")
    assert float(m.answer("READ?")) == 0.0
    assert m.answer("CONF:CURR") is None
    assert m.answer("SYST:ERR?").startswith("-113")


def test_probes_and_scenario_are_told_back():
    m = meter()
    m.answer('ROUT:PROB "volts","B.plus","E.plus";SIM:SCEN "s"')
    assert m.answer("ROUT:PROB?") == '"volts","B.plus","E.plus"'
    assert m.answer("SIM:SCEN?") == '"s"'
    assert m.answer("SYST:VERS?;*TST?;*ESR?") == "1999.0;0;0"


def test_the_mean_of_many_readings_is_the_copper_and_their_spread_the_clamp():
    m = meter("amps", probe=Point("amps", "out", ""))
    true = m.built.value(SCENARIOS["measuring"], m.probe)
    read = np.array([float(m.answer("MEAS:CURR?")) for _ in range(400)])
    sigma = METER_A + METER_A_SHARE * true
    assert read.mean() == pytest.approx(true, abs=4.0 * sigma / 20.0)
    assert read.std() == pytest.approx(sigma, rel=0.2)


def test_a_system_that_has_collapsed_has_nothing_to_read():
    m = meter(plan=edits.change(PLAN, "E", power_w=1e5))
    assert float(m.answer("MEAS:VOLT?")) == NO_NUMBER
    assert m.answer("SYST:ERR?").startswith("-230")
