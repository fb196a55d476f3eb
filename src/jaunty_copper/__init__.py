"""Jaunty Copper: plan and check low-voltage DC distribution, 12 to 48 V."""

import sys
from types import SimpleNamespace

__version__ = "0.1.0"

# Pydantic looks for plugins among all installed packages, and loads importlib.metadata with
# mail and zip handling to do so: a tenth of the start. This program has no such plugins.
sys.modules.setdefault("pydantic.plugin._loader", SimpleNamespace(get_plugins=tuple))  # type: ignore[arg-type]
