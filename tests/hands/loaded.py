"""Everything that the program may load, loaded: what each process that a test starts is forked from."""

import gc
import pkgutil
from importlib import import_module

import jaunty_copper
from jaunty_copper.plan.examples import example

LOADED = [
    import_module(found.name)
    for found in pkgutil.walk_packages(jaunty_copper.__path__, f"{jaunty_copper.__name__}.")
    if not found.name.endswith("__main__")
]
example("orchard_station")  # Reading the first plan makes the readers of all its models.
# What is looked through for garbage is copied into each of them.
gc.freeze()
