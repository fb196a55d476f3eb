"""trip: when a device opens."""

import argparse
import json
from math import isfinite

from jaunty_copper.cli.inputs import complain
from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library
from jaunty_copper.physics.curves import ambient_factor, data_end_c
from jaunty_copper.protection.devices import band_for


def trip(options: argparse.Namespace) -> int:
    """Between which times a device of a family opens at a current."""
    families = library().device_families
    family = families.get(options.family)
    if family is None:
        return complain(
            say(
                "there is no device family {family!r}; there are: {families}",
                family=options.family,
                families=", ".join(families),
            )
        )
    if not (options.rating > 0.0 and options.current > 0.0):
        return complain(say("rating and current are above 0 A"))
    band = band_for(library(), family.id)
    rating = options.rating * float(ambient_factor(family.release, options.ambient))
    multiple = options.current / rating
    short, long = float(band.shortest(multiple)), float(band.longest(multiple))
    holds = band.opens_at(3600.0, certainly=False) * rating
    if options.json:
        values = {
            "family": family.id,
            "rating_a": options.rating,
            "rating_at_ambient_a": rating,
            "multiple": multiple,
            "shortest_s": short if isfinite(short) else None,
            "longest_s": long if isfinite(long) else None,
            "may_open_within_an_hour_from_a": holds if isfinite(holds) else None,
        }
        print(json.dumps(values, indent=1))
        return 0
    print(
        say(
            "{family}, {rating:g} A: {rating_2:.1f} A at {ambient:g} °C; {multiple:.2f} times that",
            family=family.label,
            rating=options.rating,
            rating_2=rating,
            ambient=options.ambient,
            multiple=multiple,
        )
    )
    if options.ambient > (end := data_end_c(family.release)):
        print(say("  Data for its kind end at {end:g} °C; beyond, its heat balance is followed.", end=end))
    print(say("  lasts at least {time}, has opened after {time_2}", time=_time(short), time_2=_time(long)))
    print(say("  may open within an hour from {holds:.1f} A on", holds=holds))
    print(say("  A representative band of the family; a device's own data sheet replaces it."))
    return 0


def _time(seconds: float) -> str:
    if not isfinite(seconds):
        return say("any time")
    return (
        f"{seconds / 3600:.3g} h"
        if seconds >= 3600
        else f"{seconds:.3g} s"
        if seconds >= 1
        else f"{1000 * seconds:.3g} ms"
    )
