"""Tests of the whole house."""

from jaunty_copper.cli.startup import one_thread

one_thread()
