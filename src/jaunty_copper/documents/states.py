"""Tables of one solved scenario: equipment, batteries, conductors."""

from jaunty_copper.codes.case import Case
from jaunty_copper.documents.table import Column, Table
from jaunty_copper.language import say
from jaunty_copper.network.state import State
from jaunty_copper.plan.model import Battery

RESTS_A = 0.005
"""What two places print as nothing."""
EQUIPMENT = (
    Column("equipment", say("equipment")), Column("voltage_v", "V", places=2), Column("current_a", "A", places=2),
    Column("power_w", "W", places=1), Column("mode", say("does")),
)  # fmt: skip
BATTERIES = (
    Column("battery", say("battery")),
    Column("voltage_v", "V", places=2),
    Column("current_a", "A", places=2),
    Column("mode", say("does")),
)
CONDUCTORS = (
    Column("conductor", say("conductor")), Column("current_a", "A", places=2), Column("drop_mv", "mV", places=1),
    Column("loss_w", "W", places=2), Column("temperature_c", "°C", places=1), Column("ampacity_a", say("ampacity, A"), places=0),
    Column("used_percent", say("used, %"), places=0),
)  # fmt: skip


def state_tables(case: Case, state: State) -> tuple[Table, Table, Table]:
    """What a solved scenario gives, for people; programs read the JSON.

    Parameters
    ----------
    state : State
        With an operating point.
    """
    ports = [(e, *state.port(e)) for e in case.plan.equipment]
    units = [b for b in case.plan.items if isinstance(b, Battery)]
    runs = [(r, case.ampacities[r.id]) for r in case.plan.runs if r.id in case.ampacities]
    return (
        Table(
            "equipment", say("Equipment"), EQUIPMENT,
            tuple((e.title, v, amps, v * amps, state.mode(e)) for e, v, amps in ports),
        ),
        Table(
            "batteries", say("Batteries"), BATTERIES,
            tuple((b.title, state.volts(b.ref("plus")) - state.volts(b.ref("minus")), state.current(b.id), _does(state, b.id)) for b in units),
        ),
        Table(
            "conductors", say("Conductors"), CONDUCTORS,
            tuple(
                (case.run_title(r), state.current(r.id), 1e3 * state.drop(r.id), state.current(r.id) * state.drop(r.id),
                 float(state.point.temperature_c[case.wiring.branch[r.id]]), amp.amps,
                 100.0 * abs(state.current(r.id)) / case.for_load(amp)[0] if amp.amps else None)
                for r, amp in runs
            ),
        ),
    )  # fmt: skip


def _does(state: State, unit: str) -> str:
    """In words, what a battery does."""
    if unit in state.kept_out:
        return say("lets no charge in: too cold or too warm")
    amps = state.current(unit)
    return say("rests") if abs(amps) < RESTS_A else say("gives") if amps > 0.0 else say("is charged")
