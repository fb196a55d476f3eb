"""Plans as files: one readable JSON document, read strictly, written atomically."""

import hashlib
import json
import os
from functools import partial
from pathlib import Path
from typing import Any, NamedTuple, NoReturn

from pydantic import BaseModel, ValidationError

from jaunty_copper.language import say
from jaunty_copper.plan.check import problems
from jaunty_copper.plan.migrate import UnknownVersion, migrate
from jaunty_copper.plan.model import Plan
from jaunty_copper.plan.storage import read_bytes, write_atomically

SUFFIX = ".copper.json"
LARGEST_BYTES = 16 * 1024 * 1024
"""A plan of 2,000 runs has half a megabyte; what is larger than this is no plan."""
MOST_PARTS = 150_000
"""Objects and lists in a document: a plan of 10,000 runs has a third of that."""
MOST_COMPLAINTS = 50
LONGEST_WORD, LONGEST_COMPLAINT = 60, 400
"""Letters of what a file holds, where that is reported."""


class PlanError(ValueError):
    """A file that is no plan: which file, where in it, and why.

    Attributes
    ----------
    file : str
        Name of the file.
    details : tuple of str
        Each a place and a reason, in the order of the file.
    missing : bool
        Whether there is no such file any more.
    """

    missing = False

    def __init__(self, file: str, *details: str) -> None:
        self.file = file
        self.details = details
        more = say(" (and {details} more)", details=len(details) - 1) if len(details) > 1 else ""
        super().__init__(f"{file}: {details[0]}{more}")


def _no_duplicates(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    seen: dict[str, Any] = {}
    for key, value in pairs:
        if key in seen:
            raise ValueError(say("the name {short!r} stands twice in one object", short=_short(key)))
        seen[key] = value
    return seen


def _no_constant(name: str) -> NoReturn:
    raise ValueError(say("{name} is no number a plan may hold", name=name))


def parse(data: bytes, file: str = "plan") -> Plan:
    """Read a plan from its bytes.

    Raises
    ------
    PlanError
        With file, place and reason. Nothing is guessed: unknown fields, numbers written as
        text and dangling references are errors.
    """
    if len(data) > LARGEST_BYTES:
        raise PlanError(file, say("{data:.0f} MB is too large for a plan", data=len(data) / 1000000.0))
    parts = data.count(b"{") + data.count(b"[")
    if parts > MOST_PARTS:
        raise PlanError(
            file,
            say(
                "{parts} objects and lists are too many for a plan: at most {most_parts}",
                parts=parts,
                most_parts=MOST_PARTS,
            ),
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise PlanError(file, say("byte {start}: not UTF-8 text", start=error.start)) from None
    try:
        document = json.loads(text, object_pairs_hook=_no_duplicates, parse_constant=_no_constant)
    except json.JSONDecodeError as error:
        raise PlanError(
            file, say("line {lineno}, column {colno}: {msg}", lineno=error.lineno, colno=error.colno, msg=error.msg)
        ) from None
    except RecursionError:
        raise PlanError(file, say("nested too deeply for a plan")) from None
    except ValueError as error:
        raise PlanError(file, str(error)[:LONGEST_COMPLAINT]) from None
    if not isinstance(document, dict) or document.get("format") != "jaunty-copper-plan":
        raise PlanError(file, say('not a plan: it does not begin with "format": "jaunty-copper-plan"'))
    try:
        document = migrate(document)
    except UnknownVersion as error:
        raise PlanError(file, str(error)) from None
    plan = _validated(document, file)
    wrong = problems(plan)
    if wrong:
        raise PlanError(file, *_first([str(p)[:LONGEST_COMPLAINT] for p in wrong]))
    return plan


def _short(text: str) -> str:
    return text if len(text) <= LONGEST_WORD else f"{text[:LONGEST_WORD]}…"


def _first(complaints: list[str]) -> list[str]:
    more = len(complaints) - MOST_COMPLAINTS
    return complaints if more <= 0 else [*complaints[:MOST_COMPLAINTS], say("and more")]


def _validated(document: dict[str, Any], file: str) -> Plan:
    try:
        return Plan.model_validate_json(json.dumps(document), strict=True)
    except ValidationError as error:
        errors = error.errors(include_url=False, include_context=False, include_input=False)
        raise PlanError(file, *_first([_place(document, dict(e)) for e in errors[: MOST_COMPLAINTS + 1]])) from None


def refused(plan: Plan, before: Plan) -> str | None:
    """Why a reader would refuse what was made of a plan; None where it reads back as it is.

    Parameters
    ----------
    plan, before : Plan
        What was made, and of what: only what differs is read back, so that this costs little at every edit.
    """
    changed = {}
    for name in Plan.model_fields:
        new, old = getattr(plan, name), getattr(before, name)
        if isinstance(new, tuple) and new is not old:
            known = {id(x) for x in old}
            changed[name] = tuple(x for x in new if id(x) not in known)
        elif new is not old:
            changed[name] = new
    differs = Plan().model_copy(update=changed)
    try:
        read = _validated(json.loads(dumps(differs)), "plan")
    except PlanError as error:
        return error.details[0]
    except ValueError as error:
        return str(error)
    if read != differs:
        return say("it would not be read back as it is written")
    wrong = problems(plan)
    return str(wrong[0]) if wrong else None


def _place(document: dict[str, Any], error: dict[str, Any]) -> str:
    """Say where in the document a model's complaint belongs, by id where it has one."""
    words: list[str] = []
    here: Any = document
    for step in error["loc"]:
        if isinstance(step, int):
            here = here[step] if isinstance(here, list) and step < len(here) else None
            name = here.get("id") or here.get("limit") if isinstance(here, dict) else None
            words[-1:] = [
                f"{words[-1] if words else ''}[{step + 1}]" + (f" ({_short(name)})" if isinstance(name, str) else "")
            ]
        elif isinstance(here, dict) and step in here:
            here = here[step]
            words.append(_short(step))
        elif not (isinstance(here, dict) and here.get("kind") == step):
            words.append(_short(str(step)))
    return f"{' › '.join(words) or 'document'}: {error['msg']}"[:LONGEST_COMPLAINT]


def load(path: str | os.PathLike[str]) -> Plan:
    """Read a plan from a file.

    Raises
    ------
    PlanError
        It cannot be read, or is no plan.
    """
    return load_with_stamp(path)[0]


class Stamp(NamedTuple):
    """What a file held when it was read or written, to notice that it changed since."""

    digest: str


def load_with_stamp(path: str | os.PathLike[str]) -> tuple[Plan, Stamp]:
    """Read a plan and what its file held."""
    name = str(path)
    try:
        data = read_bytes(path, LARGEST_BYTES)
    except OSError as error:
        raise PlanError(name, (error.strerror or say("cannot be read")).lower()) from None
    return parse(data, name), stamp_of(data)


def stamp_of(data: bytes) -> Stamp:
    """The stamp of a file's bytes."""
    return Stamp(hashlib.sha256(data).hexdigest())


GONE = Stamp("")
"""Of a file that is not there."""


def look_again(path: str | os.PathLike[str], known: Stamp) -> tuple[Stamp, PlanError | None] | None:
    """What a file holds by now; None where that is known.

    Returns
    -------
    Stamp, PlanError or None
        The stamp of what is there, and why that is no plan, where it is none.
    """
    try:
        now = stamp_of(read_bytes(path, LARGEST_BYTES))
    except OSError:
        now = GONE
    if now == known:
        return None
    try:
        load_with_stamp(path)
    except PlanError as error:
        error.missing = now == GONE
        return now, error
    return now, None


def changed_on_disk(path: str | os.PathLike[str], stamp: Stamp) -> bool:
    """Whether a file holds anything else than it did; a missing one counts as changed."""
    try:
        return stamp_of(read_bytes(path, LARGEST_BYTES)) != stamp
    except OSError:
        return True


def _values(model: BaseModel) -> dict[str, Any]:
    """A model's fields that differ from their defaults, with its kind, in order."""
    fields = type(model).model_fields
    dumped = model.model_dump(mode="json", exclude_defaults=True)
    return {
        name: dumped[name] if name in dumped else getattr(model, name)
        for name in fields
        if name in dumped or name == "kind"
    }


def dumps(plan: Plan) -> bytes:
    """A plan as its file's bytes: fields in a fixed order, one thing a line, defaults left out."""

    def line(value: Any) -> str:
        return json.dumps(value, ensure_ascii=False)

    out = []
    for name, field in Plan.model_fields.items():
        value = getattr(plan, name)
        if name not in ("format", "version", "name", "practice") and value == field.get_default(
            call_default_factory=True
        ):
            continue
        if isinstance(value, dict):
            out.append(f'  "{name}": {line(dict(sorted(value.items())))}')
        elif isinstance(value, tuple) and value and isinstance(value[0], BaseModel):
            out.append(f'  "{name}": [\n' + ",\n".join(f"    {line(_sorted(_values(x)))}" for x in value) + "\n  ]")
        elif isinstance(value, BaseModel):
            out.append(f'  "{name}": {line(_values(value))}')
        else:
            out.append(f'  "{name}": {line(value)}')
    return ("{\n" + ",\n".join(out) + "\n}\n").encode("utf-8")


def _sorted(values: dict[str, Any]) -> dict[str, Any]:
    """Sort the keys of mappings whose order means nothing."""
    return {
        k: dict(sorted(v.items())) if k in ("states", "ambient_c") and isinstance(v, dict) else v
        for k, v in values.items()
    }


def save(plan: Plan, path: str | os.PathLike[str]) -> Stamp:
    """Write a plan so that at any moment the file is the old one or the new one, after reading it back.

    Raises
    ------
    OSError
        The disk or the folder refuses; the old file is untouched.
    PlanError
        No reader would take what was written; the old file is untouched.
    """
    data = dumps(plan)
    write_atomically(Path(path), data, partial(read_back, plan))
    return stamp_of(data)


def read_back(plan: Plan, data: bytes) -> None:
    """Make sure that bytes hold a plan.

    Raises
    ------
    PlanError
        They hold another, or none.
    """
    if parse(data, "what would be written") != plan:
        raise PlanError(say("what would be written"), say("it would not be read back as it is"))


def schema() -> dict[str, Any]:
    """The JSON Schema of the format, made from the models."""
    made = Plan.model_json_schema()
    made["$schema"] = "https://json-schema.org/draft/2020-12/schema"
    made["title"] = "Jaunty Copper plan"
    return made
