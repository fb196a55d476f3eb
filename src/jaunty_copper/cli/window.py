"""Commands that open the window."""

import argparse

from jaunty_copper.cli.startup import load_qt, loaded, no_garbage


def demo(_: argparse.Namespace) -> int:
    """Open the demo system."""
    return _run("demo")


def open(options: argparse.Namespace) -> int:
    """Open a plan."""
    return _run("open", options.plan) if options.plan is not None else _run("new")


def new(_: argparse.Namespace) -> int:
    """Open a new plan."""
    return _run("new")


def _run(what: str, path: str | None = None) -> int:
    no_garbage()
    load_qt()
    from jaunty_copper.desktop.shell.app import run

    return run(what, path, loaded)
