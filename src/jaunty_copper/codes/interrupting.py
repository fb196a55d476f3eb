"""What a protective device must be able to interrupt, and what it can."""

from typing import NamedTuple

from jaunty_copper.codes.case import Case
from jaunty_copper.plan.model import Fuse
from jaunty_copper.protection.back_up import BackUp, back_up
from jaunty_copper.protection.devices import Device


class Interrupting(NamedTuple):
    """A device's interrupt rating beside what may flow at its place.

    Attributes
    ----------
    prospective_a : float
        The greatest current with a link in its place.
    where : str
        Terminal of the fault that drives it.
    able_a : float or None
        Its interrupt rating at the system's highest voltage; None where its family ends below that.
    backed : BackUp or None
        What keeps the current below the prospective one, where that is needed and the code counts it.
    """

    prospective_a: float
    where: str
    able_a: float | None
    backed: BackUp | None

    @property
    def wanted_a(self) -> float:
        """What it must be able to interrupt."""
        return self.backed.let_through_a if self.backed is not None else self.prospective_a

    @property
    def is_enough(self) -> bool:
        """Whether it is; true where its family's voltage ends, which is another finding."""
        return self.able_a is None or self.wanted_a <= self.able_a


def interrupting(case: Case, id_: str) -> Interrupting:
    """What a fuse or breaker can interrupt and what it must.

    Raises
    ------
    KeyError
        There is no such device.
    """
    return case.once(_interrupting, id_)


def _interrupting(case: Case, id_: str) -> Interrupting:
    device = case.protection.devices[id_]
    most, where = case.protection.faults.prospective(id_)
    able = case.interrupt_a(device.item)
    needs = able is not None and most > able
    return Interrupting(most, where, able, backed_up(case, id_) if needs else None)


def backed_up(case: Case, id_: str) -> BackUp | None:
    """What limits the current through a fuse to less than the prospective one, where the code counts that.

    For a breaker only a test shows it: its arc may keep the fuse before it from melting.
    """
    counts = case.code.limit("back_up_by_computation") and isinstance(case.plan.by_id[id_], Fuse)
    return case.once(_backed_up, id_) if counts else None


def _backed_up(case: Case, id_: str) -> BackUp | None:
    return back_up(case.protection.faults, id_, limiters(case))


def limiters(case: Case) -> dict[str, Device]:
    """Fuses that interrupt what is prospective at their own place by themselves, by id."""
    return case.once(_limiters, "")


def _limiters(case: Case, _: str) -> dict[str, Device]:
    faults = case.protection.faults
    return {
        id_: d
        for id_, d in case.protection.devices.items()
        if isinstance(d.item, Fuse)
        and (able := case.interrupt_a(d.item)) is not None
        and faults.prospective(id_)[0] <= able
    }
