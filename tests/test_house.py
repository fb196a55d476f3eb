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


FIGURES = {"float", "int", "Floats", "Ints", "Flags", "ArrayLike"}
"""What has a unit or a shape that no type says."""


def _public_functions(body, private=False):
    for node in body:
        if isinstance(node, ast.ClassDef):
            yield from _public_functions(node.body, private or node.name.startswith("_"))
        elif isinstance(node, ast.FunctionDef) and not private and not node.name.startswith("_"):
            yield node


def _takes_figures(function):
    named = [
        a.annotation
        for a in (*function.args.posonlyargs, *function.args.args, *function.args.kwonlyargs)
        if a.annotation
    ]
    return any(isinstance(n, ast.Name) and n.id in FIGURES for annotation in named for n in ast.walk(annotation))


def test_every_public_function_of_the_core_says_the_units_and_shapes_of_its_figures():
    core = [file for file in FILES if not {"desktop", "cli"} & set(file.parts)]
    functions = [
        (file, f) for file in core for f in _public_functions(ast.parse(file.read_text()).body) if _takes_figures(f)
    ]
    assert len(functions) > 150
    assert [
        f"{file.name}: {f.name}"
        for file, f in functions
        if "Parameters\n----------\n" not in (ast.get_docstring(f) or "")
    ] == []
