"""The manual page and the shell's completion, written from the command line's own grammar."""

import argparse
from collections.abc import Iterator
from pathlib import Path

from jaunty_copper import __version__
from jaunty_copper.language import say


def manual_page(top: argparse.ArgumentParser) -> str:
    """The manual page, as roff.

    Parameters
    ----------
    top : ArgumentParser
        The command line.
    """
    return "\n".join(_page(top)) + "\n"


def _page(top: argparse.ArgumentParser) -> Iterator[str]:
    yield f'.TH JAUNTY\\-COPPER 1 "" "jaunty\\-copper {__version__}" "User Commands"'
    yield ".SH NAME"
    yield f"jaunty\\-copper \\- {_roff(_began(top.description or ''))}"
    yield ".SH SYNOPSIS"
    yield ".B jaunty\\-copper"
    yield ".I COMMAND"
    yield "[\\fIARGUMENTS\\fR]"
    yield ".SH DESCRIPTION"
    yield _roff(say("Without a window, each command reads a plan and prints or writes what it finds."))
    yield _roff(top.epilog or "")
    yield ".SH COMMANDS"
    for name, command in _commands(top).items():
        yield f".SS {_roff(name)}"
        yield _roff(command.description or "")
        yield ".PP"
        arguments = " ".join(_shown(a) for a in command._actions if a.dest != "help")
        yield f"\\fBjaunty\\-copper {_roff(name)}\\fR {arguments}".rstrip()
        for action in command._actions:
            if action.dest != "help" and action.help:
                yield ".TP"
                yield _named(action)
                yield _roff(action.help)
    yield ".SH EXIT STATUS"
    yield _roff(say("0: fine. 1: dangers found, or no operating point. 2: cannot be read, or not asked rightly."))
    yield ".SH FILES"
    yield ".TP"
    yield ".I *.copper.json"
    yield _roff(say("A plan: everything of one system, as text."))


def bash_completion(top: argparse.ArgumentParser) -> str:
    """Completion of commands and options, files elsewhere, for bash.

    Parameters
    ----------
    top : ArgumentParser
        The command line.
    """
    commands = _commands(top)
    cases = "\n".join(
        f"        {name}) words='{' '.join(o for a in command._actions for o in a.option_strings if o.startswith('--'))}' ;;"
        for name, command in commands.items()
    )
    return f"""# bash completion for jaunty-copper
_jaunty_copper() {{
    local word=${{COMP_WORDS[COMP_CWORD]}} words=
    if [ "$COMP_CWORD" -eq 1 ]; then
        mapfile -t COMPREPLY < <(compgen -W '{" ".join(commands)} --help --version' -- "$word")
        return
    fi
    case ${{COMP_WORDS[1]}} in
{cases}
    esac
    if [[ $word == -* ]]; then
        mapfile -t COMPREPLY < <(compgen -W "$words" -- "$word")
    else
        compopt -o filenames
        mapfile -t COMPREPLY < <(compgen -f -- "$word")
    fi
}}
complete -F _jaunty_copper jaunty-copper
"""


def _commands(top: argparse.ArgumentParser) -> dict[str, argparse.ArgumentParser]:
    return next(dict(a.choices) for a in top._actions if isinstance(a, argparse._SubParsersAction))


def _values(action: argparse.Action) -> str:
    if action.nargs == 0:
        return ""
    if action.metavar is not None:
        return str(action.metavar) if isinstance(action.metavar, str) else " ".join(action.metavar)
    return "|".join(map(str, action.choices)) if action.choices else action.dest.upper()


def _shown(action: argparse.Action) -> str:
    """An argument as the line above its options has it."""
    values = f"\\fI{_roff(_values(action))}\\fR" if _values(action) else ""
    if not action.option_strings:
        return f"[{values}]" if action.nargs in ("?", "*") else values
    text = " ".join(filter(None, (_roff(action.option_strings[-1]), values)))
    return text if action.required else f"[{text}]"


def _named(action: argparse.Action) -> str:
    names = ", ".join(f"\\fB{_roff(o)}\\fR" for o in action.option_strings)
    values = f"\\fI{_roff(_values(action))}\\fR" if _values(action) else ""
    return " ".join(filter(None, (names, values)))


def _began(text: str) -> str:
    """A sentence as a part of another."""
    return text[:1].lower() + text[1:].rstrip(".")


def _roff(text: str) -> str:
    """Words that roff prints as they are."""
    plain = " ".join(str(text).replace("%%", "%").split()).replace("\\", "\\e").replace("-", "\\-")
    return f"\\&{plain}" if plain.startswith((".", "'")) else plain


def write_manual(top: argparse.ArgumentParser, share: Path) -> None:
    """Write both where they are installed from.

    Parameters
    ----------
    top : ArgumentParser
        The command line.
    share : Path
        Folder that holds `FILES`.
    """
    for name, made in FILES.items():
        (share / name).parent.mkdir(parents=True, exist_ok=True)
        (share / name).write_text(made(top), encoding="utf-8")


FILES = {"man/man1/jaunty-copper.1": manual_page, "bash-completion/completions/jaunty-copper": bash_completion}
"""What is written, by its place under a share folder."""
