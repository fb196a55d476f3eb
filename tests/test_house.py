"""The house itself: a file is one idea, a class has one name."""

import ast
from collections import Counter
from pathlib import Path

import jaunty_copper

FILES = sorted(Path(jaunty_copper.__file__).parent.rglob("*.py"))
LONGEST, USUAL = 400, 200


def test_a_file_is_one_idea():
    lengths = {file: len(file.read_text().splitlines()) for file in FILES}
    assert len(lengths) > 100
    assert [f"{file.name}: {n}" for file, n in lengths.items() if n > LONGEST] == []
    assert sum(n < USUAL for n in lengths.values()) > len(lengths) / 2


def test_no_two_public_classes_have_one_name():
    named = Counter(
        node.name
        for file in FILES
        for node in ast.parse(file.read_text()).body
        if isinstance(node, ast.ClassDef) and not node.name.startswith("_")
    )
    assert len(named) > 200
    assert [name for name, count in named.items() if count > 1] == []
