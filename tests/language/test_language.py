"""Texts for people pass through one call, where a translator reaches them."""

import ast
import json
import os
import re
import string
import subprocess
import sys

import pytest

from jaunty_copper.codes.code import code_names, code_of
from jaunty_copper.language import say, say_many
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.examples import example

from . import catalogue as catalogues


def fields(text):
    return {name.partition(".")[0] for _, name, _, _ in string.Formatter().parse(text) if name}


def test_every_text_is_written_where_it_is_said_and_names_its_figures():
    found = list(catalogues.calls())
    assert len(found) > 2000
    for path, node, texts in found:
        where = f"{path}:{node.lineno}"
        given = {k.arg for k in node.keywords} | ({"count"} if node.func.id == "say_many" else set())
        for text in texts:
            assert isinstance(text, ast.Constant), where
            assert not given or fields(text.value) <= given, where
        if node.func.id == "say" and node.keywords:
            assert fields(texts[0].value) == given, where


def run(folder, translations, code, **more):
    env = os.environ | catalogues.write(folder, translations) | more
    done = subprocess.run([sys.executable, *code], env=env, capture_output=True, text=True, timeout=300)
    assert done.returncode == 0, done.stderr
    return done.stdout


def test_a_translation_is_used_with_its_own_order_and_its_own_plurals(tmp_path):
    translations = {
        "": "Content-Type: text/plain; charset=UTF-8\nPlural-Forms: nplurals=3; plural=n==1 ? 0 : n<5 ? 1 : 2;\n",
        "{run} carries {amps:.0f} A": "{amps:.0f} A in {run}",
        "{count} unit\0{count} units": "{count} jednotka\0{count} jednotky\0{count} jednotek",
        "Make {run} {label}": "{nothing} {run.__class__.missing}",
    }
    code = (
        "from jaunty_copper.language import say, say_many\n"
        "print(say('{run} carries {amps:.0f} A', run='W1', amps=119.7))\n"
        "print(*(say_many('{count} unit', '{count} units', n) for n in (1, 3, 8)))\n"
        "print(say('Make {run} {label}', run='W1', label='35 mm²'))\n"
    )
    lines = run(tmp_path, translations, ["-c", code]).splitlines()
    # One that does not fit its figures is not used.
    assert lines == ["120 A in W1", "1 jednotka 3 jednotky 8 jednotek", "Make W1 35 mm²"]


def test_without_a_translation_it_is_english():
    assert say("{run} carries {amps:.0f} A", run="W1", amps=119.7) == "W1 carries 120 A"
    assert [say_many("{count} unit", "{count} units", n) for n in (0, 1, 2)] == ["0 units", "1 unit", "2 units"]
    # What stands in a name is no template.
    assert say("Remove {name}", name="{0.__class__}") == "Remove {0.__class__}"


@pytest.mark.parametrize("damage", [b"", b"\xde\x12\x04\x95", b"\xde\x12\x04\x95" + b"\xff" * 40])
def test_a_damaged_catalogue_leaves_english(tmp_path, damage):
    env = os.environ | catalogues.write(tmp_path, {"": catalogues.HEAD})
    next(tmp_path.rglob("*.mo")).write_bytes(damage)
    done = subprocess.run(
        [sys.executable, "-m", "jaunty_copper", "--help"], env=env, capture_output=True, text=True, timeout=60
    )
    assert (done.returncode, done.stderr) == (0, "")
    assert "Open the window on the demo system." in done.stdout


def test_all_that_a_window_says_passes_through_it(tmp_path):
    out = run(tmp_path, catalogues.bracketed(), ["-m", "tests.language.window"], QT_QPA_PLATFORM="offscreen")
    texts = [json.loads(line) for line in out.splitlines()]
    assert sum("⟦" in t for t in texts) > 500
    plan, parts = example("orchard_station"), library()
    things = (*plan.items, *plan.equipment, *plan.scenarios, *plan.zones, *plan.routes, *plan.boards)
    # Names and ids that somebody gave, and what stands in tables of data.
    own = {plan.title, *(x.id for x in (*things, *plan.runs)), *(x.title for x in things)}
    own |= {t for x in (*plan.items, *plan.equipment) for t in x.terminal_names}
    for table in (parts.conductors, parts.insulations, parts.device_families, parts.battery_chemistries):
        own |= {x.label for x in table.values()}
    for code in map(code_of, code_names()):
        own |= {code.name, code.summary, *(limit.source for limit in code.limits.values())}
    own |= {s.colour for s in plan.stock} | {"red", "black"}
    left = []
    for text in texts:
        rest = text
        for name in sorted(own, key=len, reverse=True):
            rest = rest.replace(name, " ")
        if "⟦" not in text and re.search("[A-Za-z]{3,}", rest):
            left.append(text)
    # Examples by the names of their files; words that a cell takes as they are typed; addresses.
    addresses = {"TCPIP0::192.168.1.20::5025::SOCKET", "ASRL/dev/ttyUSB0::INSTR"}
    assert set(left) <= {"Orchard station", "Relay mast", "Seed shed", "off", "surge"} | addresses
