"""Classes of insulation side by side for one conductor: what it may carry with each, where it lies and lands."""

from typing import NamedTuple

from jaunty_copper.codes.case import Case
from jaunty_copper.plan.model import Run


class InsulationClass(NamedTuple):
    """A conductor with another insulation.

    Attributes
    ----------
    id, label : str
        Of the insulation.
    max_c : float
        Its continuous rating, °C.
    amps : float
        What the conductor may be asked to carry for good with it, A.
    governs : str
        What limits that: insulation, terminals, heat, the air of an engine space.
    """

    id: str
    label: str
    max_c: float
    amps: float
    governs: str


def by_insulation(case: Case, run: Run) -> tuple[InsulationClass, ...]:
    """Every insulation that the code permits there and that stands the air, coolest first; what terminals limit gains nothing from a hotter one.

    Parameters
    ----------
    case : Case
        The studied plan under its code.
    run : Run
        One of its conductors, of some length.
    """
    air = float(case.study.hottest_ambient_c[case.wiring.branch[run.id]])
    least = case.code.ampacity.lowest_engine_space_class if case.plan.zone_of(run.zone).engine_space else 0.0
    able = sorted(
        (i for i in case.parts.insulations.values() if i.max_c > air and i.max_c >= least),
        key=lambda i: (i.max_c, i.id),
    )
    amps = case.ampacities_of([run.model_copy(update={"insulation": i.id}) for i in able])
    return tuple(
        InsulationClass(i.id, i.label, i.max_c, *case.for_load(a)[:2]) for i, a in zip(able, amps, strict=True)
    )
