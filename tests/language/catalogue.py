"""A catalogue in a language nobody speaks: every text in brackets, so that what does not pass through it is seen."""

import ast
import struct
from pathlib import Path

import jaunty_copper

SOURCE = Path(jaunty_copper.__file__).parent
HEAD = "Content-Type: text/plain; charset=UTF-8\nPlural-Forms: nplurals=2; plural=(n != 1);\n"


def calls():
    """Every call that marks a text: its file, its node, and the texts in it as they are written."""
    for path in sorted(SOURCE.rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text("utf-8"))):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("say", "say_many"):
                yield path, node, node.args[: 1 if node.func.id == "say" else 2]


def bracketed():
    """Translations of all texts: themselves, in brackets."""
    made = {"": HEAD}
    for _, _, texts in calls():
        words = [t.value for t in texts]
        made["\0".join(words)] = "\0".join(f"⟦{w}⟧" for w in words)
    return made


def compiled(translations):
    """The bytes of a compiled catalogue (.mo) as GNU gettext describes it."""
    pairs = sorted((k.encode(), v.encode()) for k, v in translations.items())
    texts, tables, at = b"", [], 28 + 16 * len(pairs)
    for column in (0, 1):
        table = b""
        for pair in pairs:
            table += struct.pack("<II", len(pair[column]), at + len(texts))
            texts += pair[column] + b"\0"
        tables.append(table)
    return struct.pack("<7I", 0x950412DE, 0, len(pairs), 28, 28 + 8 * len(pairs), 0, at) + b"".join(tables) + texts


def write(folder, translations):
    """Put a catalogue where the program looks for it; what its environment must be."""
    to = folder / "locale" / "qq" / "LC_MESSAGES"
    to.mkdir(parents=True)
    (to / "jaunty-copper.mo").write_bytes(compiled(translations))
    return {"LANGUAGE": "qq", "XDG_DATA_HOME": str(folder)}
