"""export: a plan in another form."""

import argparse
import sys
from collections.abc import Callable
from pathlib import Path

from jaunty_copper.cli.inputs import complain, plan_or_complaint, states_or_complaint
from jaunty_copper.documents.circuit import NoOperatingPoint, fault_netlist, netlist
from jaunty_copper.documents.dossier import Dossier
from jaunty_copper.documents.map.drawing import map_svg
from jaunty_copper.documents.map.lens import LENSES
from jaunty_copper.documents.table import as_csv, as_xlsx
from jaunty_copper.documents.tables import MAKERS, all_tables, table
from jaunty_copper.language import say
from jaunty_copper.parts.price_file import PriceError, read_prices
from jaunty_copper.plan.edits import put_prices
from jaunty_copper.plan.model import Plan
from jaunty_copper.plan.storage import MOST_TEXT, read_bytes, read_text, write_atomically


def export(options: argparse.Namespace) -> int:
    """Write a document, a table, a drawing or the netlist of a plan."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    if options.prices is not None:
        try:
            own = read_prices(read_text(options.prices, MOST_TEXT), options.prices)
        except (PriceError, OSError, UnicodeDecodeError) as error:
            return complain(str(error))
        plan = put_prices(plan, own.prices, own.packs)
    made = _made(plan, options)
    if isinstance(made, int):
        return made
    if options.output is None:
        if isinstance(made, bytes):
            return complain(say("{to} is no text: say where to save it with -o FILE", to=options.to))
        sys.stdout.write(made)
        return 0
    try:
        write_atomically(Path(options.output), made if isinstance(made, bytes) else made.encode("utf-8"))
    except OSError as error:
        return complain(f"{options.output}: {(error.strerror or say('cannot be written')).lower()}")
    return 0


def _made(plan: Plan, options: argparse.Namespace) -> str | bytes | int:
    """What was asked for; of a table, the form that the file's name asks for."""
    d, suffix = Dossier(plan), Path(options.output or "").suffix.lower()
    if options.to in MAKERS:
        if options.to == "labels" and suffix == ".pdf":
            from jaunty_copper.documents.pdf.labels import labels_pdf

            return labels_pdf(d)
        return as_xlsx((table(d, options.to),)) if suffix == ".xlsx" else as_csv(table(d, options.to))
    if options.to == "report":
        return _report(d, options)
    if options.to == "tables":
        return as_xlsx(all_tables(d))
    return _drawn(d, options) if options.to in DRAWN else _solved(d, options)


def _report(d: Dossier, options: argparse.Namespace) -> bytes | int:
    from jaunty_copper.documents.pdf.cover import MOST_LOGO, Cover, NoPicture
    from jaunty_copper.documents.pdf.report import CHAPTERS, INSPECTED, report_pdf

    before = plan_or_complaint(options.before) if options.before else None
    if isinstance(before, int):
        return before
    names = None if options.chapters is None else [x.strip() for x in options.chapters.split(",")]
    chapters = INSPECTED if names == ["inspector"] else names
    wrong = [x for x in chapters or () if x not in CHAPTERS]
    if wrong:
        return complain(
            say("there is no chapter {wrong}; there are: {names}", wrong=", ".join(wrong), names=", ".join(CHAPTERS))
        )
    try:
        logo = read_bytes(options.logo, MOST_LOGO) if options.logo else b""
        cover = Cover(options.author, options.firm, logo)
        return report_pdf(d, before=Dossier(before) if before else None, chapters=chapters, cover=cover)
    except OSError as error:
        return complain(f"{options.logo}: {(error.strerror or say('cannot be read')).lower()}")
    except NoPicture as error:
        return complain(f"{options.logo}: {error}")


def _curves(d: Dossier, chosen: str | None) -> str | None:
    from jaunty_copper.documents.curves import curves_of
    from jaunty_copper.documents.drawing import as_svg
    from jaunty_copper.documents.drawings import curves_drawing

    known = d.protection.devices
    ids = [x for x in (chosen or "").split(",") if x] or list(known)
    if not ids or not all(x in known for x in ids):
        return None
    return as_svg(curves_drawing(curves_of(d.case, [known[x] for x in ids])))


def _cable(d: Dossier, chosen: str | None) -> str | None:
    from jaunty_copper.documents.drawing import as_svg
    from jaunty_copper.documents.drawings import cable_drawing

    cut = next((c for c in d.shop.cuts if chosen in (None, c.run)), None)
    return as_svg(cable_drawing(d.shop, cut)) if cut is not None else None


def _reels(d: Dossier, _: str | None) -> str | None:
    from jaunty_copper.documents.drawing import as_svg
    from jaunty_copper.documents.drawings import reels_drawing

    return as_svg(reels_drawing(d.shop))


def _board(d: Dossier, chosen: str | None) -> str | None:
    from jaunty_copper.documents.drawing import as_svg
    from jaunty_copper.documents.drawings import board_drawing

    board = next((b for b in d.plan.boards if chosen in (None, b.id)), None)
    return as_svg(board_drawing(d.plan, d.shop.wiring.parts, board)) if board is not None else None


def _shares(d: Dossier, chosen: str | None) -> str | None:
    from jaunty_copper.documents.drawing import as_svg
    from jaunty_copper.documents.drawings import shares_drawing

    found = [s for bank in d.study.wiring.banks for s in d.case.sharings[bank.id] if chosen in (None, s.scenario.id)]
    return as_svg(shares_drawing(found[0], f"{found[0].scenario.title}: {found[0].current_a:.0f} A")) if found else None


DRAWN: dict[str, Callable[[Dossier, str | None], str | None]] = {
    "curves-svg": _curves, "cable-svg": _cable, "reels-svg": _reels, "board-svg": _board, "shares-svg": _shares,
}  # fmt: skip
"""Drawings by the name that the command line gives them; None where there is nothing of what was chosen."""


def _drawn(d: Dossier, options: argparse.Namespace) -> str | int:
    text = DRAWN[options.to](d, options.of)
    return (
        text
        if text is not None
        else complain(
            say("there is nothing to draw{words}", words=say(": no {of}", of=options.of) if options.of else "")
        )
    )


def _fault(d: Dossier, options: argparse.Namespace) -> str | int:
    """The circuit of a short circuit at a terminal."""
    f = d.protection.faults
    if options.fault not in f.at:
        return complain(
            say("there is no fault looked at in {fault!r}; there are: {at}", fault=options.fault, at=", ".join(f.at))
        )
    column = (f.far if options.least else f.at)[options.fault]
    return fault_netlist(f, column, "least" if options.least else "peak")


def _solved(d: Dossier, options: argparse.Namespace) -> str | int:
    if options.to == "circuit" and options.fault is not None:
        return _fault(d, options)
    states = states_or_complaint(d.study, options.scenario)
    if isinstance(states, int):
        return states
    if options.to == "map" and states[0].solved:
        lens = next(x for x in LENSES if x.id == options.lens)
        return map_svg(d.known, states[0].scenario.id, lens)
    try:
        return netlist(states[0])
    except NoOperatingPoint as error:
        complain(str(error))
        return 1
