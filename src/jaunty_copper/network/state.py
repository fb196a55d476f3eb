"""The operating point of one plan under one scenario, by the plan's names."""

from dataclasses import dataclass
from functools import cached_property

from jaunty_copper.language import say
from jaunty_copper.network.demand import is_momentary, opened, share_of
from jaunty_copper.network.wiring import Wiring
from jaunty_copper.physics.circuit import Duty, Mode, OperatingPoint
from jaunty_copper.plan.model import Battery, Converter, Equipment, Load, Scenario

MODE_WORDS = {
    Mode.OFF: say("gives nothing"),
    Mode.VOLTAGE: say("holds its voltage"),
    Mode.CURRENT: say("gives all its current"),
    Mode.POWER: say("gives all its power"),
}


@dataclass(frozen=True)
class State:
    """The operating point of one scenario, by the plan's names.

    Arrays in `duty` and `point` follow the wiring's circuit.

    Attributes
    ----------
    duty : Duty
        What is asked, without the units that let no charge in.
    charged : State or None
        Where there are such units: the same with all of them taking what comes, as they do once they are warm.
    calm : State or None
        Where something starts: the same once that has started, and runs for as long as all else.
    """

    wiring: Wiring
    scenario: Scenario
    duty: Duty
    point: OperatingPoint
    charged: "State | None" = None
    calm: "State | None" = None

    @cached_property
    def kept_out(self) -> frozenset[str]:
        """Ids of the units that let no charge in, and would be charged."""
        units = (x.id for x in self.wiring.plan.items if isinstance(x, Battery))
        return frozenset(u for u in units if not self.duty.closed[self.wiring.branch[u]])

    @property
    def solved(self) -> bool:
        """Whether there is an operating point."""
        return self.point.solved

    @property
    def momentary(self) -> bool:
        """Whether something surges in it."""
        return is_momentary(self.scenario)

    @cached_property
    def opened(self) -> frozenset[str]:
        """Ids of the switches that are open in it."""
        return opened(self.wiring.plan, self.scenario)

    def volts(self, ref: str) -> float:
        """Voltage of a terminal against the ground of its part.

        Parameters
        ----------
        ref : str
            A terminal, V.
        """
        return float(self.point.volts[self.wiring.node[ref]])

    def current(self, id_: str) -> float:
        """Current from a to b through a run, inline item, or out of a battery's plus.

        Parameters
        ----------
        id_ : str
            Of a run, an inline item or a battery, A.
        """
        return float(self.point.current_a[self.wiring.branch[id_]])

    def drop(self, id_: str) -> float:
        """Voltage from a to b over a run or inline item.

        Parameters
        ----------
        id_ : str
            Of a run or an inline item, V.
        """
        return float(self.point.drop_v[self.wiring.branch[id_]])

    def port(self, e: Equipment) -> tuple[float, float]:
        """Voltage at equipment and the current into its plus (negative for a source).

        A converter's is its input.

        Parameters
        ----------
        e : Equipment
            Any; of a converter the input.

        Returns
        -------
        float, float
            V and A; nan where there is no operating point.
        """
        w, p = self.wiring, self.point
        if isinstance(e, Load):
            k = w.load_index[e.id]
            return float(p.load_v[k]), float(p.load_a[k])
        k = w.source_index[e.id]
        if isinstance(e, Converter):
            return float(p.feed_v[k]), float(p.feed_a[k])
        return float(p.source_v[k]), -float(p.source_a[k])

    def output(self, e: Converter) -> tuple[float, float]:
        """Voltage and current at a converter's output.

        Parameters
        ----------
        e : Converter
            A converter.

        Returns
        -------
        float, float
            V and A.
        """
        k = self.wiring.source_index[e.id]
        return float(self.point.source_v[k]), float(self.point.source_a[k])

    def mode(self, e: Equipment) -> str:
        """In words, what equipment does.

        Parameters
        ----------
        e : Equipment
            Any.
        """
        w, p = self.wiring, self.point
        if share_of(self.scenario, e.id) == 0.0:
            return "off"
        if isinstance(e, Load):
            k = w.load_index[e.id]
            if p.no_return[k]:
                return say("has no return")
            if p.reversed_[k]:
                return say("has plus and minus swapped")
            if p.unfed[k]:
                return say("is not fed")
            return say("surges") if self.scenario.states.get(e.id) == "surge" else say("runs")
        return MODE_WORDS[Mode(int(p.mode[w.source_index[e.id]]))]
