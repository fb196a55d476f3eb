"""schema and parts: what the program ships with."""

import argparse
import json

from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library
from jaunty_copper.parts.models import Part, Stud
from jaunty_copper.plan.files import schema as made_schema


def schema(_: argparse.Namespace) -> int:
    """Print the JSON Schema of the plan's format."""
    print(json.dumps(made_schema(), ensure_ascii=False, indent=1))
    return 0


def parts(options: argparse.Namespace) -> int:
    """List the parts library."""
    lib = library()
    groups: dict[str, list[Part | Stud]] = {
        "conductors": [*lib.conductors.values()],
        "insulations": [*lib.insulations.values()],
        "device_families": [*lib.device_families.values()],
        "battery_chemistries": [*lib.battery_chemistries.values()],
        "studs": [*lib.studs.values()],
    }
    if options.json:
        values = {name: [part.model_dump(mode="json") for part in group] for name, group in groups.items()}
        print(json.dumps({**values, "device_ratings_a": lib.device_ratings_a}, ensure_ascii=False, indent=1))
        return 0
    for name, group in groups.items():
        print(f"\n{name.replace('_', ' ')}")
        for part in group:
            id_ = part.thread if isinstance(part, Stud) else part.id
            print(f"  {id_:28} {part.label:34} {part.source}")
    print(
        say(
            "\nstandard device ratings, A\n  {device_ratings_a}",
            device_ratings_a=" ".join(f"{r:g}" for r in lib.device_ratings_a),
        )
    )
    return 0
