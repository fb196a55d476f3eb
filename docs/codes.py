"""Write a page for each code from its data: every limit with its clause, and whether it is sure."""

import sys
from pathlib import Path

from jaunty_copper.codes.code import Code, code_names, code_of

HERE = Path(__file__).parent / "codes"
BOOKS = ("NFPA 70", "IEC ", "ISO 13297", "33 CFR", "ETSI ")
UNSURE = ("representative", "check the edition", "practice")
EXAMPLES = {
    "north_american_small_craft": (
        "16 mm², 105 °C, in air of 30 °C, counts as 6 AWG",
        "mm2-16",
        "pvc-105",
        120.0,
    ),
    "iso_small_craft": ("16 mm², 105 °C, in air of 30 °C", "mm2-16", "pvc-105", 130.0),
    "nfpa_70": ("6 AWG, 60 °C, by table 310.16", "awg-6", "pvc-60", 55.0),
    "telecom_dc_48v": (
        "10 mm², 70 °C, in air of 30 °C, by IEC 60364-5-52 table B.52.2",
        "mm2-10",
        "pvc-70",
        63.0,
    ),
    "iec_60364": ("10 mm², 70 °C, in air of 30 °C, by table B.52.2", "mm2-10", "pvc-70", 63.0),
}
"""By hand, in air of 30 °C: what, conductor, insulation, and the ampacity by the code's table, A."""


def standing(source: str) -> str:
    """Whether a limit is the standard's own, to be looked up in its edition, or what the program takes in its place."""
    if "check the edition" in source:
        return "check the edition"
    own = source.startswith(BOOKS) and not any(word in source.lower() for word in UNSURE)
    return "the book's" if own else "representative"


def page(code: Code) -> str:
    """One code's page."""
    words, conductor, insulation, amps = EXAMPLES[code.id]
    lines = [
        f"# {code.name}", "",
        f"Written by `docs/codes.py` from `codes/data/{code.id}.toml`; a test holds both together. {code.summary}", "",
        f"Written for: {code.edition}. The edition in force and the authority on the spot decide.", "",
        "| limit | figure | unit | where it comes from | standing |", "|---|---:|---|---|---|",
        *(f"| `{name}` | {x.value:g} | {x.unit} | {x.source} | {standing(x.source)} |" for name, x in code.limits.items()),
        f"| bond | {_bond(code)} | mm² | {code.bond.source} | {standing(code.bond.source)} |",
        f"| ampacity | | A | {code.ampacity.source} | {standing(code.ampacity.source)} |",
        f"| company | {', '.join(f'{n}: {f:g}' for n, f in code.ampacity.bundle_factors)} | | {code.ampacity.bundle_source} | {standing(code.ampacity.bundle_source)} |",
        f"| engine space | from {code.ampacity.engine_space_c:g} | °C | {code.ampacity.engine_space_source} | {standing(code.ampacity.engine_space_source)} |",
    ]  # fmt: skip
    if code.small_devices:
        steps = ", ".join(f"{amps:g} A to {area:g} mm²" for area, amps in code.small_devices)
        lines.append(
            f"| small conductors | {steps} | | {code.small_devices_source} | {standing(code.small_devices_source)} |"
        )
    if code.unlisted:
        lines.append(
            f"| not listed | {', '.join(sorted(code.unlisted))} | | {code.unlisted_source} | {standing(code.unlisted_source)} |"
        )
    lines += [
        "", "## By hand", "", f"{words}: {amps:g} A.", "",
        ">>> from jaunty_copper.codes.ampacity import ampacity",
        ">>> from jaunty_copper.codes.code import code_of",
        ">>> from jaunty_copper.parts.catalogue import library",
        ">>> from math import inf",
        f">>> area, rated = library().conductors[\"{conductor}\"].area_mm2, library().insulations[\"{insulation}\"].max_c",
        f">>> ampacity(code_of(\"{code.id}\").ampacity, area, rated, rated, 30.0, False, 1, inf).amps",
        f"{amps}", "",
    ]  # fmt: skip
    return "\n".join(lines)


def _bond(code: Code) -> str:
    steps = [
        f"to {up_to:g}: {least:g}" if not share else f"to {up_to:g}: {share:g} of it"
        for up_to, share, least in code.bond.steps
    ]
    if code.bond.sizes_below:
        steps.append("one size less")
    return ", ".join([*steps, *([f"at least {code.bond.least_section:g}"] if code.bond.least_section else [])])


def main() -> int:
    """Write all pages."""
    for id_ in code_names():
        (HERE / f"{id_}.md").write_text(page(code_of(id_)), "utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())
