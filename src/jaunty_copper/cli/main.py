"""The console script ``jaunty-copper``: arguments, and which function answers them."""

import argparse
import sys
from collections.abc import Sequence
from importlib import import_module

from jaunty_copper import __version__
from jaunty_copper.cli.startup import one_thread, seldom_garbage, without_plugins
from jaunty_copper.cli.terminal import plain_output
from jaunty_copper.language import say

TABLES = (
    "equipment", "scenarios", "bank", "checks", "findings", "rules", "faults", "coordination", "cuts", "reels", "materials", "ready_made",
    "crimps", "terminals", "conduits", "labels", "notices", "order", "readings", "log",
)  # fmt: skip
MAP_LENSES = ("flow", "drop", "short", "guard", "spread", "heat")
"""What a map can be made to tell; what was read stands in the window only."""
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
EPILOG = say(
    "A planning aid: local codes and licensed practice decide. "
    "Short-circuit currents of batteries burn and blind: isolate before you work."
)


def parser() -> argparse.ArgumentParser:
    """The command line's grammar."""
    top = argparse.ArgumentParser(
        prog="jaunty-copper",
        description=say(
            "Plan and check low-voltage DC distribution, 12 to 48 V. "
            "Without a command the window opens, on a plan where its file alone is given."
        ),
        epilog=EPILOG,
    )
    top.add_argument("--version", action="version", version=f"jaunty-copper {__version__}")
    commands = top.add_subparsers(dest="command", required=True, metavar="COMMAND")

    def command(name: str, module: str, text: str) -> argparse.ArgumentParser:
        made = commands.add_parser(name, help=text, description=text, epilog=EPILOG)
        made.set_defaults(module=module, function=name)
        return made

    command("demo", "window", say("Open the window on the demo system."))
    opened = command("open", "window", say("Open the window on a plan."))
    opened.add_argument("plan", metavar="PLAN", nargs="?", help=say("a plan's file; a new one where none is given"))
    command("new", "window", say("Open the window on a new plan."))

    check = command(
        "check", "report", say("Check a plan by its code. Exits 0 without dangers, 1 with, 2 if unreadable.")
    )
    check.add_argument("plan", metavar="PLAN")
    check.add_argument("--practice", metavar="P", help=say("another code than the plan's own"))
    check.add_argument("--json", action="store_true", help=say("for programs"))

    solve = command("solve", "report", say("Solve a plan's scenarios: voltages, currents, drops, temperatures."))
    solve.add_argument("plan", metavar="PLAN")
    solve.add_argument("--scenario", metavar="S", help=say("only this one, by its id"))
    solve.add_argument("--json", action="store_true", help=say("for programs, with every terminal and run"))

    bank = command(
        "bank", "bank", say("Shares of a bank's units, patterns side by side, and what would move the shares.")
    )
    bank.add_argument("plan", metavar="PLAN")
    bank.add_argument("--scenario", metavar="S", help=say("only this one, by its id"))
    bank.add_argument(
        "--join",
        metavar="UNIT=SOC",
        nargs="+",
        action="extend",
        help=say("units joined at these charges, such as B1=100 B2=40"),
    )
    bank.add_argument(
        "--within", type=float, metavar="P", help=say("how long each link may be for a spread within P per cent")
    )
    bank.add_argument("--json", action="store_true", help=say("for programs"))

    discharge = command(
        "discharge", "discharge", say("Follow a bank over hours of one scenario, discharging or charging.")
    )
    discharge.add_argument("plan", metavar="PLAN")
    discharge.add_argument("--hours", type=float, required=True, metavar="H")
    discharge.add_argument("--scenario", metavar="S", help=say("by its id; the first where none is given"))
    discharge.add_argument("--step", type=float, default=10.0, metavar="S", help=say("time step in seconds; 10"))
    form = discharge.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help=say("for programs"))
    form.add_argument("--csv", action="store_true", help=say("every step"))

    needs = command(
        "needs", "needs", say("What must run: currents, a day's ampere-hours, autonomy, voltages side by side.")
    )
    needs.add_argument("plan", metavar="PLAN")
    needs.add_argument("--json", action="store_true", help=say("for programs"))

    day = command("day", "day", say("Follow a bank through days: loads and sources by the hour, sun good and bad."))
    day.add_argument("plan", metavar="PLAN")
    day.add_argument("--scenario", metavar="S", help=say("its charge and switches to begin with; the first"))
    day.add_argument("--sun", metavar="PERCENT", help=say("of each day, such as '100 30 30'; the plan's own if none"))
    day.add_argument(
        "--hours", metavar="CSV", help=say("when what runs: a time in the first column, then equipment in W, A or %%")
    )
    form = day.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help=say("for programs"))
    form.add_argument("--csv", action="store_true", help=say("every step"))

    vary = command(
        "vary", "vary", say("What is not known, many times at once: the chance of findings, what matters most.")
    )
    vary.add_argument("plan", metavar="PLAN")
    vary.add_argument("--samples", type=int, default=2000, metavar="N", help=say("how many variants; 2000"))
    vary.add_argument(
        "--judged", type=int, default=60, metavar="N", help=say("how many at most are judged by every rule; 60")
    )
    vary.add_argument("--seed", type=int, default=0, metavar="N", help=say("of the random numbers; 0"))
    vary.add_argument("--json", action="store_true", help=say("for programs"))

    draft = command("draft", "draft", say("Whole plans from a plan's list of equipment, side by side."))
    draft.add_argument("plan", metavar="PLAN")
    draft.add_argument("--practice", metavar="P", help=say("the code; the plan's own where none is given"))
    draft.add_argument("--chemistry", metavar="C", help=say("of the units; any where none is given"))
    draft.add_argument(
        "--days", type=float, metavar="D", help=say("without a source; the plan's own where none is given")
    )
    draft.add_argument("--bonding", choices=("minus", "plus", "floating"), default="minus", help=say("minus"))
    draft.add_argument("--take", type=int, default=1, metavar="N", help=say("which of them -o saves; 1"))
    draft.add_argument("-o", "--output", metavar="FILE", help=say("save one of them there"))
    draft.add_argument("--json", action="store_true", help=say("for programs"))

    size = command(
        "size",
        "size",
        say(
            "Conductors and devices at the least cost that keeps every rule, with a proof. Exits 1 where any is left broken that sizes should mend."
        ),
    )
    size.add_argument("plan", metavar="PLAN")
    size.add_argument("--practice", metavar="P", help=say("the code; the plan's own where none is given"))
    size.add_argument("--aim", choices=("price", "copper"), default="price", help=say("what is to be least; price"))
    size.add_argument("--only", nargs="+", metavar="ID", help=say("of these conductors and devices alone"))
    size.add_argument("--years", type=float, default=0.0, metavar="Y", help=say("for which losses count; none"))
    size.add_argument("--hours", type=float, default=24.0, metavar="H", help=say("a day in which they flow; 24"))
    size.add_argument(
        "--kwh", type=float, default=0.3, metavar="P", help=say("price of a kilowatt-hour; 0.3, representative")
    )
    size.add_argument("--scenario", metavar="S", help=say("in which losses count; the first that lasts"))
    size.add_argument("--selective", action="store_true", help=say("devices stay selective where they are"))
    size.add_argument("--seconds", type=float, default=60.0, metavar="S", help=say("to search for less; 60"))
    size.add_argument("--frontier", action="store_true", help=say("price against what is lost, point by point"))
    size.add_argument("-o", "--output", metavar="FILE", help=say("save the plan with these sizes there"))
    size.add_argument("--json", action="store_true", help=say("for programs"))

    compare = command("compare", "compare", say("Two plans, or one under two codes: what differs, what that moves."))
    compare.add_argument("plan", metavar="PLAN")
    compare.add_argument("other", metavar="OTHER", nargs="?", help=say("the other plan; the same where none is given"))
    compare.add_argument("--practice", metavar="P", help=say("the code of the second"))
    compare.add_argument("--json", action="store_true", help=say("for programs"))

    alter = command(
        "alter", "alter", say("From a plan as it is to another: the order of the work, its materials, its readings.")
    )
    alter.add_argument("plan", metavar="AS_IS")
    alter.add_argument("other", metavar="AS_IT_SHALL_BE")
    alter.add_argument("--json", action="store_true", help=say("for programs"))

    faults = command(
        "faults", "faults", say("Short-circuit currents everywhere, each device against its interrupt rating.")
    )
    faults.add_argument("plan", metavar="PLAN")
    faults.add_argument("--at", metavar="TERMINAL", help=say("only there, with what each source gives"))
    faults.add_argument("--along", metavar="RUN", help=say("at eleven places along a conductor"))
    faults.add_argument(
        "--arc", type=float, metavar="MM", help=say("besides, through an arc across a gap of so many mm")
    )
    faults.add_argument("--replay", action="store_true", help=say("with --at: follow that fault in time"))
    faults.add_argument("--least", action="store_true", help=say("with --replay: low, old and cold units"))
    faults.add_argument(
        "--late", action="store_true", help=say("with --replay: devices open by the slow edge of their bands")
    )
    form = faults.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help=say("for programs"))
    form.add_argument("--csv", action="store_true", help=say("the places as a table"))

    pairs = command(
        "coordination", "faults", say("Selectivity of every two devices in series, over all fault currents.")
    )
    pairs.add_argument("plan", metavar="PLAN")
    form = pairs.add_mutually_exclusive_group()
    form.add_argument("--json", action="store_true", help=say("for programs"))
    form.add_argument("--csv", action="store_true", help=say("as a table"))

    protect = command(
        "protect", "protect", say("Propose a consistent set of protective devices, or what fits at one place.")
    )
    protect.add_argument("plan", metavar="PLAN")
    protect.add_argument("--practice", metavar="P", help=say("another code than the plan's own"))
    protect.add_argument(
        "--device", metavar="D", help=say("only what fits at this device's place, and why the rest does not")
    )
    protect.add_argument("--apply", action="store_true", help=say("save the changed plan in place"))
    protect.add_argument("-o", "--output", metavar="FILE", help=say("save the changed plan there"))
    protect.add_argument("--json", action="store_true", help=say("for programs"))

    device = command(
        "device", "device", say("Let a plan carry a device family of its own, with a curve from a CSV file.")
    )
    device.add_argument("plan", metavar="PLAN")
    device.add_argument("--id", required=True, metavar="F", help=say("short name of the new family"))
    device.add_argument("--like", required=True, metavar="F", help=say("family that the rest is taken from"))
    device.add_argument("--label", metavar="WORDS", help=say("what people call it"))
    device.add_argument("--source", required=True, metavar="WORDS", help=say("data sheet and its number"))
    device.add_argument("--curve", metavar="CSV", help=say("columns current_a, shortest_s, longest_s"))
    device.add_argument("--rating", type=float, metavar="A", help=say("rating that the curve was measured on"))
    device.add_argument("--interrupt", metavar="V:KA", help=say("pairs such as 14:10;32:5"))
    device.add_argument("--min-a", type=float, metavar="A", help=say("lowest rating"))
    device.add_argument("--max-a", type=float, metavar="A", help=say("highest rating"))
    device.add_argument("--max-v-dc", type=float, metavar="V", help=say("highest voltage"))
    device.add_argument("-o", "--output", metavar="FILE", help=say("save there; else in place"))

    trip = command("trip", "trip", say("When a device of a family opens at a current."))
    trip.add_argument("--family", required=True, metavar="F", help=say("by its id, as parts lists them"))
    trip.add_argument("--rating", type=float, required=True, metavar="R", help="A")
    trip.add_argument("--current", type=float, required=True, metavar="A", help="A")
    trip.add_argument("--ambient", type=float, default=25.0, metavar="C", help=say("air at the device, °C; 25"))
    trip.add_argument("--json", action="store_true", help=say("for programs"))

    readings = command("readings", "commission", say("What to measure and to expect, as a table to fill in."))
    readings.add_argument("plan", metavar="PLAN")
    readings.add_argument("--scenario", metavar="S", help=say("by its id; everything on where none is given"))
    readings.add_argument(
        "--fewest", action="store_true", help=say("only as many as would reveal a bad joint anywhere")
    )
    readings.add_argument("--json", action="store_true", help=say("for programs"))

    diagnose = command(
        "diagnose", "commission", say("What readings say: whether, where and how much something is off.")
    )
    diagnose.add_argument("plan", metavar="PLAN")
    diagnose.add_argument("readings", metavar="CSV", help=say("as readings writes it, its last column filled in"))
    diagnose.add_argument("--scenario", metavar="S", help=say("the one measured in; everything on where none is given"))
    diagnose.add_argument("--json", action="store_true", help=say("for programs"))

    why = command(
        "why", "commission", say("Why a device opened: what could have done it as designed, and what cures that.")
    )
    why.add_argument("plan", metavar="PLAN")
    why.add_argument("--device", required=True, metavar="D", help=say("the fuse or breaker that opened"))
    why.add_argument("--scenario", metavar="S", help=say("what ran; where it carries most if none is given"))
    why.add_argument("--ambient", type=float, metavar="C", help=say("air at the device, °C"))
    why.add_argument("--current", type=float, metavar="A", help=say("that was seen"))
    why.add_argument("--after", type=float, metavar="S", help=say("how long after something changed it opened, s"))
    why.add_argument("--json", action="store_true", help=say("for programs"))

    export = command("export", "export", say("Write a plan in another form."))
    export.add_argument("plan", metavar="PLAN")
    export.add_argument(
        "--to", choices=FORMS, required=True, metavar="FORM",
        help=say('report: a PDF; tables: all of them as one spreadsheet (.xlsx); map and those in -svg: drawings; '
'circuit: a SPICE netlist of the solved state; or one table, as CSV, as .xlsx by the name of FILE, '
'labels also as .pdf: {tables}', tables=', '.join(TABLES)),
    )  # fmt: skip
    export.add_argument(
        "--of", metavar="ID", help=say("of a drawing: which cable or board; of curves: devices, by commas")
    )
    export.add_argument("--scenario", metavar="S", help=say("by its id; the first where none is given"))
    export.add_argument(
        "--fault", metavar="TERMINAL", help=say("of a circuit: the greatest short circuit there, in its place")
    )
    export.add_argument("--least", action="store_true", help=say("with --fault: the least"))
    export.add_argument(
        "--lens", choices=MAP_LENSES, default=MAP_LENSES[0], help=say("of the map: what it shows of every place")
    )
    export.add_argument("--before", metavar="OTHER", help=say("of a report: a chapter on what differs from that plan"))
    export.add_argument(
        "--chapters", metavar="NAMES",
        help=say("of a report: by their names with commas, or inspector for what an inspector reads; all where none are given"),
    )  # fmt: skip
    export.add_argument("--author", metavar="NAME", default="", help=say("of a report: who answers for it"))
    export.add_argument("--firm", metavar="NAME", default="", help=say("of a report: for whom"))
    export.add_argument("--logo", metavar="FILE", help=say("of a report: a PNG or JPEG picture on its first page"))
    export.add_argument("--prices", metavar="CSV", help=say("own prices: columns key and price"))
    export.add_argument("-o", "--output", metavar="FILE", help=say("standard output where none is given"))

    stand_ins = command(
        "stand-ins", "meters", say("Put simulated meters onto the loopback, on a copy of a plan with one fault hidden.")
    )
    stand_ins.set_defaults(function="stand_ins")
    stand_ins.add_argument("plan", metavar="PLAN")
    stand_ins.add_argument("--seed", type=int, default=0, metavar="N", help=say("which fault, and which noise; 0"))
    stand_ins.add_argument("--sound", action="store_true", help=say("hide nothing"))
    stand_ins.add_argument("--serial", action="store_true", help=say("on pseudo-terminals in place of sockets"))
    stand_ins.add_argument("--seconds", type=float, metavar="S", help=say("end after so long"))

    measure = command("measure", "meters", say("Read meters through VISA, point by point, into a table of readings."))
    measure.add_argument("plan", metavar="PLAN")
    measure.add_argument(
        "--meter", metavar="ADDRESS", help=say("for volts, such as TCPIP0::192.168.1.20::5025::SOCKET")
    )
    measure.add_argument("--clamp", metavar="ADDRESS", help=say("for amperes, such as ASRL/dev/ttyUSB0::INSTR"))
    measure.add_argument("--scenario", metavar="S", help=say("what runs; measuring or discharging, or the plan's own"))
    measure.add_argument("--fewest", action="store_true", help=say("only what would reveal a bad joint anywhere"))
    measure.add_argument(
        "--unattended", action="store_true", help=say("do not wait for probes: simulated meters have none")
    )
    measure.add_argument("--timeout", type=float, default=3.0, metavar="S", help=say("how long to wait for a reply; 3"))
    measure.add_argument("-o", "--output", metavar="FILE", help=say("standard output where none is given"))

    trend = command("trend", "meters", say("Resistance of a conductor, device or unit over the days of the log."))
    trend.add_argument("plan", metavar="PLAN")
    trend.add_argument("--of", metavar="ID")
    trend.add_argument(
        "--before", metavar="DAY", help=say("compare with --after instead: a day of the log, or another plan's file")
    )
    trend.add_argument("--after", metavar="DAY", help=say("the last day where none is given"))
    trend.add_argument("--json", action="store_true", help=say("for programs"))

    thumbnail = command(
        "thumbnail", "thumbnail", say("Draw the map of a plan as a small picture, as file managers ask for it.")
    )
    thumbnail.add_argument("plan", metavar="PLAN")
    thumbnail.add_argument("picture", metavar="PNG")
    thumbnail.add_argument(
        "--size", metavar="PX", type=int, default=256, help=say("width and height at most; 256 where none is given")
    )

    integrate = command(
        "integrate", "integrate", say("Put menu entry, icons, file type and manual where the desktop finds them.")
    )
    integrate.add_argument(
        "--prefix", metavar="FOLDER", default="~/.local", help=say("under which; ~/.local where none is given")
    )
    integrate.add_argument(
        "--program", metavar="FILE", help=say("what the menu entry starts; this program where none is given")
    )
    integrate.add_argument("--remove", action="store_true", help=say("take away what was put there"))

    command("schema", "library", say("Print the JSON Schema of the plan's format."))
    parts = command("parts", "library", say("List the parts library, with sources."))
    parts.add_argument("--json", action="store_true", help=say("for programs"))
    return top


def _in_full(arguments: Sequence[str]) -> Sequence[str]:
    """With the command that opens the window, where none is given."""
    alone = len(arguments) == 1 and arguments[0].endswith(".json")
    return ["open", *arguments] if alone or not arguments else arguments


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command.

    Returns
    -------
    int
        Exit status: 0 fine, 1 dangers found or no operating point, 2 cannot be read or asked.
    """
    options = parser().parse_args(_in_full(sys.argv[1:] if arguments is None else arguments))
    without_plugins()
    one_thread()
    seldom_garbage()
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
