"""Every table of a plan, for CSV, spreadsheet and report alike."""

from collections import Counter
from collections.abc import Callable, Iterable, Iterator

from jaunty_copper.codes.rules import RULES
from jaunty_copper.commissioning.points import UNIT, Point
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.listings import CONDUITS, CUTS, MATERIALS, READY_MADE, STUDS
from jaunty_copper.documents.notices import notices_of
from jaunty_copper.documents.table import Cell, Table, column, columns
from jaunty_copper.fabrication.cuts import Cut
from jaunty_copper.language import say

# What is made and bought


def _reels(d: Dossier) -> Table:
    return Table(
        "reels", say("Lengths"), columns("size", "colour", "length_m", "cuts", "left_m", "from"), tuple(_pieces(d))
    )


def _pieces(d: Dossier) -> Iterator[tuple[Cell, ...]]:
    shop = d.shop
    for kind, packing in shop.packings.items():
        size = shop.wiring.parts.conductors[kind.conductor].label
        if isinstance(packing, str):
            yield size, kind.colour, None, packing, None, None
            continue
        for piece in packing.pieces:
            names = " ".join(_mark(d, shop.kinds[kind][k]) for k in piece.cuts)
            yield (
                size,
                kind.colour,
                piece.stock_m,
                names,
                piece.left_m,
                say("left over") if piece.owned else say("bought"),
            )


def _mark(d: Dossier, cut: Cut) -> str:
    return f"{cut.run}.{cut.number}" if d.plan.run_by_id[cut.run].parallel > 1 else cut.run


def _labels(d: Dossier) -> Table:
    rows = tuple((c.label, end.ref) for c in d.shop.cuts for end in (c.a, c.b))
    return Table("labels", say("Labels"), columns("label", "at"), rows)


def _notices(d: Dossier) -> Table:
    rows = tuple((n.place, n.where, n.head, "; ".join(n.lines), d.case.code.notices) for n in notices_of(d))
    return Table("notices", say("Notices"), columns("place", "where", "head", "text", "source"), rows)


def _order(d: Dossier) -> Table:
    done = set(d.plan.done)
    rows = tuple(
        (s.id, s.part, s.text, s.caution, "x" if s.id in done else "", d.plan.done_on.get(s.id)) for s in d.steps
    )
    return Table("order", say("Connection order"), columns("step", "part", "what", "caution", "done", "on"), rows)


def _crimps(d: Dossier) -> Table:
    """Every kind of crimp: the die is that of the lug, and the lug that of the cable."""
    parts = d.shop.wiring.parts
    ends = [(c, e) for c in d.shop.cuts for e in (c.a, c.b) if e.thread is not None]
    count = Counter((c.conductor, e.thread, e.angle, e.sleeve_mm) for c, e in ends)
    rows = tuple(
        (
            parts.conductors[size].label,
            thread,
            angle,
            n,
            say("for lugs of {size}", size=parts.conductors[size].label),
            sleeve,
        )
        for (size, thread, angle, sleeve), n in sorted(
            count.items(), key=lambda x: (parts.conductors[x[0][0]].area_mm2, str(x[0][1]))
        )
    )
    head = (
        column("lug", "lug", 3),
        column("stud", "stud", 2),
        column("angle", "angle", 2),
        column("count", "count", 2),
        column("die", "die", 5),
        column("sleeve_mm", "sleeve, mm", 2),
    )
    return Table("crimps", say("Crimps"), head, rows)


# What is planned and checked


def _equipment(d: Dossier) -> Table:
    head = (
        column("id", "id", 10),
        column("name", "name", 26),
        column("kind", "kind", 18),
        column("nominal_v", "V", 7),
        column("power_w", "W", 9),
        column("current_a", "A", 9),
        column("hours_per_day", "h/day", 9),
        column("zone", "zone", 16),
    )
    rows = tuple(
        (
            e.id, e.title, e.kind.replace("_", " "), e.nominal_v, getattr(e, "power_w", None),
            getattr(e, "current_a", None), getattr(e, "hours_per_day", None), d.plan.zone_of(e.zone).name,
        )
        for e in d.plan.equipment
    )  # fmt: skip
    return Table("equipment", say("Equipment"), head, rows)


def _scenarios(d: Dossier) -> Table:
    head = columns("scenario", "equipment", "state", "volts", "amps")
    rows: list[tuple[Cell, ...]] = []
    for s in d.study.states:
        for e in d.plan.equipment:
            if s.solved:
                volts, amps = s.port(e)
                rows.append((s.scenario.title, e.title, s.mode(e), volts, amps))
            else:
                rows.append((s.scenario.title, e.title, say("no operating point"), None, None))
    return Table("scenarios", say("Scenarios"), head, tuple(rows))


CHECKS = (
    column("check", "check", 14),
    column("place", "place", 27),
    column("figure", "figure", 9),
    column("limit", "limit", 8),
    column("unit", "", 4),
    column("scenario", "scenario", 13),
    column("verdict", "verdict", 8),
    column("source", "source", 24),
)


def _checks(d: Dossier) -> Table:
    """Everything that was held against a rule, passing or not, in the order of the rules."""
    scenarios = {s.id: s.title for s in d.plan.scenarios}
    rows = tuple(
        (
            c.rule.title, d.case.title(c.place), c.figure, c.limit, c.unit, scenarios.get(c.scenario or "", ""),
            c.verdict.word, c.source,
        )
        for c in d.checks
    )  # fmt: skip
    return Table("checks", say("Checks"), CHECKS, rows)


RULE_COLUMNS = (
    column("rule", "rule", 22), column("findings", "findings", 8), column("verdict", "verdict", 9), column("why", "why it matters", 61),
)  # fmt: skip


def _rules(d: Dossier) -> Table:
    """Every rule of the practice, and how much it found."""
    count = Counter(f.rule for f in d.findings)
    worst = {f.rule: f.verdict.word for f in reversed(d.findings)}
    rows = tuple(
        (r.title, count[r], worst.get(r, "holds"), r.why) for r in RULES if not r.only or d.case.code.id in r.only
    )
    return Table("rules", say("Rules held against it"), RULE_COLUMNS, rows)


def _findings(d: Dossier) -> Table:
    head = columns("severity", "rule", "place", "headline", "figure", "limit", "unit", "source")
    rows = tuple(
        (f.verdict.word, f.rule.title, d.case.title(f.place), f.headline, f.figure, f.limit, f.unit, f.source)
        for f in d.findings
    )
    return Table("findings", say("Findings"), head, rows)


def _bank(d: Dossier) -> Table:
    """What each unit takes of its bank's current, scenario by scenario."""
    head = columns(
        "bank", "scenario", "unit", "amps", "share_percent", "even_percent", "c_rate_per_h", "volts", "limit_a"
    )
    rows = tuple(
        (
            bank.id, s.scenario.title, u.unit, u.current_a, 100.0 * u.share, 100.0 * u.even, u.c_rate, u.terminal_v,
            u.limit_a,
        )
        for bank in d.study.wiring.banks for s in d.case.sharings[bank.id] for u in s.shares
    )  # fmt: skip
    return Table("bank", "Bank", head, rows)


def _faults(d: Dossier) -> Table:
    f = d.protection.faults
    head = (
        column("terminal", "terminal", 4),
        column("greatest_a", "greatest, A", 2),
        column("steady_a", "steady, A", 2),
        column("least_a", "least, A", 2),
    )
    rows = tuple((ref, f.most_a(ref), abs(float(f.steady.current_a[k])), f.least_a(ref)) for ref, k in f.at.items())
    return Table("faults", say("Short-circuit currents"), head, rows)


def _coordination(d: Dossier) -> Table:
    head = (
        column("upstream", "upstream", 3),
        column("downstream", "downstream", 3),
        column("verdict", "verdict", 2),
        column("up_to_a", "up to, A", 2),
        column("least_a", "least, A", 2),
        column("most_a", "greatest, A", 2),
        column("same_circuit", "same circuit", 2),
    )
    rows = tuple(
        (p.upstream, p.downstream, p.verdict, p.up_to_a, p.least_a, p.most_a, say("yes") if p.same else say("no"))
        for p in d.protection.pairs
    )
    return Table("coordination", say("Selectivity"), head, rows)


def _readings(d: Dossier) -> Table:
    head = columns("quantity", "a", "b", "expected", "tolerance", "read", "unit", "among_the_fewest")
    rows: list[tuple[Cell, ...]] = []
    if d.bench is not None:
        taken = {Point(r.quantity, r.a, r.b): r.value for r in d.plan.readings if r.scenario == d.bench.scenario.id}
        for k, e in enumerate(d.bench.expected()):
            rows.append(
                (
                    *e.point,
                    e.value,
                    e.tolerance,
                    taken.get(e.point),
                    UNIT[e.point.quantity],
                    "x" if k in d.fewest else "",
                )
            )
    return Table("readings", say("Expected readings"), head, tuple(rows))


def _log(d: Dossier) -> Table:
    head = (
        column("day", "day", 12),
        column("kind", "what", 10),
        column("about", "about", 12),
        column("value", "value", 9),
        column("hours", "hours", 7),
        column("text", "text", 34),
        column("picture", "picture", 12),
        column("readings", "readings", 9),
    )
    rows = tuple(
        (e.on, e.kind, e.about, e.value, e.hours, e.text, e.picture, len(e.readings) or None)
        for e in sorted(d.plan.log, key=lambda e: e.on)
    )
    return Table("log", say("Log"), head, rows)


MAKERS: dict[str, Callable[[Dossier], Table]] = {
    "equipment": _equipment, "scenarios": _scenarios, "bank": _bank, "checks": _checks, "findings": _findings, "rules": _rules,
    "faults": _faults, "coordination": _coordination, "cuts": CUTS.table, "reels": _reels, "materials": MATERIALS.table,
    "ready_made": READY_MADE.table,
    "crimps": _crimps, "terminals": STUDS.table, "conduits": CONDUITS.table, "labels": _labels, "notices": _notices, "order": _order, "readings": _readings,
    "log": _log,
}  # fmt: skip
"""Every table, by the name that the command line gives it, in the order of the work."""


def table(dossier: Dossier, name: str) -> Table:
    """One table.

    Raises
    ------
    KeyError
        There is none of that name.
    """
    return MAKERS[name](dossier)


def all_tables(dossier: Dossier, names: Iterable[str] = MAKERS) -> tuple[Table, ...]:
    """Several tables, all where none are named."""
    return tuple(table(dossier, n) for n in names)
