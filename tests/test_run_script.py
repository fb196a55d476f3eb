"""The one way in, on machines that lack something."""

import os
import shutil
import subprocess
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
TOOLS = ("sh", "dirname", "id", "cat", "sed", "find", "head", "cmp", "cp", "rm")


@pytest.fixture
def machine(tmp_path):
    """A folder of commands to be the whole PATH, and a copy of the script."""
    commands, project = tmp_path / "bin", tmp_path / "project"
    commands.mkdir()
    project.mkdir()
    for tool in TOOLS:
        (commands / tool).symlink_to(shutil.which(tool))
    shutil.copy(ROOT / "run", project / "run")

    def run(*arguments, python=None):
        (commands / "python3").unlink(missing_ok=True)
        if python is not None:
            (commands / "python3").write_text(f"#!/bin/sh\n{python}\n")
            (commands / "python3").chmod(0o755)
        return subprocess.run(
            [project / "run", *arguments], env={"PATH": str(commands), "HOME": str(tmp_path)},
            capture_output=True, text=True, check=False, stdin=subprocess.DEVNULL,
        )  # fmt: skip

    run.commands = commands
    return run


def test_without_python_it_says_what_to_install(machine):
    done = machine("demo")
    assert done.returncode == 1
    assert "there is no python3 here" in done.stderr
    assert "sudo apt-get install python3" in done.stderr


def test_an_old_python_is_named(machine):
    done = machine("demo", python='case "$*" in *version_info*) exit 1;; esac; echo 3.9.2')
    assert done.returncode == 1
    assert "Python 3.11 or newer is needed; python3 here is 3.9.2" in done.stderr


def test_without_venv_and_without_root_it_prints_the_exact_command(machine):
    (machine.commands / "id").unlink()
    (machine.commands / "id").write_text("#!/bin/sh\necho 1000\n")
    (machine.commands / "id").chmod(0o755)
    done = machine(
        "demo",
        python='case "$*" in *"version_info <"*) exit 0;; *"import venv"*) exit 1;; esac; echo 3.11',
    )
    assert done.returncode == 1
    assert "sudo apt-get install python3.11-venv" in done.stderr


def test_asked_nothing_or_nonsense_it_lists_its_commands(machine):
    assert machine().returncode == 0
    done = machine("dance")
    assert done.returncode == 2
    for command in ("demo", "test", "cli", "lint", "shots", "words", "bench", "hands"):
        assert f"./run {command}" in done.stdout


def test_the_second_start_adds_next_to_nothing():
    """What stands between the shell and the program, counted in processes, not in seconds."""
    if not (ROOT / ".venv" / "qt-found").exists():
        pytest.skip("the environment was not made by ./run")
    done = subprocess.run(
        ["sh", "-x", ROOT / "run", "cli", "--version"], capture_output=True, text=True, check=False,
        env={**os.environ, "PS4": "+ "},
    )  # fmt: skip
    assert done.stdout.startswith("jaunty-copper ")
    assert "pip" not in done.stderr
    assert "apt-get" not in done.stderr
    assert len(done.stderr.splitlines()) < 40
