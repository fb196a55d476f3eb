"""A little of each torture; `./run torture MINUTES` goes on for as long as one likes."""

import json
import random

import pytest

from jaunty_copper.plan.files import LARGEST_BYTES, MOST_PARTS, PlanError, parse

from . import __main__ as torture
from . import plans

CASES = {"plans": 24, "tables": 300, "folders": 15, "kills": 15, "meters": 6}


@pytest.mark.parametrize("kind", CASES)
def test_a_little_of_each(kind):
    for seed in range(CASES[kind]):
        assert torture.one(kind, seed) == "", f"seed {seed}"


def test_some_plans_are_gone_through_whole():
    """Every table, the report, the labels and the command line: plans that can be read, of those that are gone through."""
    seeds = [k for k in range(0, 1000, torture.THOROUGHLY_EVERY) if plans._read(plans.damaged(k))[0] is not None]
    for seed in seeds[-1:]:
        assert torture.one("plans", seed) == "", f"seed {seed}"


def test_plans_are_damaged_in_many_ways_and_many_are_plans_still():
    read = [plans._read(plans.damaged(seed)) for seed in range(300)]
    assert 0.1 < sum(plan is not None for plan, _ in read) / len(read) < 0.6
    assert len({why[0].partition(":")[2][:30] for _, why in read if why}) > 40


def test_it_goes_on_where_it_stopped_and_keeps_what_broke(tmp_path, monkeypatch, capsys):
    state = tmp_path / "torture.json"
    seen = []
    monkeypatch.setattr(
        torture, "one", lambda kind, seed: seen.append((kind, seed)) or ("it broke" if seed == 3 else "")
    )
    arguments = ["0.0005", "--only", "tables", "--state", str(state)]
    assert torture.main(arguments) == 1
    first = json.loads(state.read_text())
    assert first["next"]["tables"] == len(seen) == first["cases"]["tables"] > 3
    assert [(b["kind"], b["seed"]) for b in first["broken"]] == [("tables", 3)]
    assert torture.main(arguments) == 0
    assert seen == [("tables", k) for k in range(len(seen))]
    assert "0 broken in this run" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("data", "why"),
    [
        (b"[]" * 10, "Extra data"), (b"[" * 100_000, "nested too deeply"), (b"[" + b"[]," * MOST_PARTS + b"[]]", "too many for a plan"),
        (b" " * (LARGEST_BYTES + 1), "too large"), (b'{"format": "jaunty-copper-plan", "version": 1, "' + b"x" * 100_000 + b'": 1}', "xxx…"),
        (b'{"' + b"y" * 100_000 + b'": 1, "' + b"y" * 100_000 + b'": 2}', "yyy…"), (b'{"a": ' + b"9" * 100_000 + b"}", "digits"),
        (b'{"format": "jaunty-copper-plan", "version": 1, "items": [' + b"{}," * 50_000 + b"{}]}", "kind"),
    ],
)  # fmt: skip
def test_inputs_without_bound_are_told_briefly(data, why):
    with pytest.raises(PlanError) as told:
        parse(data)
    assert any(why in detail for detail in told.value.details)
    assert len(told.value.details) <= 51
    assert sum(map(len, told.value.details)) < 30_000


def test_random_bytes_are_no_plans():
    r = random.Random(1)
    for _ in range(300):
        with pytest.raises(PlanError):
            parse(r.randbytes(r.randrange(200)))
