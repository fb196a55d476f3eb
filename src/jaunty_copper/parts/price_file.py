"""Own prices from a CSV file: key and price."""

import csv
from io import StringIO


class PriceError(ValueError):
    """A price file that cannot be read; says which line and why."""


def read_prices(text: str, file: str = "prices") -> dict[str, float]:
    """Read prices.

    Parameters
    ----------
    text : str
        CSV with the columns key and price among others, as the list of materials is written.
    file : str
        What to call it in an error.

    Raises
    ------
    PriceError
        With file, line and reason.
    """
    text = text.lstrip("\ufeff")
    mark = ";" if ";" in text.partition("\n")[0] else ","
    rows = csv.DictReader(StringIO(text), delimiter=mark)
    if rows.fieldnames is None or not {"key", "price"} <= set(rows.fieldnames):
        raise PriceError(f"{file}: expected the columns key and price")
    found: dict[str, float] = {}
    for n, row in enumerate(rows, 2):
        cell = (row["price"] or "").strip()
        if not cell or not (row["key"] or "").strip():
            continue
        try:
            price = float(cell.replace(",", ".") if mark == ";" else cell)
        except ValueError:
            raise PriceError(f"{file}, line {n}: price is no number: {cell!r}") from None
        if not 0.0 <= price < float("inf"):
            raise PriceError(f"{file}, line {n}: price must be 0 or more, not {cell}")
        found[row["key"].strip()] = price
    return found
