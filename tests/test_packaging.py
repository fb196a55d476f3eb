"""Installed like any other program: the wheel alone, the source distribution, and what the desktop looks for."""

import json
import os
import runpy
import shutil
import subprocess
import sys
import sysconfig
import zipfile
from importlib.resources import files
from pathlib import Path

import pytest

from jaunty_copper import __version__
from jaunty_copper.cli.integrate import INSTALLED, install, remove
from jaunty_copper.cli.main import main, parser
from jaunty_copper.cli.manual import FILES

ROOT = Path(__file__).parents[1]
_SCRIPT = runpy.run_path(str(ROOT / "packaging" / "distributions.py"))
built, from_source = _SCRIPT["built"], _SCRIPT["from_source"]
SHARE = Path(str(files("jaunty_copper.desktop") / "share"))
needs = {
    tool: pytest.mark.skipif(shutil.which(tool) is None, reason=f"{tool} is not installed: ./run test does it")
    for tool in ("desktop-file-validate", "appstreamcli", "man", "update-mime-database", "bash")
}


def silent(*command):
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout + done.stderr


@pytest.fixture(scope="module")
def distributions(tmp_path_factory):
    return built(tmp_path_factory.mktemp("dist"), ROOT)


@pytest.fixture(scope="module")
def installed(distributions, tmp_path_factory):
    """An environment that holds the wheel; what the program depends on is lent by this one."""
    room = tmp_path_factory.mktemp("fresh")
    subprocess.run([sys.executable, "-m", "venv", "--without-pip", room], check=True)
    site = room / "lib" / f"python{sysconfig.get_python_version()}" / "site-packages"
    subprocess.run(
        [sys.executable, "-m", "pip", "install", "-q", "--no-deps", "--no-index", "--disable-pip-version-check",
         "--target", site, distributions[0]], check=True,
    )  # fmt: skip
    (site / "lent.pth").write_text(sysconfig.get_path("purelib") + "\n")
    program = room / "bin" / "jaunty-copper"
    program.write_text(
        f"#!{room / 'bin' / 'python'}\nimport sys\nfrom jaunty_copper.cli.main import main\nsys.exit(main())\n"
    )
    program.chmod(0o755)

    def run(*words, **env):
        surroundings = {"PATH": os.environ["PATH"], "HOME": str(room), "QT_QPA_PLATFORM": "offscreen", **env}
        return subprocess.run(
            [program, *words], cwd=room, env=surroundings, capture_output=True, text=True, check=False
        )

    run.room, run.site, run.program = room, site, program
    return run


def test_the_wheel_works_alone(installed):
    done = installed("--version")
    assert done.stdout.strip() == f"jaunty-copper {__version__}"
    where = subprocess.run(
        [installed.room / "bin" / "python", "-c", "import jaunty_copper; print(jaunty_copper.__file__)"],
        cwd=installed.room, capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert where.stdout.startswith(str(installed.site)), "not from the checkout"
    plan = installed.site / "jaunty_copper" / "plan" / "examples" / "orchard_station.copper.json"
    found = json.loads(installed("check", str(plan), "--json").stdout)
    assert found["findings"]
    picture = installed.room / "map.png"
    done = installed("thumbnail", str(plan), str(picture), "--size", "300")
    assert done.returncode == 0, done.stderr
    assert picture.read_bytes().startswith(b"\x89PNG")


def test_the_wheel_has_its_entry_point_and_every_file_of_the_package(distributions):
    with zipfile.ZipFile(distributions[0]) as wheel:
        names = set(wheel.namelist())
        points = next(wheel.read(n).decode() for n in names if n.endswith("entry_points.txt"))
    assert "jaunty-copper = jaunty_copper.cli.main:main" in points
    source = ROOT / "src"
    wanted = {
        str(p.relative_to(source)) for p in (source / "jaunty_copper").rglob("*")
        if p.is_file() and "__pycache__" not in p.parts
    }  # fmt: skip
    assert wanted <= names
    pages = {f"jaunty_copper/desktop/assets/help/methods/{p.name}" for p in (ROOT / "docs" / "methods").glob("*.md")}
    assert pages <= names
    assert "jaunty_copper/desktop/assets/help/README.md" in names


def test_the_source_distribution_builds_the_same_wheel(distributions, tmp_path):
    again = from_source(distributions[1], tmp_path)
    with zipfile.ZipFile(distributions[0]) as one, zipfile.ZipFile(again) as other:
        records = [{n: w.read(n) for n in w.namelist()} for w in (one, other)]
    assert records[0] == records[1]


def test_what_the_desktop_looks_for_is_put_and_taken_away_without_a_trace(installed, tmp_path):
    before = tmp_path / "share" / "applications" / "other.desktop"
    before.parent.mkdir(parents=True)
    before.write_text("[Desktop Entry]\n")
    put = installed("integrate", "--prefix", str(tmp_path), "--program", "/opt/my programs/jaunty-copper")
    assert put.returncode == 0, put.stderr
    entry = (tmp_path / "share/applications/jaunty-copper.desktop").read_text()
    assert 'Exec="/opt/my programs/jaunty-copper" open %f' in entry
    assert "TryExec=/opt/my programs/jaunty-copper" in entry
    for name in (
        "icons/hicolor/scalable/apps/jaunty-copper.svg",
        "mime/packages/jaunty-copper.xml",
        "man/man1/jaunty-copper.1",
    ):
        assert (tmp_path / "share" / name).exists()
    assert len((tmp_path / INSTALLED).read_text().splitlines()) > 25
    assert installed("integrate", "--prefix", str(tmp_path), "--remove").returncode == 0
    caches = {"mimeinfo.cache", "mime.cache", "icon-theme.cache"}
    left = [p for p in tmp_path.rglob("*") if p.is_file() and "jaunty" in p.name]
    assert left == []
    assert before.exists()
    held = [p for p in tmp_path.rglob("*") if p.is_file() and b"jaunty" in p.read_bytes()]
    assert held == []
    assert {p.name for p in (tmp_path / "share/applications").iterdir()} - caches == {"other.desktop"}


def test_a_list_of_what_was_put_takes_nothing_else_away(tmp_path):
    install(tmp_path)
    precious = tmp_path / "precious"
    precious.write_text("x")
    listed = tmp_path / INSTALLED
    listed.write_text(listed.read_text() + f"../{tmp_path.name}/precious\nshare/../precious\n{precious}\n")
    remove(tmp_path)
    assert precious.exists()


@needs["desktop-file-validate"]
def test_the_menu_entry_is_valid(tmp_path):
    install(tmp_path, Path("/usr/local/bin/jaunty-copper"))
    assert silent("desktop-file-validate", SHARE / "applications/jaunty-copper.desktop") == ""
    assert silent("desktop-file-validate", tmp_path / "share/applications/jaunty-copper.desktop") == ""


@needs["appstreamcli"]
def test_the_metadata_are_valid_and_of_this_version():
    file = SHARE / "metainfo/org.example.jaunty_copper.metainfo.xml"
    assert "successful" in silent("appstreamcli", "validate", "--no-net", file)
    assert f'<release version="{__version__}"' in file.read_text()
    assert f"## {__version__}" in (ROOT / "CHANGELOG.md").read_text()


@needs["update-mime-database"]
def test_a_plan_has_a_type_of_its_own(tmp_path):
    install(tmp_path)
    silent("update-mime-database", tmp_path / "share/mime")
    globs = (tmp_path / "share/mime/globs2").read_text()
    assert "80:application/x-jaunty-copper+json:*.copper.json" in globs
    assert "application/x-jaunty-copper+json application/json" in (tmp_path / "share/mime/subclasses").read_text()


@needs["man"]
def test_the_manual_names_every_command_and_prints_without_a_warning():
    page = SHARE / "man/man1/jaunty-copper.1"
    done = subprocess.run(
        ["man", "--warnings", "-l", page], capture_output=True, text=True, check=True,
        env={**os.environ, "MANPAGER": "cat", "TERM": "dumb", "LC_ALL": "C.UTF-8", "MANWIDTH": "100"},
    )  # fmt: skip
    assert done.stderr == ""
    for name in ("check", "alter", "size", "thumbnail", "integrate"):
        assert f"\n   {name}\n" in done.stdout


def test_manual_and_completion_follow_the_grammar():
    for name, made in FILES.items():
        assert (SHARE / name).read_text() == made(parser()), "run docs/manual.py"


@needs["bash"]
@pytest.mark.parametrize(("typed", "offered"), [("jaunty-copper al", "alter"), ("jaunty-copper alter --js", "--json")])
def test_the_shell_completes(typed, offered):
    words = typed.split()
    script = f"""
        source {SHARE / "bash-completion/completions/jaunty-copper"}
        COMP_WORDS=({" ".join(words)}); COMP_CWORD={len(words) - 1}
        _jaunty_copper 2>/dev/null; echo "${{COMPREPLY[@]}}"
    """
    assert silent("bash", "-c", script).strip() == offered


def test_every_icon_is_there_in_every_size():
    icons = SHARE / "icons/hicolor"
    for drawing in icons.glob("scalable/*/*.svg"):
        for size in (16, 22, 24, 32, 48, 64, 128, 256, 512):
            data = (icons / f"{size}x{size}" / drawing.parent.name / f"{drawing.stem}.png").read_bytes()
            assert data[:8] == b"\x89PNG\r\n\x1a\n"
            assert int.from_bytes(data[16:20], "big") == int.from_bytes(data[20:24], "big") == size
    assert (icons / "symbolic/apps/jaunty-copper-symbolic.svg").exists()


def test_the_thumbnailer_ends_by_itself(tmp_path, capsys):
    """In a process of its own: it limits the one that it runs in."""
    bad = tmp_path / "bad.copper.json"
    bad.write_text("{" * 10)
    done = subprocess.run(
        [sys.executable, "-m", "jaunty_copper", "thumbnail", bad, tmp_path / "t.png"],
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 2
    assert "line 1" in done.stderr
    assert not (tmp_path / "t.png").exists()
    limits = (
        "import resource, signal\nfrom jaunty_copper.cli.thumbnail import limited, MOST_BYTES, MOST_S\nlimited()\n"
        "assert resource.getrlimit(resource.RLIMIT_AS)[0] <= MOST_BYTES\nassert 0 < signal.alarm(0) <= MOST_S\n"
        "signal.alarm(1)\nwhile True: pass\n"
    )
    done = subprocess.run([sys.executable, "-c", limits], capture_output=True, check=False, timeout=30)
    assert done.returncode == -14, "killed by its alarm"


def test_without_a_file_a_new_plan_is_opened(monkeypatch):
    import jaunty_copper.desktop.shell.app as app

    opened = []
    monkeypatch.setattr(app, "run", lambda what, path, loaded: opened.append((what, path)) or 0)
    assert main(["open"]) == 0
    assert main(["open", "x.copper.json"]) == 0
    assert opened == [("new", None), ("open", "x.copper.json")]
