"""Stand-ins on the loopback, read through VISA as any meter."""

import socket

import numpy as np
import pytest
import pyvisa

from jaunty_copper.commissioning.meter import MeterError, number, take
from jaunty_copper.commissioning.model import METER_V, METER_V_SHARE
from jaunty_copper.commissioning.points import Point, everything_on
from jaunty_copper.plan.examples import example
from jaunty_copper.simulator.hidden import AsBuilt
from jaunty_copper.simulator.scpi import OVERLOAD, short_form, spelt
from jaunty_copper.simulator.training import TrainingBench

DEMO = example("orchard_station")
DROP = Point("volts", "F2.b", "INV.plus")
ON = everything_on(DEMO)


@pytest.fixture
def bench():
    made = TrainingBench(DEMO, None, seed=3)
    yield made
    made.close()


def instrument(bench):
    return bench.meters["multimeter"].instrument


# What a stand-in says, unchanged, to VISA


def test_visa_with_its_python_backend_reads_a_stand_in_unchanged(bench):
    manager = pyvisa.ResourceManager("@py")
    with manager.open_resource(bench.address("volts"), read_termination="\n", write_termination="\n") as meter:
        assert meter.query("*IDN?").startswith("stand-in,multimeter")
        meter.write("*RST;*CLS")
        meter.write("CONFigure:VOLTage:DC")
        assert 20.0 < float(meter.query("READ?")) < 30.0
        assert meter.query("syst:err?").startswith("0")
        meter.write("OVEN:HEAT 200")
        assert meter.query("SYSTem:ERRor:NEXT?").startswith("-113")
        assert meter.query("*IDN?;*OPC?").endswith(";1")
        assert meter.query_ascii_values("MEASure:VOLTage?")[0] == pytest.approx(25.0, rel=0.2)


def test_a_serial_line_does_as_well():
    made = TrainingBench(DEMO, None, serial=True)
    try:
        assert made.address("volts").startswith("ASRL/dev/")
        taken = take(made.address("volts"), Point("volts", "B1.plus", "B1.minus"), ON.id)
        assert taken.simulated
        assert 22.0 < taken.value < 30.0
    finally:
        made.close()


@pytest.mark.parametrize(
    ("said", "meant"),
    [
        ("MEASure:VOLTage:DC?", "MEAS:VOLT?"), ("meas:volt?", "MEAS:VOLT?"), (":SYST:ERR:NEXT?", "SYST:ERR?"),
        ("MEASU:VOLT?", ""), ("OVEN", ""),
    ],
)  # fmt: skip
def test_keywords_are_known_short_and_long_and_nothing_between(said, meant):
    assert short_form(said) == meant


def test_a_display_has_limited_counts():
    assert spelt("volts", 0.123456) == pytest.approx(0.12346)
    assert spelt("volts", 12.3456) == pytest.approx(12.346)
    assert spelt("volts", -24.567) == pytest.approx(-24.57)
    assert spelt("amps", 118.77) == pytest.approx(118.8)
    assert spelt("volts", 1000.0) == OVERLOAD


# What it measures


def test_a_reading_is_the_copper_as_built_with_noise_and_resolution(bench):
    true = AsBuilt(DEMO, None, 3).value(ON, DROP)
    read = np.array([take(bench.address("volts"), DROP, ON.id).value for _ in range(12)])
    sigma = METER_V + METER_V_SHARE * abs(true)
    assert abs(read.mean() - true) < 4.0 * sigma / np.sqrt(12.0)
    assert 0.3 * sigma < read.std() < 2.5 * sigma
    np.testing.assert_allclose(read, np.round(read, 5), atol=1e-9)


def test_every_quantity_has_its_meter(bench):
    amps = take(bench.address("amps"), Point("amps", "W21", ""), ON.id).value
    assert amps == pytest.approx(119.0, rel=0.1)
    assert take(bench.address("celsius"), Point("celsius", "W21", ""), ON.id).value > 30.0
    joint = take(bench.address("joint"), Point("joint", "W21", "a"), ON.id).value
    assert 0.001 < joint < 0.01


def test_probes_that_cannot_measure_so_read_nothing_and_a_wrong_place_is_told(bench):
    with pytest.raises(MeterError, match="cannot measure there"):
        take(bench.address("volts"), Point("volts", "B1.plus", "nowhere.x"), ON.id)
    with pytest.raises(MeterError, match="cannot measure there"):
        take(bench.address("volts"), DROP, "no-such-scenario")
    i = instrument(bench)
    i.answer('ROUT:PROB "amps","W21",""')
    assert float(i.answer("MEAS:VOLT?")) == 0.0
    assert i.answer("MEAS:CURR?") is None
    assert i.answer("SYST:ERR?").startswith("-113")
    assert i.answer('ROUT:PROB "volts"') is None
    assert i.answer("SYST:ERR?").startswith("-109")
    assert i.answer("SYST:ERR?").startswith("0")


# Meters that are not well


@pytest.mark.parametrize(
    ("manner", "told"), [("silent", "no reply within"), ("slow", "no reply within"), ("nonsense", "stand|no number")]
)
def test_a_meter_that_is_not_well_is_told_within_its_timeout(manner, told):
    made = TrainingBench(DEMO, None, manner=manner)
    try:
        with pytest.raises(MeterError, match=told):
            take(made.address("volts"), DROP, ON.id, timeout_s=0.3)
    finally:
        made.close()


def test_a_meter_that_is_not_there_is_told():
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    with pytest.raises(MeterError, match=r"nothing answers|no reply"):
        take(f"TCPIP0::127.0.0.1::{port}::SOCKET", DROP, timeout_s=0.5)
    with pytest.raises(MeterError, match="nothing answers"):
        take("ASRL/dev/no-such-line::INSTR", DROP, timeout_s=0.5)
    with pytest.raises(MeterError, match="no address of a meter"):
        take("the blue one", DROP, timeout_s=0.5)


def test_a_meter_that_hangs_up_half_way_is_told():
    with socket.create_server(("127.0.0.1", 0)) as server:
        port = server.getsockname()[1]

        def hang_up():
            line, _ = server.accept()
            line.recv(100)
            line.close()

        import threading

        threading.Thread(target=hang_up, daemon=True).start()
        with pytest.raises(MeterError):
            take(f"TCPIP0::127.0.0.1::{port}::SOCKET", DROP, timeout_s=0.5)


@pytest.mark.parametrize(
    ("reply", "told"),
    [("9.9E37", "beyond its range"), ("nan", "beyond its range"), ("", "no number"), ("12 V", "no number")],
)
def test_what_is_no_reading_is_never_taken_for_one(reply, told):
    with pytest.raises(MeterError, match=told):
        number(reply, "here")
    assert number("+1.250000E-02,VDC", "here") == 0.0125
