"""What disks, links and other people do to files."""

import errno
import os
import stat
import subprocess
import sys
import threading

import pytest

from jaunty_copper.plan import autosave, edits, storage
from jaunty_copper.plan.blank import blank
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import PlanError, load, parse, refused, save
from jaunty_copper.plan.model import Scenario
from jaunty_copper.plan.storage import read_bytes, write_atomically

DEMO = example("orchard_station")


def mode(path):
    return stat.S_IMODE(os.stat(path).st_mode)


def test_a_new_file_has_the_persons_mask_and_an_old_one_its_own(tmp_path):
    before = os.umask(0o027)
    try:
        save(DEMO, tmp_path / "new.json")
        assert mode(tmp_path / "new.json") == 0o640
        (tmp_path / "new.json").chmod(0o604)
        save(blank(), tmp_path / "new.json")
        assert mode(tmp_path / "new.json") == 0o604
        kept = autosave.Autosave(tmp_path)
        kept.keep(DEMO, None)
        assert mode(kept.file) == 0o600
        assert mode(kept.file.with_suffix(".lock")) == 0o600
        kept.close()
    finally:
        os.umask(before)


def test_the_mask_is_read_and_never_set(monkeypatch, tmp_path):
    monkeypatch.setattr(os, "umask", lambda _: pytest.fail("another thread would notice"))
    write_atomically(tmp_path / "x", b"x")


def test_what_a_crash_left_half_written_is_taken_away_later(tmp_path):
    old, young, other = (
        tmp_path / ".plan.json.abc.new",
        tmp_path / ".plan.json.def.new",
        tmp_path / ".else.json.abc.new",
    )
    for file in (old, young, other):
        file.write_bytes(b"half")
    os.utime(old, (1, 1))
    os.utime(other, (1, 1))
    save(DEMO, tmp_path / "plan.json")
    assert not old.exists()
    assert young.exists()
    assert other.exists()


def test_the_longest_name_a_disk_takes_can_be_saved_to(tmp_path):
    save(DEMO, tmp_path / ("ü" * 127))
    with pytest.raises(OSError, match="too long") as told:
        save(DEMO, tmp_path / ("x" * 256))
    assert told.value.errno == errno.ENAMETOOLONG


def test_links_are_followed_unless_they_go_round(tmp_path):
    (tmp_path / "link").symlink_to(tmp_path / "deep" / "plan.json")
    (tmp_path / "deep").mkdir()
    save(DEMO, tmp_path / "link")
    assert (tmp_path / "link").is_symlink()
    assert load(tmp_path / "deep" / "plan.json") == DEMO
    (tmp_path / "round").symlink_to(tmp_path / "round")
    with pytest.raises(OSError, match=r"[Ss]ymbolic link|links") as told:
        save(DEMO, tmp_path / "round")
    assert told.value.errno == errno.ELOOP


@pytest.mark.skipif(os.geteuid() != 0, reason="only root can make somebody else's link")
def test_somebody_elses_link_in_a_shared_folder_is_not_followed(tmp_path):
    shared, own = tmp_path / "shared", tmp_path / "own.json"
    shared.mkdir()
    shared.chmod(0o1777)
    save(DEMO, own)
    (shared / "plan.json").symlink_to(own)
    os.lchown(shared / "plan.json", 12345, 12345)
    with pytest.raises(PermissionError, match="somebody else"):
        save(blank(), shared / "plan.json")
    assert load(own) == DEMO


def test_only_regular_files_of_some_size_are_read(tmp_path):
    os.mkfifo(tmp_path / "pipe")
    for path in (tmp_path / "pipe", "/dev/zero", tmp_path):
        with pytest.raises(OSError, match=r"regular|directory"):
            read_bytes(path, 100)
        with pytest.raises(PlanError, match=r"regular|directory"):
            load(path)
    (tmp_path / "large").write_bytes(b"x" * 101)
    with pytest.raises(OSError, match="Larger"):
        read_bytes(tmp_path / "large", 100)


def test_what_no_reader_would_take_does_not_replace_a_file(tmp_path):
    file = tmp_path / "plan.json"
    save(DEMO, file)
    long = DEMO.model_copy(update={"name": "x" * 300})
    with pytest.raises(PlanError):
        save(long, file)
    assert load(file) == DEMO
    assert os.listdir(tmp_path) == ["plan.json"]


@pytest.mark.parametrize(
    ("change", "why"),
    [
        (lambda p: p.model_copy(update={"name": "x" * 201}), "name"),
        (lambda p: p.model_copy(update={"autonomy_days": float("nan")}), ""),
        (lambda p: p.model_copy(update={"scenarios": (*p.scenarios, Scenario.model_construct(id="s", soc_percent=300.0))}), "soc_percent"),
        (lambda p: p.model_copy(update={"items": (p.items[0].model_copy(update={"at_mm": (1e9, 0.0)}), *p.items[1:])}), "at_mm"),
        (lambda p: p.model_copy(update={"runs": (p.runs[0].model_copy(update={"a": "B1.nothing"}), *p.runs[1:])}), "no terminal"),
        (lambda p: p.model_copy(update={"runs": (*p.runs, p.runs[0])}), "have this id"),
        (lambda p: p.model_copy(update={"prices": {"x": -1.0}}), "prices"),
    ],
)  # fmt: skip
def test_what_an_edit_returns_is_held_against_the_readers_checks(change, why):
    assert why in (refused(change(DEMO), DEMO) or pytest.fail("it would have been taken"))


def test_sound_edits_are_not_refused():
    for made in (
        edits.change(DEMO, "F1", rating_a=125.0),
        edits.remove(DEMO, "PUMP"),
        edits.change_plan(DEMO, name="é\n\t\x1b"),
    ):
        assert refused(made, DEMO) is None


@pytest.mark.parametrize("value", [1e-300, 5e-324, 1e-12, 1e300])
def test_figures_that_say_nothing_are_refused(value):
    text = save_text(DEMO).replace('"rating_a": 300.0', f'"rating_a": {value!r}')
    with pytest.raises(PlanError, match="rating_a"):
        parse(text.encode())


def save_text(plan):
    from jaunty_copper.plan.files import dumps

    return dumps(plan).decode()


# Autosaves


def test_a_folder_that_cannot_be_written_to_stands_in_nobodys_way(tmp_path, monkeypatch):
    blocked = tmp_path / "file"
    blocked.write_text("no folder")
    monkeypatch.setenv("XDG_STATE_HOME", str(blocked))
    kept = autosave.Autosave()
    with pytest.raises(OSError, match="directory"):
        kept.keep(DEMO, None)
    kept.clear()
    kept.close()
    assert autosave.left_behind() == []
    claim = autosave.OpenFile(tmp_path / "plan.json")
    assert claim.ours
    claim.release()


def test_odd_autosaves_do_not_hide_sound_ones(tmp_path):
    code = (
        "import os, sys; from pathlib import Path\n"
        "from jaunty_copper.plan.autosave import Autosave\nfrom jaunty_copper.plan.blank import blank\n"
        "Autosave(Path(sys.argv[1])).keep(blank(), None); os._exit(9)\n"
    )
    subprocess.run([sys.executable, "-c", code, str(tmp_path)], check=False)
    for k, head in enumerate((b"[]", b'{"path": null, "when": null}', b"\xff", b"{}", b"[" * 90_000)):
        (tmp_path / f"unsaved-{k}-0.json").write_bytes(head + b"\n{}")
    (found,) = autosave.left_behind(tmp_path)
    assert found.plan == blank()


def test_of_many_that_want_a_lock_one_has_it(tmp_path):
    held, go = [], threading.Barrier(8)

    def want():
        go.wait()
        for _ in range(50):
            claim = autosave.OpenFile(tmp_path / "plan", tmp_path)
            if claim.ours:
                held.append(1)
                assert len(held) == 1
                held.pop()
            claim.release()

    threads = [threading.Thread(target=want) for _ in range(8)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert not held
    assert not [n for n in os.listdir(tmp_path) if n.endswith(".lock")]


def test_sweeping_a_folder_that_is_not_there_is_no_error(tmp_path):
    storage.sweep(tmp_path / "nowhere")
