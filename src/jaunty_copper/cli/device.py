"""The command that lets a plan carry a device family of its own."""

import argparse
from pathlib import Path

from pydantic import ValidationError

from jaunty_copper.cli.inputs import complain, plan_or_complaint
from jaunty_copper.language import say
from jaunty_copper.parts.catalogue import library
from jaunty_copper.parts.curve_file import CurveError, read_curve
from jaunty_copper.parts.models import DeviceFamily
from jaunty_copper.plan.edits import EditError, put_family
from jaunty_copper.plan.files import PlanError, save
from jaunty_copper.plan.storage import MOST_TEXT, read_text


def device(options: argparse.Namespace) -> int:
    """Add a family to a plan: like one that is known, with its own curve or interrupt rating."""
    plan = plan_or_complaint(options.plan)
    if isinstance(plan, int):
        return plan
    families = library().with_own(plan.parts).device_families
    like = families.get(options.like)
    if like is None:
        return complain(
            say(
                "there is no device family {like!r}; there are: {families}",
                like=options.like,
                families=", ".join(families),
            )
        )
    values = {**like.model_dump(), "id": options.id, "label": options.label or options.id, "source": options.source}
    values["curve"] = like.curve or like.id
    if options.interrupt is not None:
        values["interrupt_v_ka"] = options.interrupt
    for name in ("min_a", "max_a", "max_v_dc"):
        if getattr(options, name) is not None:
            values[name] = getattr(options, name)
    try:
        if options.curve is not None:
            text = read_text(options.curve, MOST_TEXT)
            values["gates"] = read_curve(text, options.rating or 0.0, options.curve)
        plan = put_family(plan, DeviceFamily.model_validate(values))
        save(plan, Path(options.output or options.plan))
    except (CurveError, PlanError) as error:
        return complain(str(error))
    except ValidationError as error:
        first = error.errors()[0]
        return complain(f"{'.'.join(str(x) for x in first['loc'])}: {first['msg'].removeprefix('Value error, ')}")
    except (EditError, OSError, UnicodeDecodeError) as error:
        return complain(str(error))
    print(say("{output} now carries {options}", output=options.output or options.plan, options=options.id))
    return 0
