"""Faults, protective devices, what they guard, and what conductors withstand."""
