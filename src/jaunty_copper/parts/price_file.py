"""Own prices from a CSV file: key and price, and how many a price is for."""

from typing import NamedTuple

from jaunty_copper.language import say
from jaunty_copper.parts.figures import CsvError, figure_at, figure_rows, mark_of
from jaunty_copper.parts.models import LEAST, MOST


class PriceError(ValueError):
    """A price file that cannot be read; says which line and why."""


class Prices(NamedTuple):
    """What a file of prices says.

    Attributes
    ----------
    prices : dict
        Without currency, by key: of one, or of a pack.
    packs : dict
        How many are in a pack, by key, of what is sold so.
    """

    prices: dict[str, float]
    packs: dict[str, int]


def read_prices(text: str, file: str = "prices") -> Prices:
    """Read prices.

    Parameters
    ----------
    text : str
        CSV with the columns key and price among others, perhaps pack, as the list of materials is written.
    file : str
        What to call it in an error.

    Raises
    ------
    PriceError
        With file, line and reason.
    """
    text = text.lstrip("\ufeff")
    mark = mark_of(text)
    found, packs = dict[str, float](), dict[str, int]()
    try:
        for n, row in figure_rows(text, mark, needs=("key", "price")):
            cell, key = row["price"].strip(), row["key"].strip()
            if cell and key:
                found[key] = _price(cell.replace(",", ".") if mark == ";" else cell, file, n)
                if row.get("pack", "").strip():
                    packs[key] = _pack(row["pack"], file, n)
    except CsvError as error:
        raise PriceError(f"{file}: {error}") from None
    return Prices(found, packs)


def _pack(cell: str, file: str, line: int) -> int:
    try:
        pack = figure_at(cell, file, line, "pack")
    except CsvError as error:
        raise PriceError(str(error)) from None
    if not (1.0 <= pack <= 100_000.0 and pack == int(pack)):
        raise PriceError(
            say(
                "{file}, line {line}: pack must be a whole number from 1 on, not {cell}",
                file=file,
                line=line,
                cell=cell[:40],
            )
        )
    return int(pack)


def _price(cell: str, file: str, line: int) -> float:
    try:
        price = figure_at(cell, file, line, "price")
    except CsvError as error:
        raise PriceError(str(error)) from None
    if not (price == 0.0 or LEAST <= price <= MOST):
        raise PriceError(
            say(
                "{file}, line {line}: price must be 0 or more, and at most {most:g}, not {cell}",
                file=file,
                line=line,
                most=MOST,
                cell=cell[:40],
            )
        )
    return price
