"""Folders of state and settings in whatever condition: sound work in them is found, and nothing stands in the way."""

import json
import os
import random

from jaunty_copper.desktop.shell.settings import Settings
from jaunty_copper.plan.autosave import Autosave, OpenFile, left_behind
from jaunty_copper.plan.edits import change_plan
from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps

HEADS = (
    b"", b"[]", b"{}", b'{"path": null, "when": null}', b'{"path": 3, "when": 1.0}', b'{"path": null, "when": 1e400}', b'{"when": 1}', b"null",
    b"\xff\xfe", b"[" * 100_000, b'{"path": null, "when": "x"}', b'{"path": null, "when": 1.0, "held": []}', b"1" * 5000,
)  # fmt: skip
SETTINGS = (
    b"", b"[]", b"null", b'{"look": 3, "recent": "x", "awg": "yes"}', b'{"recent": [1, null, {}, "a"]}', b"[" * 200_000, b"\xff", b"1" * 9000,
    b'{"look": "purple"}', b"x" * 2_000_000,
)  # fmt: skip


def use(seed, folder):
    """Fill a folder with odd autosaves around a sound one; the sound one is found.

    Parameters
    ----------
    folder : Path
        Empty.
    """
    r = random.Random(seed)
    plan = change_plan(example("seed_shed"), name=f"work {seed}")
    body = dumps(plan)
    for k in range(r.randrange(1, 6)):
        odd = folder / f"unsaved-{r.randrange(10**6)}-{k}.json"
        match r.randrange(5):
            case 0:
                odd.mkdir()
            case 1:
                os.mkfifo(odd)
            case 2:
                odd.symlink_to(r.choice((odd, folder, "/dev/zero", "nowhere")))
            case _:
                cut = body[: r.randrange(len(body))] if r.random() < 0.7 else body
                odd.write_bytes(r.choice(HEADS) + r.choice((b"\n", b"")) + cut)
    sound = r.random() < 0.7
    if sound:
        head = json.dumps({"path": None, "when": 1.0 + seed, "held": None}).encode()
        (folder / "unsaved-1-1.json").write_bytes(head + b"\n" + body)
    for name in (".x.new", "open-00.lock", "unsaved-7-7.lock"):
        (folder / name).write_bytes(b"")
    os.utime(folder / ".x.new", (1, 1))
    found = left_behind(folder)
    assert not sound or any(f.plan == plan for f in found)
    assert not (folder / ".x.new").exists()
    assert not (folder / "unsaved-7-7.lock").exists()
    autosave = Autosave(folder)
    autosave.keep(plan, None)
    assert left_behind(folder) == found, "a living window's autosave was taken"
    autosave.close()
    claim = OpenFile(folder / "plan", folder)
    assert claim.ours
    assert not OpenFile(folder / "plan", folder).ours
    claim.release()
    config = folder / "config" / "jaunty-copper"
    config.mkdir(parents=True)
    (config / "settings.json").write_bytes(r.choice(SETTINGS))
    before, os.environ["XDG_CONFIG_HOME"] = os.environ.get("XDG_CONFIG_HOME"), str(folder / "config")
    try:
        settings = Settings()
        assert isinstance(settings.get("awg", False), bool)
        assert all(isinstance(name, str) for name in settings.recent)
        settings.put("look", "dark")
        assert Settings().get("look", "light") == "dark"
    finally:
        os.environ.pop("XDG_CONFIG_HOME")
        if before is not None:
            os.environ["XDG_CONFIG_HOME"] = before
