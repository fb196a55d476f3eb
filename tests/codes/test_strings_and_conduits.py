"""Strings' own devices and conduits by chance, against loops that no device is in, and against areas added up by hand."""

import random
from itertools import pairwise
from math import pi

import numpy as np
import pytest
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from jaunty_copper.assessment.assessment import Assessment
from jaunty_copper.codes.code import code_of
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.model import Breaker, Disconnect, Fuse, Plan, PowerLoad, Route, Splice
from tests.build import bar, battery, ohms, wire
from tests.trials import hold, trials

CODES = ("iec_60364", "iso_small_craft", "north_american_small_craft")


def checks(plan, rule, code):
    return [c for c in Assessment(plan, code).checks if c.rule.id == rule]


def strings_by_chance(seed):
    """Two to five strings of one or two units between two bars, each end led there in one of several ways."""
    r = random.Random(seed)
    strings, series = r.randint(2, 5), r.choice((1, 1, 2))
    items, runs = [bar("P", 8), bar("M", 8)], []

    def run(a, b):
        runs.append(ohms(f"W{len(runs)}", a, b, 2e-4))

    def inline(kind, id_):
        items.append(
            {
                "fuse": lambda: Fuse(id=id_, family="class-t-fuse", rating_a=100.0),
                "breaker": lambda: Breaker(id=id_, family="thermal-breaker", rating_a=100.0),
                "switch": lambda: Disconnect(id=id_, rating_a=300.0),
                "splice": lambda: Splice(id=id_),
            }[kind]()
        )
        return f"{id_}.a", f"{id_}.b"

    last = {}
    for s in range(strings):
        units = [f"B{s}x{k}" for k in range(series)]
        items.extend(battery(u) for u in units)
        for first, second in pairwise(units):
            if r.random() < 0.2:
                a, b = inline("fuse", f"FI{s}")
                run(f"{first}.minus", a)
                run(b, f"{second}.plus")
            else:
                run(f"{first}.minus", f"{second}.plus")
        for pole, end in (("P", f"{units[0]}.plus"), ("M", f"{units[-1]}.minus")):
            way = r.choice(
                ("bar", "bar", "fuse", "breaker", "switch", "switch fuse", "splice fuse", "beside", "beside")
            )
            if way == "beside" and pole in last:
                # On the terminal of the string before, or of the device that it comes to.
                run(end, last[pole])
                continue
            at = end
            for n, kind in enumerate(way.split() if way not in ("bar", "beside") else ()):
                a, b = inline(kind, f"{pole}{s}d{n}")
                run(at, a)
                last[pole] = r.choice((at, a))
                at = b
            run(at, f"{pole}.s{s + 1}")
            if way in ("bar", "beside"):
                last[pole] = end
    runs += [ohms("out", "P.s8", "E.plus", 1e-3), ohms("back", "E.minus", "M.s8", 1e-3)]
    return Plan(items=tuple(items), equipment=(PowerLoad(id="E", power_w=60.0),), runs=tuple(runs))


def joined(plan, without, device=None, open_=()):
    """Which terminals are joined past some units and one device, with some kinds of things open."""
    refs = [ref for x in plan.placed for ref in (x.ref(t) for t in x.terminal_names)]
    at = {ref: k for k, ref in enumerate(refs)}
    pairs = [(r.a, r.b) for r in plan.runs]
    for x in plan.placed:
        own = [x.ref(t) for t in x.terminal_names]
        if x.id not in without and x.id != device and not isinstance(x, open_):
            pairs += [(own[0], ref) for ref in own[1:]]
    a, b = (np.array([at[pair[k]] for pair in pairs]) for k in (0, 1))
    _, label = connected_components(coo_array((np.ones(len(a)), (a, b)), shape=(len(refs), len(refs))))
    return {ref: int(label[k]) for ref, k in at.items()}


def goes_round(plan, string, device=None, open_=()):
    """Whether current can go through a string, by what else there is."""
    past = {unit: joined(plan, (unit,), device, open_) for unit in string}
    return all(past[unit][f"{unit}.plus"] == past[unit][f"{unit}.minus"] for unit in string)


def bare_strings(plan, strings):
    """Strings of which no device alone can cut off that one and leave the others in."""
    devices = [x.id for x in plan.items if isinstance(x, Fuse | Breaker)]
    return {
        s
        for s in strings
        if not any(
            not goes_round(plan, s, d) and all(goes_round(plan, other, d) for other in strings if other != s)
            for d in devices
        )
    }


@pytest.mark.chance
def test_strings_without_a_device_are_those_that_none_alone_cuts_off():
    right = 0
    for seed in range(many := trials(300, 60)):
        plan, code = strings_by_chance(seed), CODES[seed % len(CODES)]
        assessment = Assessment(plan, code)
        (bank,) = assessment.wiring.banks
        bare = bare_strings(plan, bank.strings)
        # What drives through a string with no device anywhere in its way is among them.
        assert {s for s in bank.strings if goes_round(plan, s, open_=(Fuse, Breaker, PowerLoad))} <= bare
        (told,) = [c for c in assessment.checks if c.rule.id == "string_protection"]
        wrong = bool(bare) and len(bank.strings) > code_of(code).limit("strings_without_protection")
        same = bool(told.headline) == wrong and (
            not wrong or told.headline.startswith(f"{len(bare)} of {len(bank.strings)} ")
        )
        if not same:
            print(seed, bare, told.headline)
        right += same
    hold(
        "banks whose strings without a device of their own are those that no device alone cuts off",
        right,
        many,
        at_least=1.0,
    )


def conduit_by_chance(seed):
    """A route with some runs, some in parallel, some parted by a switch; and what else lies about."""
    r = random.Random(seed)
    sizes = [s for s in library().conductors if s.startswith("mm2-")]
    items, equipment, runs = [bar("P", 12), bar("M", 12), battery()], [], []
    runs += [wire("bp", "B.plus", "P.s12"), wire("bm", "B.minus", "M.s12")]
    taken, cables = 0.0, 0
    for k in range(r.randint(0, 5)):
        size, parallel = r.choice(sizes), r.choice((1, 1, 1, 2))
        equipment.append(PowerLoad(id=f"E{k}", power_w=5.0))
        inside = r.random() < 0.7
        way = {"route": "R"} if inside else {}
        if r.random() < 0.4:
            other = r.choice(sizes)
            items.append(Disconnect(id=f"Q{k}", rating_a=300.0))
            runs.append(wire(f"a{k}", f"P.s{k + 1}", f"Q{k}.a", conductor=size, parallel=parallel, **way))
            runs.append(wire(f"b{k}", f"Q{k}.b", f"E{k}.plus", conductor=other, **way))
            # At no place lie both: the larger of the two is there somewhere.
            own = max(parallel * area(size), area(other))
        else:
            runs.append(wire(f"a{k}", f"P.s{k + 1}", f"E{k}.plus", conductor=size, parallel=parallel, **way))
            own = parallel * area(size)
        back = r.choice(sizes)
        runs.append(wire(f"m{k}", f"E{k}.minus", f"M.s{k + 1}", conductor=back, **way))
        if inside:
            taken, cables = taken + own + area(back), cables + parallel + 1
    inner = r.choice((None, 13.0, 21.4, 35.4, 60.0))
    plan = Plan(
        items=tuple(items), equipment=tuple(equipment), runs=tuple(runs),
        routes=(Route(id="R", inner_mm=inner),) if inner else (),
    )  # fmt: skip
    return plan, inner, taken, cables


def area(size):
    return pi / 4.0 * library().conductors[size].outer_mm ** 2


@pytest.mark.chance
def test_conduits_are_as_full_as_areas_added_up_say():
    right = 0
    for seed in range(many := trials(300, 60)):
        plan, inner, taken, cables = conduit_by_chance(seed)
        told = checks(plan, "conduit_fill", "nfpa_70")
        if not cables or inner is None:
            right += not told
            continue
        # NFPA 70 chapter 9, table 1: 53 % for one, 31 % for two, 40 % for more.
        most = {1: 53.0, 2: 31.0}.get(cables, 40.0)
        share = 100.0 * taken / (pi / 4.0 * inner**2)
        (check,) = told
        assert check.figure == pytest.approx(share)
        fix = check.fix() if check.headline else None
        if share > most:
            right += bool(check.headline)
            if fix is not None:
                assert not [c for c in checks(fix.apply(plan), "conduit_fill", "nfpa_70") if c.headline]
        else:
            right += not check.headline
    hold("conduits held as full as areas added up by hand say", right, many, at_least=1.0)
