"""Real hands: the window on a real X server, moved by its mouse and keyboard only."""

import shutil
from functools import partial
from pathlib import Path

import pytest

from . import gestures
from .person import Person
from .screen import Screen

HERE = Path(__file__).parent
SHOTS = HERE.parents[1] / "build" / "hands"
"""Where a failing test leaves what the screen showed."""


@pytest.fixture(scope="session")
def screen(tmp_path_factory):
    lacking = [tool for tool in ("Xvfb", "openbox") if shutil.which(tool) is None]
    assert not lacking, f"{' and '.join(lacking)} must be installed: ./run test does it"
    made = Screen(tmp_path_factory.mktemp("screen"))
    yield made
    made.close()


@pytest.fixture
def person(screen, tmp_path, request):
    """A person at a screen of their own; the program is started by the test."""
    test = request.node.name.partition("[")[0]
    made = Person(screen, tmp_path, partial(gestures.write, "done", test=test))
    yield made
    report = getattr(request.node, "report_call", None)
    if report is not None and report.failed and made.program is not None:
        SHOTS.mkdir(parents=True, exist_ok=True)
        name = request.node.name.replace("/", "-")
        made.picture().save(SHOTS / f"{name}.png")
        happened = made.ask("happened") if made.program.runs else []
        (SHOTS / f"{name}.log").write_text("\n".join([made.program.trouble(), "What happened last:", *happened]))
    for program in made.programs:
        trouble = program.trouble()
        program.kill()
        assert not trouble, f"the program wrote where only a programmer looks:\n{trouble}"


@pytest.hookimpl(hookwrapper=True)
def pytest_runtest_makereport(item, call):
    outcome = yield
    if call.when == "call":
        item.report_call = outcome.get_result()
