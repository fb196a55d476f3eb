"""Every test has folders of its own, Qt draws off screen, and linear algebra keeps to one thread."""

import os
import shutil
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")  # As the program's entry points do.

import pytest
from hypothesis import settings

from tests import trials
from tests.hands import gestures

settings.register_profile("here", deadline=None, derandomize=True, print_blob=True)
settings.load_profile("here")


@pytest.fixture(autouse=True)
def _own_folders(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))


def pytest_collection_modifyitems(config, items):
    """The slow ones first in each share: each process begins with a share of its own, and takes quick ones from others at the end."""
    for item in items:
        item.user_properties += [("claim", claim) for mark in item.iter_markers("chance") for claim in mark.args]
    n = getattr(config, "workerinput", {}).get("workercount", 1)
    slow = [item for item in items if "hands" in item.path.parts]
    quick = [item for item in items if "hands" not in item.path.parts]
    items[:] = [item for k in range(n) for item in (*slow[k::n], *quick[k::n])]


# What hands did: one folder for all processes of a run, summed up at the end by the first of them.


def pytest_configure(config):
    if not hasattr(config, "workerinput"):
        os.environ[gestures.FOLDER] = tempfile.mkdtemp(prefix="hands-")
        os.environ[trials.FOLDER] = tempfile.mkdtemp(prefix="validation-")
        config.pluginmanager.register(trials.Seeds(), "seeds")


@pytest.hookimpl(trylast=True)
def pytest_sessionfinish(session, exitstatus):
    if hasattr(session.config, "workerinput"):
        return
    records = os.environ[trials.FOLDER]
    asked = session.config.option
    single = any("::" in arg for arg in session.config.args)
    if trials.WHOLE and asked.markexpr == "chance" and not (asked.keyword or asked.collectonly or single):
        session.config.pluginmanager.get_plugin("seeds").keep()
        before = trials.PAGE.read_text() if trials.PAGE.exists() else ""
        trials.PAGE.write_text(trials.page(records, before))
        print(f"\n{trials.PAGE.read_text()}")
    del os.environ[trials.FOLDER]
    shutil.rmtree(records, ignore_errors=True)
    folder = os.environ.pop(gestures.FOLDER)
    if exitstatus == 0 and _all_hands(session.config):
        wrong = gestures.close(folder)
        if wrong:
            print("\n" + "\n".join(wrong))
            session.exitstatus = 1
    shutil.rmtree(folder, ignore_errors=True)


def _all_hands(config):
    """Whether all tests of hands were run."""
    here = Path(__file__).parent / "hands"
    whole = [Path(arg).resolve() for arg in config.args if "::" not in arg]
    told = config.option
    part = told.keyword or told.markexpr or told.collectonly
    return not part and any(here.is_relative_to(w) for w in whole)


@pytest.fixture(scope="session")
def qapp():
    """The program's own application, wherever a test makes a window first: another one would measure in other letters."""
    from jaunty_copper.desktop.shell.app import application

    return application()
