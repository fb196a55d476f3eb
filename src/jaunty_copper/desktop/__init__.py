"""The window. The only package that imports Qt."""

# Before Qt: once loaded, its binding watches every import and makes each one slower.
import jaunty_copper.layout.chart
import jaunty_copper.plan.defaults
import jaunty_copper.plan.examples
import jaunty_copper.plan.journal
import jaunty_copper.practice.findings  # noqa: F401
