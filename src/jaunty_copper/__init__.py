"""Jaunty Copper: plan and check low-voltage DC distribution, 12 to 48 V."""

import os

__version__ = "0.1.0"

# Pydantic otherwise walks all installed packages for plugins at import: 0.05 s of start-up.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "1")
