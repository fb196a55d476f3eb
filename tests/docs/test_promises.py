"""What is promised names a test, and the test is there."""

import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]


@pytest.mark.parametrize("page", ["promises.md", "security.md"])
def test_each_promise_names_a_test_that_is_there(page):
    rows = [line for line in (ROOT / "docs" / page).read_text().splitlines() if line.startswith("| ")][1:]
    assert len(rows) > 7
    for row in rows:
        shown = row.rsplit("|", 2)[1]
        named = re.findall(r"`(tests/[\w/]+\.py)`", shown)
        assert named or "./run torture" in shown or shown.strip() == "same", row
        for name in named:
            assert "def test_" in (ROOT / name).read_text() or "torture" in name
