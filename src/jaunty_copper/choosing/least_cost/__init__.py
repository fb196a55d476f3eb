"""Sizes of conductors and devices at the least cost, with a proof of how near to the least they are."""
