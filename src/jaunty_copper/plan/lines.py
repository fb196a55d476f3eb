"""Equipment as people write it down, a line each: "3 x Lamp 12 W 4 m", "converter 24 to 12 V 20 A 1.5 m"."""

import re
from typing import Any

from pydantic import ValidationError

from jaunty_copper.language import say
from jaunty_copper.plan.defaults import new_equipment
from jaunty_copper.plan.edits import EditError, add, fresh_id, fresh_name
from jaunty_copper.plan.model import AnyEquipment, Plan

MOST = 50
"""Pieces of equipment that one line may mean."""
NUMBER = r"(\d+(?:[.,]\d+)?)"
TIMES = re.compile(rf"^{NUMBER}\s*(?:x|×|times)\s+", re.IGNORECASE)
TO = re.compile(rf"{NUMBER}\s*(?:v\s*)?(?:to|→|->)\s*{NUMBER}\s*v\b", re.IGNORECASE)
SURGE = re.compile(rf"\bsurge\s+{NUMBER}\s*(kw|w|ka|a)\b", re.IGNORECASE)
LEAST = re.compile(rf"\bmin(?:imum)?\s+{NUMBER}\s*v\b", re.IGNORECASE)
QUANTITY = re.compile(rf"(?<![\w.,]){NUMBER}\s*(kw|mw|w|ka|ma|a|v|mm|cm|m|ft|h|min)(?![\w²/])", re.IGNORECASE)
CRITICAL = re.compile(r"\bcritical\b", re.IGNORECASE)
KINDS: tuple[tuple[str, str], ...] = (
    (r"\binverter\b", "inverter"), (r"\bconverter\b", "converter"), (r"\b(solar|photovoltaic|pv)\b", "solar"),
    (r"\balternator\b", "alternator"), (r"\b(charger|rectifier)\b", "charger"), (r"\b(heater|heating|resistive)\b", "resistive"),
)  # fmt: skip
"""Words that say what kind of equipment it is; a load of constant power or current where there is none."""
SCALE = {
    "kw": ("W", 1000.0), "w": ("W", 1.0), "mw": ("W", 0.001), "ka": ("A", 1000.0), "a": ("A", 1.0), "ma": ("A", 0.001),
    "v": ("V", 1.0), "mm": ("m", 0.001), "cm": ("m", 0.01), "m": ("m", 1.0), "ft": ("m", 0.3048), "h": ("h", 1.0),
    "min": ("h", 1 / 60),
}  # fmt: skip


class NotRead(ValueError):
    """A line that says too little or contradicts itself; the text says why."""


def _number(text: str) -> float:
    return float(text.replace(",", "."))


def add_line(plan: Plan, line: str, nominal_v: float) -> tuple[Plan, tuple[str, ...]]:
    """Add what a line says, loose; return the ids too.

    Parameters
    ----------
    plan : Plan
        To add to.
    line : str
        How many times, a name, figures with their units: W or A, V, metres from its bars, hours a day; "critical",
        "surge 300 W", "min 10.5 V". The name says what kind it is: inverter, converter, charger, solar, alternator.
    nominal_v : float
        System voltage, where the line gives none.

    Raises
    ------
    NotRead
        It has no name, no figure of its size, or one that does not go with its kind.

    Examples
    --------
    >>> plan, ids = add_line(Plan(), "2 x Porch lamp 12 W 4,5 m", 24.0)
    >>> [(e.name, e.power_w, e.nominal_v, e.distance_m) for e in plan.equipment]
    [('Porch lamp', 12.0, 24.0, 4.5), ('Porch lamp 2', 12.0, 24.0, 4.5)]
    """
    text = line.strip()
    times = TIMES.match(text)
    count = int(_number(times[1])) if times else 1
    if not 1 <= count <= MOST:
        raise NotRead(say("{count} pieces in one line: 1 to {most} can be added", count=count, most=MOST))
    text = text[times.end() :] if times else text
    kind, fields, name = _fields(text, nominal_v)
    if not name:
        raise NotRead(say("a name is missing: write what it is, then its figures, such as Lamp 12 W 4 m"))
    ids = []
    for _ in range(count):
        called = fresh_name((x.name for x in plan.placed), name)
        try:
            like = new_equipment(plan, kind, fields["nominal_v"])
            values = {**like.model_dump(), **fields, "name": called, "id": fresh_id(plan, "E")}
            new: AnyEquipment = type(like).model_validate(values)
            plan = add(plan, new)
        except ValidationError as error:
            first = error.errors()[0]
            raise NotRead(f"{first['loc'][-1] if first['loc'] else kind}: {first['msg']}") from None
        except EditError as error:
            raise NotRead(str(error)) from None
        ids.append(new.id)
    return plan, tuple(ids)


def _fields(text: str, nominal_v: float) -> tuple[str, dict[str, Any], str]:
    """Kind, fields and name that a line says."""
    fields: dict[str, Any] = {"nominal_v": nominal_v}
    word = text
    for pattern, take in ((CRITICAL, _critical), (TO, _to), (SURGE, _surge), (LEAST, _least)):
        found = pattern.search(word)
        if found is not None:
            fields |= take(found)
            word = word[: found.start()] + " " + word[found.end() :]
    amounts: dict[str, float] = {}
    for found in QUANTITY.finditer(word):
        unit, scale = SCALE[found[2].lower()]
        if unit in amounts:
            raise NotRead(
                say("{found} comes after another figure in {unit}: which one is meant?", found=found[0], unit=unit)
            )
        amounts[unit] = _number(found[1]) * scale
    name = " ".join(QUANTITY.sub(" ", word).replace(",", " ").split())
    kind = next((k for pattern, k in KINDS if re.search(pattern, name, re.IGNORECASE)), None)
    if "V" in amounts and "out_nominal_v" not in fields:
        fields["nominal_v"] = amounts["V"]
    if "m" in amounts:
        fields["distance_m"] = amounts["m"]
    return (*_sized(kind, fields, amounts), name)


def _critical(_: re.Match[str]) -> dict[str, Any]:
    return {"critical": True}


def _to(found: re.Match[str]) -> dict[str, Any]:
    return {"nominal_v": _number(found[1]), "out_nominal_v": _number(found[2]), "set_v": _number(found[2])}


def _surge(found: re.Match[str]) -> dict[str, Any]:
    unit, scale = SCALE[found[2].lower()]
    return {"surge_w" if unit == "W" else "surge_a": _number(found[1]) * scale}


def _least(found: re.Match[str]) -> dict[str, Any]:
    return {"min_v": _number(found[1])}


def _sized(kind: str | None, fields: dict[str, Any], amounts: dict[str, float]) -> tuple[str, dict[str, Any]]:
    """Kind, and the fields with its size: watts or amperes, whichever it has."""
    watts, amps = amounts.get("W"), amounts.get("A")
    if "out_nominal_v" in fields:
        if kind == "charger":
            # From one battery to another: what charges from a direct current is a converter that holds a charger's voltage.
            fields["set_v"] = getattr(
                new_equipment(Plan(), "charger", fields["out_nominal_v"]), "set_v", fields["set_v"]
            )
        kind = "converter"
    kind = kind or ("constant_power" if watts is not None else "constant_current")
    if watts is None and amps is None:
        raise NotRead(say("its size is missing: watts, such as 60 W, or amperes, such as 5 A"))
    if kind in ("inverter", "resistive", "constant_power"):
        fields["power_w"] = watts if watts is not None else (amps or 0.0) * fields["nominal_v"]
        if kind == "inverter":
            fields |= {"surge_w": fields.get("surge_w"), "min_v": fields.get("min_v")}
    elif kind == "solar":
        volts = fields["nominal_v"]
        fields["current_a"] = amps if amps is not None else round((watts or 0.0) / volts, 1)
        fields["power_w"] = watts if watts is not None else round((amps or 0.0) * volts * 1.15)
    elif amps is not None:
        fields["current_a"] = amps
    else:
        volts = fields.get("out_nominal_v", fields["nominal_v"])
        fields["current_a"] = round((watts or 0.0) / volts, 2)
    if "h" in amounts and kind != "converter":
        fields["hours_per_day"] = amounts["h"]
    return kind, fields
