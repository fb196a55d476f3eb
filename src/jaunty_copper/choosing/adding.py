"""Equipment added where a person says: its port at one place, a converter's output at another; with its engine only."""

from jaunty_copper.choosing.circuits import lay_between
from jaunty_copper.choosing.sizing import sized
from jaunty_copper.language import say
from jaunty_copper.plan import edits
from jaunty_copper.plan.lines import add_line
from jaunty_copper.plan.model import Plan, Scenario
from jaunty_copper.plan.supply import Place


def add_at(
    plan: Plan, line: str, at: Place, output: Place | None = None, output_m: float = 1.0, with_engine: bool = False
) -> Plan:
    """Add what a line says, laid at a place, sized and protected.

    Parameters
    ----------
    line : str
        As `add_line` reads it; each of several pieces gets a circuit of its own.
    at, output : Place
        Where it is joined; where a converter gives: bars of its own where none is said.
    output_m : float
        From a converter to that place, one way, m.
    with_engine : bool
        It is there only while an engine runs: off in every scenario, on in one of its own.

    Raises
    ------
    NotRead
        The line says too little.
    EditError
        It cannot be joined there.
    """
    plan, ids = add_line(plan, line, at.volts)
    for id_ in ids:
        plan = lay_between(plan, plan.by_id[id_], at, output, output_m)  # type: ignore[arg-type]
    plan = sized(plan, *ids)
    return _with_engine(plan, ids) if with_engine else plan


def _with_engine(plan: Plan, ids: tuple[str, ...]) -> Plan:
    """Turn sources off everywhere but in a scenario of their own."""
    title = plan.by_id[ids[0]].title
    like = plan.scenarios[0] if plan.scenarios else Scenario(id="all", name=say("Everything on"))
    running = like.model_copy(
        update={
            "id": edits.fresh_id(plan, "running"),
            "name": edits.fresh_name((s.name for s in plan.scenarios), say("{title} running", title=title)),
        }
    )
    for scenario in plan.scenarios or (like,):
        if scenario not in plan.scenarios:
            plan = edits.add(plan, scenario)
        for id_ in ids:
            plan = edits.set_state(plan, scenario.id, id_, "off")
    return edits.add(plan, running)
