"""Build the wheel and the source distribution with what is installed: nothing is fetched. Start it with ``./run wheel``."""

import os
import shutil
import sys
import tarfile
import tempfile
from pathlib import Path

from setuptools import build_meta

ROOT = Path(__file__).parents[1]
PARTS = ("src", "docs", "pyproject.toml", "setup.py", "README.md", "LICENSE", "CHANGELOG.md")
"""What the program is built from."""
LEFT_OUT = shutil.ignore_patterns("__pycache__", "*.egg-info", "screenshots", "*.pdf")


def built(folder: Path, root: Path = ROOT) -> tuple[Path, Path]:
    """A wheel and a source distribution, built from a copy: nothing of an earlier build is in them.

    Parameters
    ----------
    folder : Path
        Where they are put.
    root : Path
        The project.
    """
    folder = folder.absolute()
    folder.mkdir(parents=True, exist_ok=True)
    before = Path.cwd()
    with tempfile.TemporaryDirectory() as room:
        for name in PARTS:
            if (root / name).is_dir():
                shutil.copytree(root / name, Path(room) / name, ignore=LEFT_OUT)
            elif (root / name).exists():
                shutil.copy2(root / name, Path(room) / name)
        os.chdir(room)
        try:
            wheel, source = build_meta.build_wheel(str(folder)), build_meta.build_sdist(str(folder))
        finally:
            os.chdir(before)
    return folder / wheel, folder / source


def from_source(source: Path, folder: Path) -> Path:
    """The wheel that a source distribution builds.

    Parameters
    ----------
    source, folder : Path
        What is unpacked, and where the wheel is put.
    """
    with tempfile.TemporaryDirectory() as room:
        with tarfile.open(source) as packed:
            packed.extractall(room, filter="data")
        (root,) = Path(room).iterdir()
        return built(folder, root)[0]


if __name__ == "__main__":
    for made in built(Path(sys.argv[1])):
        print(made)
