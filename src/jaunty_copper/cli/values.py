"""Figures as programs read them."""

import json
from math import isfinite
from typing import Any

import numpy as np


def _clean(value: Any) -> Any:
    """Values that JSON can hold: nan and infinity become None."""
    if isinstance(value, dict):
        return {k: _clean(v) for k, v in value.items()}
    if isinstance(value, list | tuple):
        return [_clean(v) for v in value]
    if isinstance(value, float | np.floating):
        return float(value) if isfinite(value) else None
    return value


def print_json(values: Any) -> None:
    """Print figures for programs; what is no finite number is null."""
    print(json.dumps(_clean(values), ensure_ascii=False, indent=1))
