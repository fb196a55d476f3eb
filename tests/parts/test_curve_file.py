import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from jaunty_copper.network.study import study
from jaunty_copper.parts.catalogue import library
from jaunty_copper.parts.curve_file import CurveError, read_curve
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.plan import edits
from jaunty_copper.plan.files import dumps, parse
from jaunty_copper.protection.protection import Protection
from tests.build import fused

GOOD = """# measured on the bench
current_a,shortest_s,longest_s
55,,3600
100,2,20

300,0.05,0.5
"""


def family(gates, **more):
    like = library().device_families["blade-fuse"].model_dump()
    return DeviceFamily.model_validate({**like, "id": "own", "source": "sheet 1", "gates": gates, **more})


def test_a_curve_is_read_as_multiples_of_its_rating():
    assert read_curve(GOOD, 50.0) == ((1.1, None, 3600.0), (2.0, 2.0, 20.0), (6.0, 0.05, 0.5))
    german = GOOD.replace(",", ";").replace("0.5", "0,5")
    assert read_curve(german, 50.0)[-1] == (6.0, 0.05, 0.5)


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ("current_a,shortest_s,longest_s\n10,1\n", "line 2: expected current_a"),
        ("10,1,2\n20,x,1\n", "line 2: shortest_s is no number: 'x'"),
        ("10,1,2\n20,-1,1\n", "line 2: shortest_s must be above 0"),
        ("10,1,2\n,1,1\n", "line 2: current_a is missing"),
        ("10,1,2\n", "at least two lines"),
        ("10,1,inf\n20,1,2\n", "longest_s is no number"),
    ],
)
def test_a_bad_curve_is_told_with_file_line_and_reason(text, told):
    with pytest.raises(CurveError, match=r"sheet\.csv") as error:
        read_curve(text, 10.0, "sheet.csv")
    assert told in str(error.value)


@given(st.text(max_size=200), st.floats(-5.0, 100.0))
def test_whatever_stands_in_the_file_it_is_gates_or_one_clear_error(text, rating):
    told = ""
    gates = ()
    try:
        gates = read_curve(text, rating, "f.csv")
    except CurveError as error:
        told = str(error)
    assert told.startswith("f.csv") or len(gates) >= 2


@pytest.mark.parametrize(
    "gates",
    [
        ((2.0, 5.0, 60.0), (1.5, 1.0, 10.0)),
        ((1.5, 1.0, 10.0), (2.0, 5.0, 60.0)),
        ((1.5, 20.0, 10.0), (2.0, 1.0, 5.0)),
    ],
)
def test_a_band_that_no_device_can_have_is_refused(gates):
    with pytest.raises(ValidationError):
        family(gates)


def test_a_plans_own_curve_is_what_its_device_opens_by():
    plan = edits.put_family(fused(), family(read_curve(GOOD, 50.0), max_a=60.0))
    plan = edits.change(edits.change(plan, "F1", family="own"), "F1", rating_a=10.0)
    band = Protection(study(plan)).devices["F1"].band
    assert (float(band.shortest(2.0)), float(band.longest(2.0))) == (pytest.approx(2.0), pytest.approx(20.0))
    assert parse(dumps(plan)) == plan
    again = edits.put_family(plan, family(((1.0, 1.0, 9.0), (2.0, 0.5, 5.0))))
    assert len(again.parts.device_families) == 1
    assert float(Protection(study(again)).devices["F1"].band.longest(2.0)) == pytest.approx(5.0)
