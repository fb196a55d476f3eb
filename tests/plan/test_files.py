"""Files: strict reading, clear errors, atomic writing, autosaves, claims."""

import json
import os
import random
import subprocess
import sys
from pathlib import Path

import jsonschema
import pytest
from pydantic import ValidationError

from jaunty_copper.network.study import study
from jaunty_copper.plan import autosave, edits, files
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.files import PlanError, dumps, load, load_with_stamp, parse, save
from jaunty_copper.plan.migrate import UnknownVersion, migrate
from jaunty_copper.plan.model import Entry, Plan

DEMO = example("orchard_station")


@pytest.mark.parametrize("name", names())
def test_examples_are_written_as_they_are_read(name):
    plan = example(name)
    text = dumps(plan)
    assert parse(text) == plan
    shipped = Path(files.__file__).parent / "examples" / f"{name}{files.SUFFIX}"
    assert shipped.read_bytes() == text


def test_one_thing_a_line():
    lines = dumps(DEMO).decode().splitlines()
    assert sum(line.lstrip().startswith('{"id"') for line in lines) == sum(
        len(getattr(DEMO, name)) for name in edits.LISTS
    )


@pytest.mark.parametrize("name", names())
def test_examples_satisfy_the_published_schema(name):
    jsonschema.validate(json.loads(dumps(example(name))), files.schema())


def test_the_schema_refuses_what_the_reader_refuses():
    wrong = json.loads(dumps(DEMO))
    wrong["items"][0]["colour"] = "red"
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(wrong, files.schema())


def changed(**at):
    document = json.loads(dumps(DEMO))
    for path, value in at.items():
        here = document
        *way, last = path.split("__")
        for step in way:
            here = here[int(step) if step.isdigit() else step]
        here[last] = value
    return json.dumps(document).encode()


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (b"", "line 1, column 1"),
        (b'{"format": "jaunty-copper-plan",\n "name": }', "line 2, column 10"),
        (b"\xff\xfe", "byte 0: not UTF-8"),
        (b"[]", "not a plan"),
        (b'{"format": "something-else"}', "not a plan"),
        (b'{"format": "jaunty-copper-plan", "name": "a", "name": "b"}', "'name' stands twice"),
        (b'{"format": "jaunty-copper-plan", "runs": ' + b"[" * 100000, "nested too deeply"),
        (b'{"format": "jaunty-copper-plan", "version": 99}', "newer program"),
        (b'{"format": "jaunty-copper-plan", "version": "1"}', "no format version"),
        (changed(items__4__rating_a="250"), "items[5] (F1) › rating_a: Input should be a valid number"),
        (changed(items__4__rating_a=float("nan")), "NaN is no number"),
        (changed(items__4__ratin_a=250), "items[5] (F1) › ratin_a: Extra inputs are not permitted"),
        (changed(items__4__kind="laser"), "items[5] (F1)"),
        (changed(runs__0__length_m=-1), "runs[1] (L1p) › length_m"),
        (changed(runs__0__a="B9.plus"), "L1p: a: there is no terminal B9.plus"),
        (changed(runs__0__conductor="mm2-71"), "L1p: conductor: there is no conductor mm2-71"),
        (changed(items__1__id="B1"), "B1: 2 of the items, equipment and runs have this id"),
        (changed(zones__0__ambient_c=900), "zones[1] (lean-to) › ambient_c"),
        (changed(scenarios__0__soc_percent=120), "scenarios[1] (evening) › soc_percent"),
    ],
)
def test_a_broken_file_gives_place_and_reason(data, words):
    with pytest.raises(PlanError) as caught:
        parse(data, "x.json")
    assert caught.value.file == "x.json"
    assert any(words in detail for detail in caught.value.details), caught.value.details


def test_a_missing_file_a_folder_and_a_huge_file_give_one_clear_error(tmp_path, monkeypatch):
    for path, words in ((tmp_path / "none.json", "no such file"), (tmp_path, "is a directory")):
        with pytest.raises(PlanError, match=words):
            load(path)
    monkeypatch.setattr(files, "LARGEST_BYTES", 10)
    with pytest.raises(PlanError, match="too large"):
        parse(dumps(DEMO))


def mutated(rng):
    """The demo's bytes, damaged in one of many ways."""
    if rng.random() < 0.4:
        data = bytearray(dumps(DEMO))
        for _ in range(rng.randint(1, 4)):
            at = rng.randrange(len(data))
            match rng.randrange(4):
                case 0:
                    data[at] = rng.randrange(256)
                case 1:
                    del data[at : at + rng.randint(1, 40)]
                case 2:
                    data[at:at] = bytes(rng.choice(b'{}[]",:0123456789abc. ') for _ in range(rng.randint(1, 6)))
                case _:
                    data = data[:at]
            if not data:
                break
        return bytes(data)
    document = json.loads(dumps(DEMO))
    for _ in range(rng.randint(1, 3)):
        here, key = document, rng.choice(list(document))
        while isinstance(here[key], dict | list) and here[key] and rng.random() < 0.9:
            here = here[key]
            key = rng.choice(list(here)) if isinstance(here, dict) else rng.randrange(len(here))
        value = rng.choice((None, -1, 0, 1e308, 10**400, "", "B1", "B1.plus", True, [], {}, 0.5, "surge", "mm2-1"))
        match rng.randrange(3):
            case 0:
                here[key] = value
            case 1:
                del here[key]
            case _ if isinstance(here, list):
                here.insert(key, rng.choice(here))
            case _:
                here[f"{key}x"] = value
        if not document:
            break
    return json.dumps(document).encode()


@pytest.mark.parametrize("part", range(4))
def test_two_thousand_damaged_files_give_a_clear_error_or_a_plan(part):
    rng = random.Random(part)
    read, complaints = 0, set()
    for k in range(500):
        plan = plan_or_error(mutated(rng))
        if isinstance(plan, PlanError):
            complaints.update(plan.details)
            continue
        assert parse(dumps(plan)) == plan
        read += 1
        if k % 25 == 0:
            study(plan)
    assert 5 < read < 495
    assert len(complaints) > 100
    assert all(c.strip() and "Traceback" not in c for c in complaints)


def plan_or_error(data):
    try:
        return parse(data, "damaged.json")
    except PlanError as error:
        return error


def test_migrations_run_one_version_at_a_time():
    steps = {1: lambda d: {**d, "b": d["a"]}, 2: lambda d: {**d, "c": d["b"]}}
    assert migrate({"version": 1, "a": 7}, steps, 3) == {"version": 3, "a": 7, "b": 7, "c": 7}
    with pytest.raises(UnknownVersion):
        migrate({"version": 4}, steps, 3)


def test_saving_keeps_permissions_and_goes_through_links(tmp_path):
    real, link = tmp_path / "real.json", tmp_path / "link.json"
    save(blank(), real)
    real.chmod(0o640)
    link.symlink_to(real)
    save(DEMO, link)
    assert link.is_symlink()
    assert load(real) == DEMO
    assert real.stat().st_mode & 0o777 == 0o640
    assert sorted(p.name for p in tmp_path.iterdir() if p.suffix == ".json") == ["link.json", "real.json"]


def test_a_save_that_fails_leaves_the_old_file_and_no_litter(tmp_path, monkeypatch):
    target = tmp_path / "p.json"
    save(DEMO, target)
    old = target.read_bytes()

    def refuse(*_):
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "replace", refuse)
    with pytest.raises(OSError, match="No space"):
        save(blank(), target)
    assert target.read_bytes() == old
    assert [p.name for p in tmp_path.glob(".p.json*")] == []


KILLER = """
import os, random, signal, sys, time
from pathlib import Path
from jaunty_copper.plan.files import parse, save
target, one, two = map(Path, sys.argv[1:4])
a, b = parse(one.read_bytes()), parse(two.read_bytes())
whole = [one.read_bytes(), two.read_bytes()]
rng = random.Random(5)
seen = [0, 0]
for moment in range(100):
    # Let a number of saves pass, and a part of the next: the same share at any speed.
    heard, told = os.pipe()
    child = os.fork()
    if child == 0:
        while True:
            for plan in (b, a):
                save(plan, target)
                os.write(told, b".")
    os.read(heard, 1)
    for _ in range(rng.randrange(1, 4)):
        begin = time.perf_counter()
        os.read(heard, 1)
    time.sleep(rng.uniform(0.0, time.perf_counter() - begin))
    os.kill(child, signal.SIGKILL)
    os.waitpid(child, 0)
    os.close(heard), os.close(told)
    seen[whole.index(target.read_bytes())] += 1
print(*seen)
"""


def test_killed_at_a_hundred_random_moments_the_file_is_the_old_or_the_new_one(tmp_path):
    one, two, target = tmp_path / "one.json", tmp_path / "two.json", tmp_path / "plan.json"
    save(DEMO, one)
    save(edits.change(DEMO, "F1", rating_a=125.0), two)
    save(DEMO, target)
    run = subprocess.run(
        [sys.executable, "-c", KILLER, str(target), str(one), str(two)], capture_output=True, text=True, check=False
    )
    assert run.returncode == 0, run.stderr
    old, new = map(int, run.stdout.split())
    assert old + new == 100
    assert min(old, new) > 5


def test_a_change_on_disk_is_noticed_and_a_touch_is_not(tmp_path):
    path = tmp_path / "p.json"
    save(DEMO, path)
    _, stamp = load_with_stamp(path)
    os.utime(path)
    assert not files.changed_on_disk(path, stamp)
    save(blank(), path)
    assert files.changed_on_disk(path, stamp)
    path.unlink()
    assert files.changed_on_disk(path, stamp)


def test_an_autosave_is_found_only_once_its_process_is_gone(tmp_path):
    mine = autosave.Autosave(tmp_path)
    mine.keep(DEMO, "/somewhere/p.json")
    assert autosave.left_behind(tmp_path) == []
    code = (
        "import os, sys; from pathlib import Path\n"
        "from jaunty_copper.plan.autosave import Autosave\n"
        "from jaunty_copper.plan.blank import blank\n"
        "Autosave(Path(sys.argv[1])).keep(blank(), None); os._exit(9)\n"
    )
    subprocess.run([sys.executable, "-c", code, str(tmp_path)], check=False)
    (found,) = autosave.left_behind(tmp_path)
    assert found.plan == blank()
    assert found.path is None
    found.discard()
    assert autosave.left_behind(tmp_path) == []
    mine.clear()
    mine.close()
    assert [p.name for p in tmp_path.iterdir()] == []


def test_a_damaged_journal_does_not_stand_in_the_way(tmp_path):
    (tmp_path / "unsaved-1-2.json").write_bytes(b"not json\n{}")
    assert autosave.left_behind(tmp_path) == []


def test_one_file_is_claimed_by_one_window(tmp_path):
    path = tmp_path / "p.json"
    path.write_bytes(b"{}")
    first, second = autosave.OpenFile(path, tmp_path), autosave.OpenFile(tmp_path / "." / "p.json", tmp_path)
    assert first.ours
    assert not second.ours
    first.release()
    third = autosave.OpenFile(path, tmp_path)
    assert third.ours
    third.release()


def test_the_empty_plan_is_a_plan():
    assert parse(dumps(Plan())) == Plan()


def test_every_field_of_a_plan_and_of_its_things_survives_the_file():
    values = {
        "name": "n", "note": "two\nlines", "practice": "iso_small_craft", "autonomy_days": 2.5, "sun": [1.0, 0.3], "floating": True, "devices_by": "load", "reels_m": [10.0], "prices": {"cable:mm2-10": 2.5}, "packs": {"lug:mm2-10:M8": 10}, "ready_m": [0.5, 2.0], "done": ["step"], "done_on": {"step": "2026-03-04"}, "stud_material": "steel", "torques": {"M8:steel": 16.0}, "readings": [{"scenario": "s", "quantity": "amps", "a": "W", "b": "x", "value": 1.5}],
        "log": [{"id": "log-1", "on": "2026-02-28", "kind": "charge", "about": "B", "text": "t", "value": 40.0, "hours": 5.5, "picture": "p/1.png", "readings": [{"scenario": "s", "quantity": "joint", "a": "W", "b": "a", "value": 0.01}]}],
        "routes": [{"id": "r", "name": "R", "inner_mm": 25}],
        "boards": [{"id": "b", "name": "n", "width_mm": 500, "height_mm": 300, "spots": [{"of": "E", "at_mm": [1, 2], "turned": True}]}],
        "stock": [{"id": "left", "conductor": "mm2-10", "insulation": "pvc-70", "colour": "black", "length_m": 1.2}],
        "overrides": [{"limit": "lugs_per_stud", "value": 3, "reason": "r"}],
        "zones": [{"id": "z", "name": "Z", "ambient_c": 41, "engine_space": True, "ventilated": True}],
        "items": [{
            "id": "B", "name": "b", "zone": "z", "kind": "battery", "chemistry": "agm", "nominal_v": 6, "capacity_ah": 9,
            "capacity_share": 0.9, "internal_ohm": 0.01, "soc_percent": 40, "max_discharge_a": 8, "max_charge_a": 7,
            "short_circuit_a": 900, "make": "m", "bought": "2021-04", "thread": "M6", "width_mm": 170, "depth_mm": 190,
            "at_mm": [20, 30], "turned": True,
        }],
        "equipment": [{
            "id": "E", "kind": "constant_power", "power_w": 5, "surge_w": 9, "hours_per_day": 3, "duty": 0.5,
            "surge_s": 2, "min_v": 5, "nominal_v": 6, "critical": True,
        }],
        "runs": [{"id": "W", "a": "B.plus", "b": "E.plus", "length_m": 1, "joint_a_ohm": 0.001, "route": "r", "lug_angle_a": 90}],
        "scenarios": [{"id": "s", "soc_percent": 30, "states": {"E": "surge"}, "ambient_c": {"z": 20}}],
        "parts": {"insulations": [{"id": "own", "label": "l", "source": "s", "max_c": 90}]},
    }  # fmt: skip
    plan = Plan.model_validate(values)
    assert set(values) | {"format", "version"} == set(Plan.model_fields)
    assert parse(dumps(plan)) == plan


@pytest.mark.parametrize("path", ["/etc/x.png", "../x.png", "a/../../x.png", "C:/x.png", "a\\b.png"])
def test_a_picture_lies_beside_the_plan_or_below_it(path):
    with pytest.raises(ValidationError, match="beside the plan"):
        Entry(id="e", on="2026-01-02", picture=path)


@pytest.mark.parametrize("day", ["2026-13-01", "2026-1-2", "yesterday", "2026-01-32", "2026-02-30", "2025-02-29"])
def test_a_day_is_a_day(day):
    with pytest.raises(ValidationError):
        Entry(id="e", on=day)
