"""What a device carries for good, at the most: at the lowest voltage of what it feeds, and with its bank low."""

from collections.abc import Iterator
from typing import NamedTuple

from jaunty_copper.battery.discharge import cut_out_v
from jaunty_copper.battery.feeding import charged_by
from jaunty_copper.codes.case import Case
from jaunty_copper.language import say
from jaunty_copper.network.demand import share_of
from jaunty_copper.network.state import State
from jaunty_copper.plan.model import (
    Breaker,
    Converter,
    Equipment,
    Fuse,
    Inverter,
    PowerLoad,
    SolarController,
    Source,
)


class Normal(NamedTuple):
    """Most that a device carries for good.

    Attributes
    ----------
    amps : float
        In any scenario without surge, with what it feeds at the lowest voltage at which that still runs, or with what
        charges by it giving all it can.
    state : State
        The scenario.
    when : str
        Where that is more than in the scenario as it is solved, when, in words.
    """

    amps: float
    state: State
    when: str

    @property
    def words(self) -> str:
        """When it flows."""
        return say("in “{scenario}”{what}", scenario=self.state.scenario.title, what=self.when)


SAGS = say(", at the lowest voltage at which what it feeds still runs")
LOW = say(", once the bank is low")


def normal(case: Case, id_: str) -> Normal:
    """Most that a device carries for good.

    Constant powers and converters draw more the lower the voltage, down to that at which they stop; what charges at a
    constant voltage gives more the lower its bank, up to what it can. Of the one as of the other a device carries the
    share that comes through it.
    """
    k = case.wiring.branch[id_]
    found = Normal(float(case.study.continuous_a[k]), case.study.lasting_state(k), "")
    shares = case.protection.faults.shares(id_)
    for n, state in enumerate(case.study.every):
        if not state.solved or state.momentary:
            continue
        amps = float(state.point.current_a[k])
        for grows, words in zip(case.once(_growths, n), (SAGS, LOW), strict=True):
            more = sum(share * grows.get(ref, 0.0) for ref, share in shares.items())
            if more and abs(amps + more) > found.amps * (1.0 + 1e-6):
                found = Normal(abs(amps + more), state, words)
    return found


def normal_current(case: Case, device: Fuse | Breaker) -> float:
    """Most a device carries for good, A."""
    return case.once(normal, device.id).amps


def _growths(case: Case, n: int) -> tuple[dict[str, float], dict[str, float]]:
    """What flows more into equipment than in a scenario, A, by its plus terminal: while voltages sag, and with banks low."""
    state = case.study.every[n]
    return (
        {e.port[0]: more for e in case.plan.equipment if (more := _sags_a(state, e)) > 0.0},
        dict(pair for e in case.wiring.sources for pair in _charges_a(case, state, e)),
    )


def _sags_a(state: State, e: Equipment) -> float:
    """How much more equipment draws at the lowest voltage at which it keeps its power up, A."""
    (volts, amps), stops = state.port(e), _stops_v(e)
    return amps * (volts / stops - 1.0) if amps > 0.0 and volts > stops > 0.0 else 0.0


def _stops_v(e: Equipment) -> float:
    """Voltage down to which equipment keeps its power up, V; 0 where it does not, or the plan does not say."""
    if isinstance(e, Converter):
        return e.min_v or 0.0
    return cut_out_v(e) if isinstance(e, PowerLoad | Inverter) else 0.0


def _charges_a(case: Case, state: State, e: Source | Converter) -> Iterator[tuple[str, float]]:
    """What comes out of a source, and into a converter, more than in a scenario where a bank takes all that it can give, A."""
    share = share_of(state.scenario, e.id)
    volts, amps = state.output(e) if isinstance(e, Converter) else (state.port(e)[0], -state.port(e)[1])
    most = share * e.current_a
    if isinstance(e, SolarController) and volts > 0.0:
        most = min(most, share * e.power_w / volts)
    if not 0.0 <= amps < most or charged_by(case.wiring, e) is None:
        return
    yield e.output[0], amps - most
    if isinstance(e, Converter):
        into_v, into_a = state.port(e)
        # The bank that it takes from may be low too.
        low = min(into_v, _stops_v(e) or into_v)
        if low > 0.0:
            yield e.port[0], max(most * volts / (e.efficiency * low) - into_a, 0.0)
