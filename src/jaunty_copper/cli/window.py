"""Commands that open the window."""

import argparse


def demo(_: argparse.Namespace) -> int:
    """Open the demo system."""
    from jaunty_copper.desktop.shell.app import run

    return run("demo")


def open(options: argparse.Namespace) -> int:
    """Open a plan."""
    from jaunty_copper.desktop.shell.app import run

    return run("open", options.plan)


def new(_: argparse.Namespace) -> int:
    """Open a new plan."""
    from jaunty_copper.desktop.shell.app import run

    return run("new")
