import numpy as np
import pytest

from jaunty_copper.network.study import study
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Breaker, Fuse, PowerLoad, Zone
from jaunty_copper.protection.devices import instead_of
from jaunty_copper.protection.protection import Protection
from jaunty_copper.protection.selectivity import in_series
from tests.build import fused


def test_a_device_opens_soonest_at_its_hottest_and_latest_at_its_coolest():
    plan = edits.add(fused(), Zone(id="hot", ambient_c=60.0))
    plan = edits.replace_item(plan, "F1", Breaker(id="K", family="thermal-breaker", rating_a=25.0, zone="hot"))
    plan = edits.change(plan, "s", ambient_c={"hot": 40.0})
    plan = edits.add(plan, plan.scenarios[0].model_copy(update={"id": "t", "ambient_c": {}}))
    d = Protection(study(plan)).devices["K"]
    assert (d.fast_a, d.slow_a) == (pytest.approx(25.0 * 0.84), pytest.approx(25.0 * 0.93))
    # On its gates at twice what it is worth there: 10 s and 60 s.
    assert float(d.shortest(np.array(2.0 * d.fast_a))) == pytest.approx(10.0)
    assert float(d.longest(np.array(2.0 * d.slow_a))) == pytest.approx(60.0)


def test_devices_of_a_path_come_from_the_source_on():
    assert in_series(Protection(study(fused())).faults, "E.plus") == ("F0", "F1")
    with pytest.raises(KeyError):
        in_series(Protection(study(fused())).faults, "nowhere")


def test_two_devices_that_feed_the_same_are_one_circuit():
    pairs = {(p.upstream, p.downstream): p for p in Protection(study(fused())).pairs}
    assert pairs["F0", "F1"].same
    more = edits.add_circuit(
        fused(), "P", "M", PowerLoad(id="E2", power_w=20.0), Fuse(id="F2", family="blade-fuse", rating_a=5.0)
    )
    pairs = {(p.upstream, p.downstream): p for p in Protection(study(more)).pairs}
    assert not pairs["F0", "F1"].same
    assert ("F1", "F2") not in pairs


def test_warm_air_moves_the_thermal_part_of_a_breaker_and_not_its_magnet():
    """15 times the rating opens within 20 ms whatever the air; less than that does not, though the rating is worth less."""
    plan = edits.add(fused(), Zone(id="hot", ambient_c=60.0))
    plan = edits.replace_item(plan, "F1", Breaker(id="F1", family="dc-miniature-breaker", rating_a=10.0, zone="hot"))
    device = Protection(study(plan)).devices["F1"]
    assert device.slow_a < 9.0
    assert float(device.longest(np.array(150.0))) == pytest.approx(0.02, rel=1e-6)
    assert float(device.longest(np.array(15.0 * device.slow_a))) > 0.02
    assert float(device.longest(np.array(2.0 * device.slow_a))) == pytest.approx(
        float(device.band.longest(2.0)), rel=1e-12
    )
    other = instead_of(device, library(), device.family, 20.0)
    assert float(other.longest(np.array(300.0))) == pytest.approx(0.02, rel=1e-6)
