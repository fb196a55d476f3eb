"""Hours from CSV: shares are those of the file's own figures, and what cannot be read says where and why."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_copper.cli.main import main
from jaunty_copper.plan import edits
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import save
from jaunty_copper.plan.profiles import ProfileError, with_profiles

PLAN = example("orchard_station")
PUMP = PLAN.by_id["PUMP"]
HEAD = "time,PUMP %\n"


def lines(values, head="time,PUMP"):
    return "\n".join([head, *(f"{h}:00,{v}" for h, v in enumerate(values))])


@settings(max_examples=25, deadline=None)
@given(st.lists(st.floats(0.0, 1.0).map(lambda x: round(x, 4)), min_size=24, max_size=24), st.sampled_from(["", " %", " W", ", kW", " A"]))  # fmt: skip
def test_each_unit_gives_the_same_shares(shares, unit):
    full = {
        "": 1.0, " %": 100.0, " W": PUMP.power_w * PUMP.duty, ", kW": PUMP.power_w * PUMP.duty / 1000.0,
        " A": PUMP.power_w * PUMP.duty / PUMP.nominal_v,
    }[unit]  # fmt: skip
    head = f'time,"PUMP{unit}"'
    found = with_profiles(PLAN, lines([f"{s * full:.9f}" for s in shares], head)).by_id["PUMP"]
    assert found.by_hour == pytest.approx(shares, abs=2e-6)


def test_the_mean_of_an_hour_over_all_days_counts_and_others_stay():
    text = "\n".join(
        ["when;Well pump %", *(f"2031-05-0{d} {h:02}:{m:02};{100 if (h, m) == (7, 30) and d == 1 else 0}"
                               for d in (1, 2) for h in range(24) for m in (0, 30))]
    )  # fmt: skip
    found = with_profiles(PLAN, text.replace(";100", ";100,0"))
    assert found.by_id["PUMP"].by_hour == tuple(0.25 if h == 7 else 0.0 for h in range(24))
    assert found == edits.change(PLAN, "PUMP", by_hour=found.by_id["PUMP"].by_hour)


@pytest.mark.parametrize(
    ("text", "why"),
    [
        ("", "nothing in it"), (lines([0] * 23), "there is no figure for 23:00"), (lines([0] * 23 + ["much"]), "line 25: PUMP is no number"),
        (lines([0] * 24, "time,NOBODY"), "no one load or source"), (lines([0] * 24).replace("\n5:00", "\n25:00"), "line 7: '25:00' is no time"),
        (lines([0] * 23 + [1.5]), "150 % of its rated figure at 23:00"), ("time,PUMP,Well pump\n" + "\n".join(f"{h},0,0" for h in range(24)), "two columns"),
        (lines([0] * 24, "time,CONV"), "no one load or source"), (lines(["nan"] + [0] * 23), "no number"),
        ("time\n1", "no column of equipment"), ("time,PUMP,PUMP\n1,0,0", "two columns have one head"),
    ],
)  # fmt: skip
def test_what_cannot_be_read_says_where_and_why(text, why):
    with pytest.raises(ProfileError, match=why):
        with_profiles(PLAN, text, "p.csv")


def test_the_command_follows_the_days_by_it(tmp_path, capsys):
    path, hours = tmp_path / "p.copper.json", tmp_path / "hours.csv"
    save(PLAN, path)
    told = []
    for share in (0, 1):
        hours.write_text(lines([share] * 24))
        assert main(["day", str(path), "--hours", str(hours), "--csv"]) == 0
        told.append(capsys.readouterr().out)
    assert told[0] != told[1]
    hours.write_text("time,PUMP\n")
    assert main(["day", str(path), "--hours", str(hours)]) == 2
    assert "hours.csv" in capsys.readouterr().err
