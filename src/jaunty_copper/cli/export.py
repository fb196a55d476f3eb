"""export: a plan in another form."""

import argparse
from pathlib import Path

from jaunty_copper.cli.inputs import complain, plan_or_complaint, states_or_complaint
from jaunty_copper.export.circuit import NoOperatingPoint, netlist
from jaunty_copper.plan.files import write_atomically
from jaunty_copper.study.study import study


def export(options: argparse.Namespace) -> int:
    """Write the netlist of one scenario."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    states = states_or_complaint(study(plan), options.scenario)
    if isinstance(states, int):
        return states
    try:
        text = netlist(states[0])
    except NoOperatingPoint as error:
        complain(str(error))
        return 1
    if options.output is None:
        print(text, end="")
        return 0
    try:
        write_atomically(Path(options.output), text.encode("utf-8"))
    except OSError as error:
        return complain(f"{options.output}: {(error.strerror or 'cannot be written').lower()}")
    return 0
