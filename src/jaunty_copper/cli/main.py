"""The console script ``jaunty-copper``: arguments, and which function answers them."""

import argparse
import sys
from collections.abc import Sequence
from importlib import import_module

from jaunty_copper import __version__
from jaunty_copper.cli.startup import one_thread, without_plugins
from jaunty_copper.cli.terminal import plain_output

TABLES = (
    "equipment", "scenarios", "bank", "checks", "findings", "rules", "faults", "coordination", "cuts", "reels", "materials",
    "crimps", "terminals", "conduits", "labels", "order", "readings", "log",
)  # fmt: skip
FORMS = (
    "report",
    "tables",
    *TABLES,
    "map",
    "curves-svg",
    "cable-svg",
    "reels-svg",
    "board-svg",
    "shares-svg",
    "circuit",
)
"""What a plan can be exported to; here, so that help does not load what makes them."""
EPILOG = (
    "A planning aid: local codes and licensed practice decide. "
    "Short-circuit currents of batteries burn and blind: isolate before you work."
)


def parser() -> argparse.ArgumentParser:
    """The command line's grammar."""
    top = argparse.ArgumentParser(
        prog="jaunty-copper", description="Plan and check low-voltage DC distribution, 12 to 48 V.", epilog=EPILOG
    )
    top.add_argument("--version", action="version", version=f"jaunty-copper {__version__}")
    commands = top.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def command(name: str, module: str, text: str) -> argparse.ArgumentParser:
        made = commands.add_parser(name, help=text, description=text, epilog=EPILOG)
        made.set_defaults(module=module, function=name)
        return made

    command("demo", "window", "Open the window on the demo system.")
    opened = command("open", "window", "Open the window on a plan.")
    opened.add_argument("plan", metavar="PLAN", help="a plan's file")
    command("new", "window", "Open the window on a new plan.")

    check = command("check", "report", "Check a plan by its code. Exits 0 without dangers, 1 with, 2 if unreadable.")
    check.add_argument("plan", metavar="PLAN")
    check.add_argument("--practice", metavar="P", help="another code than the plan's own")
    check.add_argument("--json", action="store_true", help="for programs")

    solve = command("solve", "report", "Solve a plan's scenarios: voltages, currents, drops, temperatures.")
    solve.add_argument("plan", metavar="PLAN")
    solve.add_argument("--scenario", metavar="S", help="only this one, by its id")
    solve.add_argument("--json", action="store_true", help="for programs, with every terminal and run")

    bank = command("bank", "bank", "Shares of a bank's units, patterns side by side, and what would move the shares.")
    bank.add_argument("plan", metavar="PLAN")
    bank.add_argument("--scenario", metavar="S", help="only this one, by its id")
    bank.add_argument(
        "--join", metavar="UNIT=SOC", nargs="+", help="units joined at these charges, such as B1=100 B2=40"
    )
    bank.add_argument(
        "--within", type=float, metavar="P", help="how long each link may be for a spread within P per cent"
    )
    bank.add_argument("--json", action="store_true", help="for programs")

    discharge = command("discharge", "bank", "Follow a bank over hours of one scenario, discharging or charging.")
    discharge.add_argument("plan", metavar="PLAN")
    discharge.add_argument("--hours", type=float, required=True, metavar="H")
    discharge.add_argument("--scenario", metavar="S", help="by its id; the first where none is given")
    discharge.add_argument("--step", type=float, default=10.0, metavar="S", help="time step in seconds; 10")
    form = discharge.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help="for programs")
    form.add_argument("--csv", action="store_true", help="every step")

    needs = command("needs", "bank", "What must run: currents, a day's ampere-hours, autonomy, voltages side by side.")
    needs.add_argument("plan", metavar="PLAN")
    needs.add_argument("--json", action="store_true", help="for programs")

    faults = command("faults", "faults", "Short-circuit currents everywhere, each device against its interrupt rating.")
    faults.add_argument("plan", metavar="PLAN")
    faults.add_argument("--at", metavar="TERMINAL", help="only there, with what each source gives")
    faults.add_argument("--along", metavar="RUN", help="at eleven places along a conductor")
    faults.add_argument("--arc", type=float, metavar="MM", help="besides, through an arc across a gap of so many mm")
    faults.add_argument("--replay", action="store_true", help="with --at: follow that fault in time")
    faults.add_argument("--least", action="store_true", help="with --replay: low, old and cold units")
    faults.add_argument(
        "--late", action="store_true", help="with --replay: devices open by the slow edge of their bands"
    )
    form = faults.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help="for programs")
    form.add_argument("--csv", action="store_true", help="the places as a table")

    pairs = command("coordination", "faults", "Selectivity of every two devices in series, over all fault currents.")
    pairs.add_argument("plan", metavar="PLAN")
    form = pairs.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help="for programs")
    form.add_argument("--csv", action="store_true", help="as a table")

    protect = command(
        "protect", "protect", "Propose a consistent set of protective devices, or what fits at one place."
    )
    protect.add_argument("plan", metavar="PLAN")
    protect.add_argument("--practice", metavar="P", help="another code than the plan's own")
    protect.add_argument(
        "--device", metavar="D", help="only what fits at this device's place, and why the rest does not"
    )
    protect.add_argument("--apply", action="store_true", help="save the changed plan in place")
    protect.add_argument("-o", "--output", metavar="FILE", help="save the changed plan there")
    protect.add_argument("--json", action="store_true", help="for programs")

    device = command("device", "device", "Let a plan carry a device family of its own, with a curve from a CSV file.")
    device.add_argument("plan", metavar="PLAN")
    device.add_argument("--id", required=True, metavar="F", help="short name of the new family")
    device.add_argument("--like", required=True, metavar="F", help="family that the rest is taken from")
    device.add_argument("--label", metavar="WORDS", help="what people call it")
    device.add_argument("--source", required=True, metavar="WORDS", help="data sheet and its number")
    device.add_argument("--curve", metavar="CSV", help="columns current_a, shortest_s, longest_s")
    device.add_argument("--rating", type=float, metavar="A", help="rating that the curve was measured on")
    device.add_argument("--interrupt", metavar="V:KA", help="pairs such as 14:10;32:5")
    device.add_argument("--min-a", type=float, metavar="A", help="lowest rating")
    device.add_argument("--max-a", type=float, metavar="A", help="highest rating")
    device.add_argument("--max-v-dc", type=float, metavar="V", help="highest voltage")
    device.add_argument("-o", "--output", metavar="FILE", help="save there; else in place")

    trip = command("trip", "trip", "When a device of a family opens at a current.")
    trip.add_argument("--family", required=True, metavar="F", help="by its id, as parts lists them")
    trip.add_argument("--rating", type=float, required=True, metavar="R", help="A")
    trip.add_argument("--current", type=float, required=True, metavar="A", help="A")
    trip.add_argument("--ambient", type=float, default=25.0, metavar="C", help="air at the device, °C; 25")
    trip.add_argument("--json", action="store_true", help="for programs")

    readings = command("readings", "commission", "What to measure and to expect, as a table to fill in.")
    readings.add_argument("plan", metavar="PLAN")
    readings.add_argument("--scenario", metavar="S", help="by its id; everything on where none is given")
    readings.add_argument("--fewest", action="store_true", help="only as many as would reveal a bad joint anywhere")
    readings.add_argument("--json", action="store_true", help="for programs")

    diagnose = command("diagnose", "commission", "What readings say: whether, where and how much something is off.")
    diagnose.add_argument("plan", metavar="PLAN")
    diagnose.add_argument("readings", metavar="CSV", help="as readings writes it, its last column filled in")
    diagnose.add_argument("--scenario", metavar="S", help="the one measured in; everything on where none is given")
    diagnose.add_argument("--json", action="store_true", help="for programs")

    why = command("why", "commission", "Why a device opened: what could have done it as designed, and what cures that.")
    why.add_argument("plan", metavar="PLAN")
    why.add_argument("--device", required=True, metavar="D", help="the fuse or breaker that opened")
    why.add_argument("--scenario", metavar="S", help="what ran; where it carries most if none is given")
    why.add_argument("--ambient", type=float, metavar="C", help="air at the device, °C")
    why.add_argument("--current", type=float, metavar="A", help="that was seen")
    why.add_argument("--after", type=float, metavar="S", help="how long after something changed it opened, s")
    why.add_argument("--json", action="store_true", help="for programs")

    export = command("export", "export", "Write a plan in another form.")
    export.add_argument("plan", metavar="PLAN")
    export.add_argument(
        "--to", choices=FORMS, required=True, metavar="FORM",
        help="report: a PDF; tables: all of them as one spreadsheet (.xlsx); map and those in -svg: drawings; circuit: a "
        f"SPICE netlist of the solved state; or one table, as CSV, as .xlsx by the name of FILE, labels also as .pdf: {', '.join(TABLES)}",
    )  # fmt: skip
    export.add_argument("--of", metavar="ID", help="of a drawing: which cable or board; of curves: devices, by commas")
    export.add_argument("--scenario", metavar="S", help="by its id; the first where none is given")
    export.add_argument(
        "--fault", metavar="TERMINAL", help="of a circuit: the greatest short circuit there, in its place"
    )
    export.add_argument("--least", action="store_true", help="with --fault: the least")
    export.add_argument("--prices", metavar="CSV", help="own prices: columns key and price")
    export.add_argument("-o", "--output", metavar="FILE", help="standard output where none is given")

    stand_ins = command(
        "stand-ins", "meters", "Put simulated meters onto the loopback, on a copy of a plan with one fault hidden."
    )
    stand_ins.set_defaults(function="stand_ins")
    stand_ins.add_argument("plan", metavar="PLAN")
    stand_ins.add_argument("--seed", type=int, default=0, metavar="N", help="which fault, and which noise; 0")
    stand_ins.add_argument("--sound", action="store_true", help="hide nothing")
    stand_ins.add_argument("--serial", action="store_true", help="on pseudo-terminals in place of sockets")
    stand_ins.add_argument("--seconds", type=float, metavar="S", help="end by itself")

    measure = command("measure", "meters", "Read meters through VISA, point by point, into a table of readings.")
    measure.add_argument("plan", metavar="PLAN")
    measure.add_argument("--meter", metavar="ADDRESS", help="for volts, such as TCPIP0::192.168.1.20::5025::SOCKET")
    measure.add_argument("--clamp", metavar="ADDRESS", help="for amperes, such as ASRL/dev/ttyUSB0::INSTR")
    measure.add_argument("--scenario", metavar="S", help="what runs; measuring or discharging, or the plan's own")
    measure.add_argument("--fewest", action="store_true", help="only what would reveal a bad joint anywhere")
    measure.add_argument("--unattended", action="store_true", help="do not wait for probes: simulated meters have none")
    measure.add_argument("--timeout", type=float, default=3.0, metavar="S", help="how long to wait for a reply; 3")
    measure.add_argument("-o", "--output", metavar="FILE", help="standard output where none is given")

    trend = command("trend", "meters", "Resistance of a conductor, device or unit over the days of the log.")
    trend.add_argument("plan", metavar="PLAN")
    trend.add_argument("--of", required=True, metavar="ID")
    trend.add_argument("--json", action="store_true", help="for programs")

    command("schema", "library", "Print the JSON Schema of the plan's format.")
    parts = command("parts", "library", "List the parts library, with sources.")
    parts.add_argument("--json", action="store_true", help="for programs")
    return top


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command.

    Returns
    -------
    int
        Exit status: 0 fine, 1 dangers found or no operating point, 2 cannot be read or asked.
    """
    options = parser().parse_args(arguments)
    without_plugins()
    one_thread()
    module = import_module(f"jaunty_copper.cli.{options.module}")
    try:
        with plain_output():
            status: int = getattr(module, options.function)(options)
            sys.stdout.flush()
        return status
    except BrokenPipeError:
        # The reader (head, less) has seen enough.
        sys.stderr.close()
        return 0
