"""The pictures that the README shows are of a whole window, and few."""

import re
from pathlib import Path

from PIL import Image

ROOT = Path(__file__).parents[2]


def test_every_picture_is_of_the_whole_window_and_the_readme_shows_only_what_is_there():
    found = {}
    for path in (ROOT / "docs" / "screenshots").iterdir():
        with Image.open(path) as picture:
            found[path.name] = picture.size
    assert set(found.values()) == {(1280, 800)}
    assert len(found) < 20
    shown = set(re.findall(r"docs/screenshots/([\w.-]+)", (ROOT / "README.md").read_text("utf-8")))
    assert shown
    assert shown <= set(found)
