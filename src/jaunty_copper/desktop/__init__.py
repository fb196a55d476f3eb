"""The window. The only package that imports Qt."""

import gc

# Loading makes thousands of objects that stay: looking for garbage among them as often as
# Python does by default costs a twentieth of the start.
gc.set_threshold(50_000, 20, 50)

# The core before Qt: once loaded, its binding watches every import and makes each one slower.
# Building the plan's validator imports a good part of Pydantic, so that is done here too.
import jaunty_copper.layout.chart
import jaunty_copper.plan.defaults
import jaunty_copper.plan.examples
import jaunty_copper.plan.journal
import jaunty_copper.practice.findings  # noqa: F401
from jaunty_copper.parts.catalogue import library
from jaunty_copper.plan.model import Plan

Plan.model_rebuild()
library()
