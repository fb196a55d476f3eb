"""Banks built by their numbers: so many units in series, so many strings in parallel."""

from functools import partial
from itertools import pairwise
from math import ceil

from jaunty_copper.battery.patterns import PATTERNS, SLACK_M, arrange, sensing, stands_between, strings_in_line, why_not
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.banks import GAP_MM, Bank, banks_of, distance_m, overlap, unit_places
from jaunty_copper.plan.defaults import new_fuse
from jaunty_copper.plan.edits import Edit, EditError, checked, fresh_id
from jaunty_copper.plan.model import Battery, Plan, Run, split_ref
from jaunty_copper.plan.topology import topology

MOST = 24
"""Units in series, or strings in parallel, at most."""
USUAL = "opposite"
"""Pattern of strings where none was in force."""
LINK = "mm2-50"
AT_POST_M = 0.1
"""From a post to the fuse of its string."""
AISLE_MM = 100.0
"""Between one bank and the next."""
OF_KIND = (
    "chemistry", "nominal_v", "capacity_ah", "capacity_share", "internal_ohm", "max_discharge_a", "max_charge_a",
    "short_circuit_a", "cranking_a", "make", "bought", "width_mm", "depth_mm", "thread",
)  # fmt: skip
"""What makes a unit the same as another."""


def drawn_bank(plan: Plan, unit: str) -> Bank:
    """The bank that a unit is in.

    Raises
    ------
    EditError
        It is no battery.
    """
    bank = next((b for b in banks_of(topology(plan)) if unit in b.by_id), None)
    if bank is None:
        raise EditError(say("{unit} is no battery", unit=unit))
    return bank


def shape_of(bank: Bank) -> tuple[int, int] | None:
    """Units in series and strings in parallel; None where strings are not alike."""
    lengths = {len(s) for s in bank.strings}
    return (lengths.pop(), len(bank.strings)) if len(lengths) == 1 and len(bank.groups) == 1 else None


def why_fixed(plan: Plan, bank: Bank) -> str | None:
    """Why a bank's numbers cannot be changed; None where they can."""
    if shape_of(bank) is None:
        return say("its strings are not alike")
    if len(bank.strings) > 1:
        return why_not(plan, bank)
    return stands_between(plan, bank, Battery)


def reshape(plan: Plan, unit: str, series: int, parallel: int) -> Plan:
    """Give a bank so many units in series and so many strings in parallel, all like its first.

    What leads away keeps its ends at the bank's plus and minus; strings are joined in the pattern that was in force.

    Parameters
    ----------
    unit : str
        Id of a unit of the bank.
    series, parallel : int
        Units in a string, and strings.

    Raises
    ------
    EditError
        The numbers are out of range, or something stands between the units.
    """
    if not (1 <= series <= MOST and 1 <= parallel <= MOST):
        raise EditError(say("a bank has 1 to {most} units in series and 1 to {most} strings in parallel", most=MOST))
    bank = drawn_bank(plan, unit)
    why = why_fixed(plan, bank)
    if why is not None:
        raise EditError(say("this bank's numbers stay: {why}", why=why))
    pattern = in_force(plan, bank)
    if pattern is not None:
        # With links only and both ends taken off at the first string, nothing but links is to be laid anew.
        plan = arrange(plan, unit, "one_end")
        bank = drawn_bank(plan, bank.units[0].id)
    built = _Building(plan, bank, series, parallel).made()
    if parallel < 2:
        return built
    wanted = pattern or USUAL
    first = strings_in_line(plan, bank)[0][0]
    fits = next(p for p in PATTERNS if p.id == wanted).fits(parallel)
    return arrange(built, first, wanted if fits else USUAL)


def in_force(plan: Plan, bank: Bank) -> str | None:
    """The pattern that a bank's conductors have; None for one string, or none of them."""
    if len(bank.strings) < 2 or why_not(plan, bank):
        return None
    for pattern in PATTERNS:
        if pattern.fits(len(bank.strings)):
            same = arrange(plan, bank.units[0].id, pattern.id)
            if _ends(same, bank) == _ends(plan, bank):
                return pattern.id
    return USUAL


def _ends(plan: Plan, bank: Bank) -> list[list[str]]:
    """What the bank's units are joined to, whatever its conductors, its bars and their studs are called."""
    joined = topology(plan)
    own = drawn_bank(plan, bank.units[0].id)
    inside = {split_ref(ref)[0] for id_ in own.inside for ref in (plan.run_by_id[id_].a, plan.run_by_id[id_].b)}

    def end(ref: str) -> str:
        id_ = split_ref(ref)[0]
        if id_ in own.by_id:
            return ref
        plus = joined.own_rail_of(ref) == joined.own_rail_of(own.takeoffs[say("plus")][0])
        return say("{words} bar", words=say("plus") if plus else say("minus")) if id_ in inside else id_

    ends = [sorted((end(r.a), end(r.b))) for r in plan.runs]
    held = {*own.by_id, say("plus bar"), say("minus bar")}
    return sorted(pair for pair in ends if any(split_ref(ref)[0] in held or ref in held for ref in pair))


class _Building:
    """The work of one change of numbers."""

    def __init__(self, plan: Plan, bank: Bank, series: int, parallel: int) -> None:
        self.plan, self.bank, self.series, self.parallel = plan, bank, series, parallel
        self.strings = strings_in_line(plan, bank) if len(bank.strings) > 1 else list(bank.strings)
        self.first = bank.by_id[self.strings[0][0]]
        links = [plan.run_by_id[id_] for id_ in bank.inside]
        beside = [r for u in bank.units for t in u.terminals for r in plan.runs_at.get(u.ref(t), ())]
        self.like: Run | None = next(iter([*links, *beside]), None)

    def made(self) -> Plan:
        """The plan with that bank."""
        plan, taken = self.plan, set[str]()
        grid: list[list[Battery]] = []
        for k in range(self.parallel):
            own = [self.bank.by_id[id_] for id_ in self.strings[k]] if k < len(self.strings) else []
            row = own[: self.series]
            while len(row) < self.series:
                id_ = fresh_id(plan, "B", taken)
                taken.add(id_)
                row.append(self.first.model_copy(update={"id": id_, "name": "", "at_mm": None, "soc_percent": None}))
            grid.append(row)
        kept = {u.id for row in grid for u in row}
        at = self._stand(grid, {x.id for x in self.bank.units})
        units = [u.model_copy(update={"at_mm": at[u.id]}) for row in grid for u in row]
        where = next(k for k, x in enumerate(plan.items) if x.id in self.bank.by_id)
        rest = [x for x in plan.items if x.id not in self.bank.by_id]
        items = (*rest[:where], *units, *rest[where:])
        moved = {
            self._end(self.strings[0], side): self._end([u.id for u in grid[0]], side) for side in ("plus", "minus")
        }
        runs = tuple(
            r.model_copy(update={"a": moved.get(r.a, r.a), "b": moved.get(r.b, r.b)})
            for r in plan.runs
            if r.id not in self.bank.inside
        )
        gone = [u.id for u in self.bank.units if u.id not in kept]
        leftover = [x for x in self.bank.units if x.id in gone]
        equipment = tuple(sensing(e, moved) for e in plan.equipment)
        plan = plan.model_copy(update={"items": (*items, *leftover), "runs": runs, "equipment": equipment})
        if gone:
            plan = edits.remove(plan, *gone)
        return self._linked(checked(plan), grid)

    def _end(self, string: list[str] | tuple[str, ...], side: str) -> str:
        return f"{string[-1 if side == 'plus' else 0]}.{side}"

    def _linked(self, plan: Plan, grid: list[list[Battery]]) -> Plan:
        for row in grid:
            for low, high in pairwise(row):
                plan = self._link(plan, low.ref("plus"), high.ref("minus"))
        for one, two in pairwise(grid):
            plan = self._link(plan, one[-1].ref("plus"), two[-1].ref("plus"))
            plan = self._link(plan, one[0].ref("minus"), two[0].ref("minus"))
        return plan

    def _link(self, plan: Plan, a: str, b: str) -> Plan:
        way = distance_m(plan, a, b) or 0.0
        like = {"conductor": LINK} if self.like is None else {
            "conductor": self.like.conductor, "insulation": self.like.insulation, "parallel": self.like.parallel,
            "zone": self.like.zone,
        }  # fmt: skip
        id_ = fresh_id(plan, "L")
        return edits.add(plan, Run(id=id_, a=a, b=b, length_m=ceil(100 * (way + SLACK_M)) / 100, **like))

    def _stand(self, grid: list[list[Battery]], own: set[str]) -> dict[str, tuple[float, float]]:
        """Where units stand: those that were there stay, the others come behind them; clear of other banks."""
        batteries = tuple(x for x in self.plan.items if isinstance(x, Battery))
        before = unit_places(batteries)
        others = [(before[b.id], b) for b in batteries if b.id not in own]
        at = self._rows(grid, before, before[self.first.id], self._grows_only())
        units = {u.id: u for row in grid for u in row}
        if any(overlap(u, at[id_], other, there) for id_, u in units.items() for there, other in others):
            back = max(y + b.depth_mm for (_, y), b in others)
            at = self._rows(grid, before, (before[self.first.id][0], back + AISLE_MM), False)
        return at

    def _grows_only(self) -> bool:
        """Whether all units that were there stay in their strings, and strings come to stand as they stood."""
        was = len(self.strings[0]), len(self.strings)
        return self.series == was[0] and (self.parallel >= self.series) == (was[1] >= was[0])

    def _rows(
        self, grid: list[list[Battery]], before: dict[str, tuple[float, float]], start: tuple[float, float], stays: bool
    ) -> dict[str, tuple[float, float]]:
        """In rows that are longer than deep: strings side by side, or behind one another."""
        across = self.parallel >= self.series
        wide, deep = self.first.width_mm + GAP_MM, self.first.depth_mm + GAP_MM
        at: dict[str, tuple[float, float]] = {}
        x, y = start
        for string in grid:
            for n, u in enumerate(string):
                stood = before.get(u.id) if stays else None
                at[u.id] = stood or ((x, y + deep * n) if across else (x + wide * n, y))
            first = at[string[0].id]
            x, y = (first[0] + wide, y) if across else (x, first[1] + deep)
        return at


def fuse_strings(plan: Plan, unit: str, rating_a: float, pole: str = "plus") -> Plan:
    """Put a fuse into one lead of each string of a bank, next to its post.

    Strings that have no lead of their own get one: equal leads to bars.

    Parameters
    ----------
    unit : str
        Id of a unit of the bank.
    rating_a : float
        Rated current of each fuse, A.
    pole : str
        plus or minus.

    Raises
    ------
    EditError
        There is one string only, or the strings cannot be rearranged.
    """
    bank = drawn_bank(plan, unit)
    if len(bank.strings) < 2:
        raise EditError(say("there is one string only: the main device is its own"))
    if any(len(plan.runs_at.get(_post(s, pole), ())) != 1 for s in bank.strings):
        plan = arrange(plan, unit, "bars")
    for string in drawn_bank(plan, unit).strings:
        ref = _post(string, pole)
        (run,) = plan.runs_at[ref]
        near = min(AT_POST_M, run.length_m / 2)
        fuse = new_fuse(plan, rating_a)
        plan = edits.insert_inline(plan, run.id, fuse, near if run.a == ref else run.length_m - near)
    return plan


def _post(string: tuple[str, ...], pole: str) -> str:
    return f"{string[-1 if pole == 'plus' else 0]}.{pole}"


def add_bank(plan: Plan, like: str | None = None) -> tuple[Plan, str]:
    """Add a unit that nothing leads to, to build another bank from; return its id too.

    Parameters
    ----------
    like : str, optional
        Unit that it is to be like; a usual one where not given.
    """
    batteries = tuple(x for x in plan.items if isinstance(x, Battery))
    at = unit_places(batteries)
    y = max((at[b.id][1] + b.depth_mm for b in batteries), default=-AISLE_MM) + AISLE_MM
    id_ = fresh_id(plan, "B")
    model = next((b for b in batteries if b.id == like), None)
    unit = (
        Battery(id=id_, chemistry="lifepo4", nominal_v=12.0, capacity_ah=100.0) if model is None
        else model.model_copy(update={"id": id_, "name": "", "soc_percent": None})
    )  # fmt: skip
    return edits.add(plan, unit.model_copy(update={"at_mm": (0.0, y)})), id_


def _another(plan: Plan, like: str | None) -> Plan:
    return add_bank(plan, like)[0]


def all_like(plan: Plan, unit: str) -> Plan:
    """Make all units of a bank of the kind of one of them."""
    bank = drawn_bank(plan, unit)
    kind = {field: getattr(bank.by_id[unit], field) for field in OF_KIND}
    for other in bank.units:
        if other.id != unit:
            plan = edits.change(plan, other.id, **kind)
    return plan


def shaping(title: str, unit: str, series: int, parallel: int) -> Edit:
    """The edit that gives a bank its numbers.

    Parameters
    ----------
    title : str
        What undo calls it.
    unit : str
        Id of a unit of the bank.
    series, parallel : int
        Units in a string, and strings.
    """
    words = say("{series} in series, {parallel} in parallel", series=series, parallel=parallel)
    return Edit(f"{title}: {words}", partial(reshape, unit=unit, series=series, parallel=parallel))


def growing(plan: Plan, unit: str) -> list[Edit]:
    """What can be added to a bank, taken from it and made alike, at one of its units."""
    found: list[Edit] = []
    bank = drawn_bank(plan, unit)
    shape = shape_of(bank) if why_fixed(plan, bank) is None else None
    if shape is not None:
        series, parallel = shape
        string = say("string") if series > 1 else say("unit")
        for words, s, p in (
            (say('Add a {string} in parallel', string=string), series, parallel + 1), (say("Add a unit in series"), series + 1, parallel),
            (say('Remove a {string} in parallel', string=string), series, parallel - 1), (say("Remove a unit in series"), series - 1, parallel),
        ):  # fmt: skip
            if 1 <= s <= MOST and 1 <= p <= MOST:
                found.append(Edit(words, partial(reshape, unit=unit, series=s, parallel=p)))
    if any(getattr(u, f) != getattr(bank.by_id[unit], f) for u in bank.units for f in OF_KIND):
        found.append(Edit(say("Make all units like {unit}", unit=bank.by_id[unit].title), partial(all_like, unit=unit)))
    found.append(Edit(say("Add another bank"), partial(_another, like=unit)))
    return found
