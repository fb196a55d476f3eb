"""export: a plan in another form."""

import argparse
from pathlib import Path

from jaunty_copper.assembly.materials import workshop_of
from jaunty_copper.cli.inputs import complain, plan_or_complaint, states_or_complaint
from jaunty_copper.export.circuit import NoOperatingPoint, netlist
from jaunty_copper.export.map_svg import map_svg
from jaunty_copper.export.tables import TABLES
from jaunty_copper.parts.price_file import PriceError, read_prices
from jaunty_copper.plan.edits import change_plan
from jaunty_copper.plan.files import write_atomically
from jaunty_copper.plan.model import Plan
from jaunty_copper.study.study import study
from jaunty_copper.study.wiring import wire


def export(options: argparse.Namespace) -> int:
    """Write the netlist of one scenario, or a table of what is made and bought."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    text = _table(plan, options) if options.to in TABLES else _solved(plan, options)
    if isinstance(text, int):
        return text
    if options.output is None:
        print(text, end="")
        return 0
    try:
        write_atomically(Path(options.output), text.encode("utf-8"))
    except OSError as error:
        return complain(f"{options.output}: {(error.strerror or 'cannot be written').lower()}")
    return 0


def _table(plan: Plan, options: argparse.Namespace) -> str | int:
    if options.prices is not None:
        try:
            own = read_prices(Path(options.prices).read_text("utf-8"), options.prices)
        except (PriceError, OSError, UnicodeDecodeError) as error:
            return complain(str(error))
        plan = change_plan(plan, prices={**plan.prices, **own})
    return TABLES[options.to](workshop_of(wire(plan)))


def _solved(plan: Plan, options: argparse.Namespace) -> str | int:
    states = states_or_complaint(study(plan), options.scenario)
    if isinstance(states, int):
        return states
    if options.to == "map" and states[0].solved:
        return map_svg(states[0])
    try:
        return netlist(states[0])
    except NoOperatingPoint as error:
        complain(str(error))
        return 1
