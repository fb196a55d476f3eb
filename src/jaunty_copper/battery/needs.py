"""What must run, and what that asks of the bank: currents, ampere-hours, autonomy, proposals.

Everything is counted at the bank: what stands behind converters with their losses, what idles
with its standing draw. Voltages here are nominal or lowest, not solved: this page comes before
the copper.
"""

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property

from jaunty_copper.battery.by_hour import hours_of_load, hours_of_source
from jaunty_copper.battery.discharge import cut_out_v
from jaunty_copper.battery.feeding import bank_by_thing, charged_by, feeding
from jaunty_copper.language import say
from jaunty_copper.network.cut_off import cut_off
from jaunty_copper.network.demand import asked_by, is_closed, scenarios_of, share_of
from jaunty_copper.network.wiring import Wiring, cells, held_ah
from jaunty_copper.plan.banks import Bank
from jaunty_copper.plan.model import (
    Contactor,
    Converter,
    Equipment,
    Inverter,
    Load,
    Plan,
    Scenario,
    SolarController,
    Source,
)

COPPER_OHM_MM2_PER_M = 0.0175
"""Resistivity of stranded copper near 20 C, rounded up from the 0.01724 of IEC 60028."""
COPPER_KG_PER_DM3 = 8.9
"""Density of copper, IEC 60028: 8.89."""
DROP_SHARE = 0.03
"""What proposals allow over the way there and back."""


@dataclass(frozen=True)
class Draw:
    """What one piece of equipment takes from the bank in one state, W at nominal and at lowest voltage.

    Attributes
    ----------
    nominal_a, lowest_a : float
        From the bank, at its nominal and at its lowest voltage.
    """

    id: str
    nominal_a: float
    lowest_a: float


@dataclass(frozen=True)
class Together:
    """What runs together in one scenario.

    Attributes
    ----------
    draws : tuple of Draw
        Largest at the lowest voltage first.
    given_a : float
        What sources give at nominal voltage.
    """

    scenario: Scenario
    draws: tuple[Draw, ...]
    given_a: float

    @property
    def nominal_a(self) -> float:
        """Sum at nominal voltage."""
        return sum(d.nominal_a for d in self.draws)

    @property
    def lowest_a(self) -> float:
        """Sum at the lowest voltage."""
        return sum(d.lowest_a for d in self.draws)

    @property
    def momentary(self) -> bool:
        """Whether something surges in it."""
        return "surge" in self.scenario.states.values()


@dataclass(frozen=True)
class Daily:
    """One line of the day's account, Wh at the bank; sources are negative."""

    id: str
    what: str
    wh: float


@dataclass(frozen=True)
class Proposal:
    """One system voltage, with what it would ask.

    Attributes
    ----------
    current_a : float
        Largest continuous current at that nominal voltage.
    copper_mm2 : float
        Section for the longest heavy circuit at 3 % drop.
    copper_kg : float
        Copper of the plan's circuits at 3 % drop, there and back.
    """

    volts: float
    current_a: float
    peak_a: float
    copper_mm2: float
    copper_kg: float


@dataclass(frozen=True)
class Needs:
    """What a plan's equipment asks of one bank."""

    wiring: Wiring
    bank: Bank | None
    nominal_v: float
    lowest_v: float
    lowest_why: str
    states: tuple[Together, ...]
    daily: tuple[Daily, ...]

    @property
    def plan(self) -> Plan:
        """The plan."""
        return self.wiring.plan

    @property
    def continuous_a(self) -> float:
        """Largest current that lasts, at the lowest voltage."""
        return max((s.lowest_a for s in self.states if not s.momentary), default=0.0)

    @property
    def peak_a(self) -> float:
        """Largest current of all, surges included, at the lowest voltage."""
        return max((s.lowest_a for s in self.states), default=0.0)

    @property
    def used_wh(self) -> float:
        """Energy taken out of the bank in a day."""
        return sum(d.wh for d in self.daily if d.wh > 0.0)

    @property
    def given_wh(self) -> float:
        """Energy that sources give in a day."""
        return -sum(d.wh for d in self.daily if d.wh < 0.0)

    @property
    def used_ah(self) -> float:
        """Ampere-hours of a day at the bank's nominal voltage."""
        return self.used_wh / self.nominal_v

    @cached_property
    def usable_wh(self) -> float:
        """Energy that the bank gives without harm, at nominal voltage."""
        parts = self.wiring.parts
        return sum(
            held_ah(u) * u.nominal_v * parts.battery_chemistries[u.chemistry].usable_fraction
            for u in (self.bank.units if self.bank else ())
        )

    @property
    def autonomy_days(self) -> float:
        """How long the bank lasts without charging."""
        return self.usable_wh / self.used_wh if self.used_wh else float("inf")

    @cached_property
    def usable_fraction(self) -> float:
        """Of the bank's chemistry; of lithium iron phosphate where there is no bank."""
        parts = self.wiring.parts.battery_chemistries
        units = self.bank.units if self.bank else ()
        return parts[units[0].chemistry if units else "lifepo4"].usable_fraction

    @property
    def proposed_ah(self) -> float:
        """Capacity for the wanted autonomy, Ah at the nominal voltage."""
        return self.used_wh * self.plan.autonomy_days / self.usable_fraction / self.nominal_v

    @cached_property
    def proposals(self) -> tuple[Proposal, ...]:
        """12, 24 and 48 V side by side."""
        return tuple(self._proposal(v) for v in (12.0, 24.0, 48.0))

    def _proposal(self, volts: float) -> Proposal:
        lasting = [s for s in self.states if not s.momentary]
        power = max((s.nominal_a for s in lasting), default=0.0) * self.nominal_v
        peak = max((s.nominal_a for s in self.states), default=0.0) * self.nominal_v
        mm2 = kg = 0.0
        for e, metres in self._circuits:
            watts = max((d.nominal_a * self.nominal_v for s in lasting for d in s.draws if d.id == e.id), default=0.0)
            section = COPPER_OHM_MM2_PER_M * metres * (watts / volts) / (DROP_SHARE * volts)
            mm2 = max(mm2, section)
            kg += section * metres * COPPER_KG_PER_DM3 / 1000.0
        return Proposal(volts, power / volts, peak / volts, mm2, kg)

    @cached_property
    def _circuits(self) -> list[tuple[Equipment, float]]:
        """Loads and converters with the length of their own conductors, both ways."""
        found: list[tuple[Equipment, float]] = []
        for e in self.plan.equipment:
            if isinstance(e, Load | Converter):
                runs = {r.id: r.length_m for ref in e.port for r in self.plan.runs_at.get(ref, ())}
                found.append((e, sum(runs.values())))
        return found

    @cached_property
    def reasons(self) -> tuple[str, ...]:
        """In words, what speaks for which voltage. Nothing is imposed."""
        said = []
        for p in self.proposals:
            if p.current_a > 200.0:
                said.append(
                    say(
                        "At {volts:g} V {current_a:.0f} A flow: more than 200 A asks for bars and paired cable.",
                        volts=p.volts,
                        current_a=p.current_a,
                    )
                )
        fit = [p for p in self.proposals if p.current_a <= 100.0]
        if fit and fit[0].current_a > 0.0:
            said.append(say("{volts:g} V is the lowest that keeps what lasts at or below 100 A.", volts=fit[0].volts))
        native = {e.nominal_v for e in self.plan.equipment if isinstance(e, Load)}
        if len(native) == 1:
            said.append(say("All loads are made for {pop:g} V: another voltage needs converters.", pop=native.pop()))
        low, high = self.proposals[0], self.proposals[-1]
        if high.copper_kg > 0.0:
            said.append(
                say(
                    "For the same drop 12 V takes {copper_kg:.0f} times the copper of 48 V.",
                    copper_kg=low.copper_kg / high.copper_kg,
                )
            )
        return tuple(said)


def needs(wiring: Wiring, bank: Bank | None = None) -> Needs:
    """Count up what a plan's equipment asks of one of its banks.

    Parameters
    ----------
    bank : Bank, optional
        The largest where not given; what hangs on no bank yet is counted with that one.
    """
    plan = wiring.plan
    largest = max(wiring.banks, key=lambda b: sum(held_ah(u) * u.nominal_v for u in b.units), default=None)
    bank = bank or largest
    nominal = (
        bank.nominal_v if bank and bank.nominal_v > 0.0 else max((e.nominal_v for e in plan.equipment), default=12.0)
    )
    feeds = feeding(wiring)
    of = bank_by_thing(wiring, feeds)
    # What holds a contactor counts where its coil is not drawn as a load.
    drawn = {e.drives for e in wiring.loads}
    own = [
        x for x in plan.placed
        if (isinstance(x, Equipment) or (isinstance(x, Contactor) and x.coil_w and x.id not in drawn))
        and of.get(x.id, largest) is bank
    ]  # fmt: skip
    lowest, why = _lowest(wiring, bank, nominal, own)
    into = [
        c for c in plan.equipment if isinstance(c, Converter) and bank is not None and charged_by(wiring, c) is bank
    ]
    return Needs(
        wiring, bank, nominal, lowest, why,
        tuple(_together(wiring, _left_on(wiring, own, s, feeds), feeds, s, nominal, lowest, into) for s in scenarios_of(plan)),
        (*_daily(wiring, own, feeds, nominal), *_passed_on(wiring, own, into, of, feeds)),
    )  # fmt: skip


def _left_on(
    wiring: Wiring, own: list[Equipment | Contactor], scenario: Scenario, feeds: dict[str, Converter]
) -> list[Equipment | Contactor]:
    off = cut_off(wiring, scenario, own, feeds)
    return [x for x in own if x.id not in off]


def _lowest(wiring: Wiring, bank: Bank | None, nominal: float, own: list[Equipment | Contactor]) -> tuple[float, str]:
    """The lowest voltage at which things still run, and what sets it."""
    inverters = [(cut_out_v(e), e.title) for e in own if isinstance(e, Inverter) and cut_out_v(e)]
    if inverters:
        volts, name = max(inverters)
        return volts, say("{name} cuts out", name=name)
    if bank is None:
        return 0.9 * nominal, say("nine tenths of nominal, for want of a bank")
    kinds = wiring.parts.battery_chemistries
    return bank.across(lambda u: kinds[u.chemistry].stop_v * cells(u, wiring.parts), min), say("the bank is empty")


def _output_w(e: Load, scenario: Scenario, volts: float) -> float:
    """What a load takes at a voltage of its own terminals, W."""
    watts, amps, siemens = asked_by(e, scenario)
    return watts + amps * volts + siemens * volts**2


def _together(
    wiring: Wiring, own: list[Equipment | Contactor], feeds: dict[str, Converter], scenario: Scenario, nominal: float,
    lowest: float, into: list[Converter],
) -> Together:  # fmt: skip
    """What the equipment of one bank draws from it in a scenario."""
    behind: dict[str, float] = {}
    direct: list[Draw] = []
    for e in own:
        if not isinstance(e, Load):
            continue
        converter = feeds.get(e.id)
        if converter is not None:
            behind[converter.id] = behind.get(converter.id, 0.0) + _output_w(e, scenario, converter.set_v)
            continue
        direct.append(Draw(e.id, _output_w(e, scenario, nominal) / nominal, _output_w(e, scenario, lowest) / lowest))
    for c in own:
        if isinstance(c, Converter) and share_of(scenario, c.id) > 0.0:
            # What charges another bank takes its most while that is low.
            most = c.set_v * c.current_a * share_of(scenario, c.id)
            asked = most if charged_by(wiring, c) is not None else behind.get(c.id, 0.0)
            watts = min(asked, most) / c.efficiency + c.idle_w
            direct.append(Draw(c.id, watts / nominal, watts / lowest))
    coils = [x for x in own if isinstance(x, Contactor) and is_closed(x, scenario)]
    direct += [Draw(x.id, x.coil_w / nominal, x.coil_w / lowest) for x in coils]
    gives = [e for e in (*own, *into) if isinstance(e, Source) or e in into]
    given = sum(_given_a(e, nominal) * share_of(scenario, e.id) for e in gives)
    kept = sorted((d for d in direct if d.lowest_a > 0.0), key=lambda d: -d.lowest_a)
    return Together(scenario, tuple(kept), given)


def _given_a(e: Source | Converter, nominal: float) -> float:
    """What a source gives at most at the bank's nominal voltage, A: its limit, a solar controller no more than its array."""
    return min(e.current_a, e.power_w / nominal) if isinstance(e, SolarController) else e.current_a


def _daily(
    wiring: Wiring, own: list[Equipment | Contactor], feeds: dict[str, Converter], nominal: float
) -> Iterator[Daily]:
    """The day's account at the bank, of its own equipment."""
    running = Scenario(id="running")
    for e in own:
        if not isinstance(e, Load):
            continue
        converter = feeds.get(e.id)
        loss = 1.0 / converter.efficiency if converter else 1.0
        volts = converter.set_v if converter else e.nominal_v
        on = float(hours_of_load(wiring.plan, e).sum())
        hours = on * e.duty
        if isinstance(e, Inverter):
            yield Daily(e.id, say("{e}, through it", e=e.title), e.power_w / e.efficiency * hours * loss)
            yield Daily(e.id, say("{e}, idling", e=e.title), e.idle_w * on * loss)
            continue
        yield Daily(e.id, e.title, _output_w(e, running, volts) * hours * loss)
    for c in own:
        if isinstance(c, Converter):
            yield Daily(c.id, say("{c}, idling", c=c.title), c.idle_w * 24.0)
    for x in own:
        if isinstance(x, Contactor):
            fed = _fed_hours(wiring, x)
            yield Daily(x.id, say("{x}, its coil", x=x.title), x.coil_w * fed)
    for s in own:
        if isinstance(s, Source):
            yield Daily(s.id, s.title, -_given_a(s, nominal) * nominal * float(hours_of_source(s).sum()))


def _passed_on(
    wiring: Wiring, own: list[Equipment | Contactor], into: list[Converter], of: dict[str, Bank],
    feeds: dict[str, Converter],
) -> Iterator[Daily]:  # fmt: skip
    """What converters carry from bank to bank in a day: as much as the bank that they charge lacks, and they can."""
    for c in (*into, *(x for x in own if isinstance(x, Converter))):
        bank = charged_by(wiring, c)
        if bank is None or of.get(c.id) is bank:
            continue
        there = [x for x in wiring.plan.placed if isinstance(x, Equipment | Contactor) and of.get(x.id) is bank]
        lacks = max(sum(d.wh for d in _daily(wiring, there, feeds, bank.nominal_v)), 0.0)
        wh = min(lacks, c.set_v * c.current_a * 24.0)
        if c in into:
            yield Daily(c.id, say("{c}, from its own bank", c=c.title), -wh)
        else:
            yield Daily(c.id, say("{c}, to the bank that it charges", c=c.title), wh / c.efficiency)


def _fed_hours(wiring: Wiring, x: Contactor) -> float:
    """How long a contactor is held: as long as the one load behind it, else all day."""
    rails = {wiring.rail_of(x.ref(t)) for t in x.terminal_names}
    alone = [r for r in wiring.plan.runs if r.a.startswith(f"{x.id}.") or r.b.startswith(f"{x.id}.")]
    loads = {
        float(hours_of_load(wiring.plan, e).sum())
        for r in alone
        for ref in (r.a, r.b)
        for e in wiring.loads
        if ref in e.port and wiring.rail_of(ref) in rails
    }
    return loads.pop() if len(loads) == 1 else 24.0
