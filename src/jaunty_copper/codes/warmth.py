"""How warm conductors are when a scenario is over, and how warm they may be."""

from jaunty_copper.codes.case import Case
from jaunty_copper.network.lasting import ends_at_c
from jaunty_copper.plan.model import Run


def ends_c(case: Case, scenario: str) -> dict[str, float]:
    """Temperature of each heated run when a scenario's time is over, C; in the end where it says none. By the run's id.

    Each as if it lay alone in free air.
    """
    state = next(s for s in case.study.states if s.scenario.id == scenario)
    return {run.id: c for run, c in zip(case.wiring.heated_runs, ends_at_c(case.study, state).tolist(), strict=True)}


def bears_c(case: Case, run: Run) -> float:
    """What a run's insulation and terminals are rated for, the lower of both, C."""
    return min(case.parts.insulations[run.insulation].max_c, case.terminal_c(run))
