"""Jaunty Copper: plan and check low-voltage DC distribution, 12 to 48 V."""

__version__ = "0.1.0"
