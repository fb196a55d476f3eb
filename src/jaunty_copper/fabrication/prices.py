"""What parts cost: the plan's own price, or a representative one, without currency."""

from functools import cache

from jaunty_copper.parts.catalogue import Catalogue, read_data
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.plan.model import Plan


def price_of(plan: Plan, key: str, representative: float) -> float:
    """Price of one: the plan's own, of a pack its share, or the representative one.

    Parameters
    ----------
    key : str
        Of the line of the list of materials.
    representative : float
        Without currency.
    """
    own = plan.prices.get(key)
    return representative if own is None else own / plan.packs.get(key, 1)


def metre_of(plan: Plan, parts: Catalogue, conductor: str) -> tuple[float, float]:
    """Price of a metre of a conductor, the plan's own or representative, and its mass, kg."""
    price, mass = rates("cable", parts.conductors[conductor].area_mm2)
    return price_of(plan, f"cable:{conductor}", price), mass


def lug_price(plan: Plan, parts: Catalogue, conductor: str, thread: str) -> float:
    """Price of a lug, the plan's own or representative.

    Parameters
    ----------
    conductor, thread : str
        Ids of the size and of the thread of its stud.
    """
    price, _ = rates("lug", parts.conductors[conductor].area_mm2)
    return price_of(plan, f"lug:{conductor}:{thread}", price)


def device_price(family: DeviceFamily, rating_a: float) -> float:
    """What a device with its holder costs, representative, without currency.

    Parameters
    ----------
    rating_a : float
        Rated current, A.
    """
    return rates(f"{family.kind}:{family.id}", rating_a)[0]


@cache
def _price_rows() -> dict[str, dict[str, str]]:
    return {r["key"]: r for r in read_data("prices")}


def rates(key: str, measure: float) -> tuple[float, float]:
    """Price and mass of one, representative.

    Parameters
    ----------
    key : str
        Row of the table of prices; the part before its colon where it has no row of its own.
    measure : float
        What its price and mass grow with: mm2 of a conductor, A of a device, mm of a thread.

    Returns
    -------
    float, float
        Without currency, and kg.
    """
    rows = _price_rows()
    row = rows.get(key) or rows[key.partition(":")[0]]
    price, per, mass, mass_per = (float(row[name]) for name in ("price", "price_per", "mass_kg", "mass_kg_per"))
    return round(price + per * measure, 2), mass + mass_per * measure
