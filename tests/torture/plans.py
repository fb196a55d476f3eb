"""Plans that somebody damaged: each is refused with place and reason, or everything works on it."""

import contextlib
import copy
import json
import random
import time
from functools import cache

from jaunty_copper.cli.main import main
from jaunty_copper.commissioning.model import Bench
from jaunty_copper.desktop.inspector.describe import describe
from jaunty_copper.desktop.pages.map.menu import menu_choices
from jaunty_copper.desktop.work.making import picture_of
from jaunty_copper.documents.circuit import netlist
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.map.drawing import map_svg
from jaunty_copper.documents.pdf.labels import labels_pdf
from jaunty_copper.documents.pdf.report import report_pdf
from jaunty_copper.documents.table import as_csv, as_xlsx
from jaunty_copper.documents.tables import all_tables
from jaunty_copper.documents.words import Units
from jaunty_copper.plan.edits import EditError
from jaunty_copper.plan.examples import example, names
from jaunty_copper.plan.files import PlanError, dumps, parse, refused

NUMBERS = (0, -0.0, 1, -1, 2, 0.5, 1e-300, 1e-12, 1e-6, 1e6, 1e12, 1e300, 5e-324, 12, 24, 48, 100, 1000, 10**30, True)
TEXTS = (
    "", "x", "x" * 201, "x\n.control\nshell touch broken\n.endc", '<img src="/dev/stdin">', "=cmd|' /C calc'!A0", "a\rb", "\x1b[2J\x07",
    "\u202egnirts", "é" * 50, "a&b<c>\"d'", "plus", "B1.plus", "P24.s1", "off", "surge", "open", "mm2-10", "awg-4/0", "class-t-fuse", "0", "None",
)  # fmt: skip
LONGEST_REASON = 2000
ODD = (None, [], {}, [[]], {"a": 1}, "text", 0, 1.5, False)


@cache
def _documents():
    return tuple(json.loads(dumps(example(name))) for name in names())


def _paths(value, path=()):
    """Every place in a document."""
    yield path
    if isinstance(value, dict):
        for key, inner in value.items():
            yield from _paths(inner, (*path, key))
    elif isinstance(value, list):
        for k, inner in enumerate(value):
            yield from _paths(inner, (*path, k))


def _at(document, path):
    for step in path:
        document = document[step]
    return document


def _terminals(document):
    refs = [run[end] for run in document.get("runs", ()) for end in ("a", "b")]
    for thing in (*document.get("items", ()), *document.get("equipment", ())):
        for name in ("plus", "minus", "a", "b", "in_plus", "in_minus", "out_plus", "out_minus", "s1", "s2", "s9"):
            refs.append(f"{thing.get('id')}.{name}")
    return refs


def _mutate(r, document):
    """Do one thing to a document that a person, a merge or a bad disk could do."""
    lists = [k for k, v in document.items() if isinstance(v, list) and v]
    runs = document.get("runs") or [{}]
    match r.randrange(12):
        case 0 if lists:
            held = document[r.choice(lists)]
            held.pop(r.randrange(len(held)))
        case 1 if lists:
            held = document[r.choice(lists)]
            twin = copy.deepcopy(r.choice(held))
            if isinstance(twin, dict) and r.random() < 0.8:
                twin["id"] = f"{twin.get('id', 'X')}x"
            held.append(twin)
        case 2 | 3:
            r.choice(runs)[r.choice("ab")] = r.choice(_terminals(document))
        case 4:
            ids = r.sample(range(len(runs)), min(2, len(runs)))
            if len(ids) == 2:
                one, two = (runs[k] for k in ids)
                one["a"], two["a"] = two.get("a"), one.get("a")
        case 5 | 6 | 7:
            numbers = [p for p in _paths(document) if p and isinstance(_at(document, p), int | float)]
            if numbers:
                path = r.choice(numbers)
                old = _at(document, path)
                new = r.choice(NUMBERS) if r.random() < 0.4 else old * 10.0 ** r.uniform(-3, 3)
                _at(document, path[:-1])[path[-1]] = new
        case 8:
            texts = [p for p in _paths(document) if p and isinstance(_at(document, p), str)]
            path = r.choice(texts)
            same = [_at(document, p) for p in texts if p[-1] == path[-1]]
            _at(document, path[:-1])[path[-1]] = r.choice(same) if r.random() < 0.7 else r.choice(TEXTS)
        case 9:
            path = r.choice([p for p in _paths(document) if p])
            holder = _at(document, path[:-1])
            if r.random() < 0.5:
                holder.pop(path[-1])
            else:
                holder[path[-1]] = copy.deepcopy(r.choice(ODD))
        case 10:
            things = [t for k in lists for t in document[k] if isinstance(t, dict)]
            if things:
                one = r.choice(things)
                like = r.choice(things)
                if like:
                    key = r.choice(list(like))
                    one[key] = copy.deepcopy(like[key])
        case _:
            for group in ("items", "equipment", "scenarios", "zones"):
                for thing in document.get(group, ()):
                    if isinstance(thing, dict) and r.random() < 0.3:
                        thing["name"] = r.choice(TEXTS)


def damaged(seed):
    """A plan's bytes after a few misfortunes."""
    r = random.Random(seed)
    document = copy.deepcopy(r.choice(_documents()))
    for _ in range(r.choice((1, 1, 2, 3, 5, 8))):
        try:
            _mutate(r, document)
        except (AttributeError, TypeError, KeyError, IndexError):
            break  # An earlier misfortune left nothing that this one could happen to.
    data = json.dumps(document, ensure_ascii=r.random() < 0.5).encode("utf-8", "surrogatepass")
    if r.random() < 0.03:
        cut = r.randrange(len(data))
        data = data[:cut] + bytes(r.randrange(256) for _ in range(r.randrange(4))) + data[cut + r.randrange(9) :]
    return data


def _read(data):
    try:
        return parse(data), ()
    except PlanError as error:
        return None, error.details


def _edit(r, plan, picture, places, thoroughly):
    """Some of what the menus offer, and what each finding proposes: all give a plan that reads back, or say why not."""
    for selected in (None, *r.sample(places, min(len(places), 12 if thoroughly else 4))):
        offered = list(menu_choices(plan, picture, selected))
        for choice in r.sample(offered, min(len(offered), 12 if thoroughly else 2)):
            with contextlib.suppress(EditError):
                made = choice.edit.apply(plan)
                if refused(made, plan) is None:
                    assert parse(dumps(made)) == made
    for finding in picture.findings:
        if finding.fix() is not None:
            refused(finding.fix().apply(plan), plan)


def use(data, folder, thoroughly, drawn=None, most_s=float("inf"), edited=True):
    """Do with a plan what can be done; whether it was one.

    Parameters
    ----------
    data : bytes
        Of a file.
    folder : Path
        For files.
    thoroughly : bool
        Also what takes seconds: PDF, spreadsheet, command line.
    edited : bool
        Also what is offered at some places, and what the findings propose.
    drawn : callable or None
        Draws a picture in the window's own widgets.
    most_s : float
        For studying and judging, of computing.
    """
    plan, why = _read(data)
    if plan is None:
        assert why
        assert all(0 < len(w) < LONGEST_REASON for w in why), why
        return False
    assert parse(dumps(plan)) == plan
    begin = time.process_time()
    picture = picture_of(plan)
    assert time.process_time() - begin < most_s, "studying and judging took too long"
    dossier = Dossier(plan)
    r = random.Random(len(data))
    places = [*plan.by_id, *plan.run_by_id]
    scenario = plan.scenarios[0].id if plan.scenarios else None
    for selected in (None, *(places if edited else r.sample(places, min(len(places), 3)))):
        list(describe(picture, plan, selected, scenario, Units(r.random() < 0.5)))
    assert all(finding.headline for finding in picture.findings)
    if edited:
        _edit(r, plan, picture, places, thoroughly)
    for state in picture.study.states:
        map_svg(dossier.known, state.scenario.id)
        if state.solved:
            netlist(state)
    assert dossier.bench is None or isinstance(dossier.bench, Bench)
    if drawn is not None:
        drawn(picture)
    if thoroughly:
        tables = all_tables(dossier)
        for table in tables:
            as_csv(table)
        as_xlsx(tables)
        report_pdf(dossier)
        labels_pdf(dossier)
        file = folder / "damaged.copper.json"
        file.write_bytes(data)
        for command in ("check", "solve", "faults", "coordination", "needs", "readings"):
            assert main([command, str(file)]) in (0, 1, 2)
    return True
