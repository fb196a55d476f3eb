"""Write the manual page and the shell's completion from the grammar. Start it with ``.venv/bin/python docs/manual.py``."""

from pathlib import Path

from jaunty_copper.cli.main import parser
from jaunty_copper.cli.manual import write_manual

if __name__ == "__main__":
    write_manual(parser(), Path(__file__).parents[1] / "src" / "jaunty_copper" / "desktop" / "share")
