"""What the window remembers between starts: recent files, look, units."""

import contextlib
import json
from pathlib import Path
from typing import Any

import platformdirs

from jaunty_copper.plan.storage import read_text, write_atomically

MOST_RECENT = 10
MOST_BYTES = 1_000_000


class Settings:
    """A small JSON file; one that cannot be read or written never stands in the way."""

    def __init__(self) -> None:
        self.path = Path(platformdirs.user_config_dir("jaunty-copper")) / "settings.json"
        self.values: dict[str, Any] = {}
        with contextlib.suppress(OSError, ValueError, RecursionError):
            read = json.loads(read_text(self.path, MOST_BYTES))
            if isinstance(read, dict):
                self.values = read

    def get(self, name: str, default: Any) -> Any:
        """A remembered value of the default's type, or the default."""
        value = self.values.get(name, default)
        return value if isinstance(value, type(default)) else default

    def put(self, name: str, value: Any) -> None:
        """Remember a value."""
        if self.values.get(name) == value:
            return
        self.values[name] = value
        self.write()

    def write(self) -> None:
        """Write everything down; a file that cannot be written is let be."""
        with contextlib.suppress(OSError):
            self.path.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(self.path, json.dumps(self.values, indent=1).encode("utf-8"))

    @property
    def recent(self) -> list[str]:
        """Files opened lately, newest first."""
        return [p for p in self.get("recent", []) if isinstance(p, str)]

    def used(self, path: Path) -> None:
        """Put a file at the head of the recent ones."""
        name = str(path.absolute())
        self.put("recent", [name, *(p for p in self.recent if p != name)][:MOST_RECENT])
