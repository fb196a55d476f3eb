"""What a new plan begins with: a bank, a main fuse, a switch, two bars, a shunt."""

from jaunty_copper.language import say
from jaunty_copper.plan.model import (
    Bar,
    BarStud,
    Battery,
    Disconnect,
    Fuse,
    Plan,
    PowerLoad,
    Run,
    Scenario,
    Shunt,
)


def blank() -> Plan:
    """A small 12 V system that hangs together, to grow from."""
    studs = tuple(BarStud(id=f"s{k}") for k in range(1, 7))
    return Plan(
        name=say("New plan"),
        items=(
            Battery(id="B1", name="Battery", chemistry="lifepo4", nominal_v=12.0, capacity_ah=100.0),
            Fuse(id="F1", name=say("Main fuse"), family="class-t-fuse", rating_a=125.0),
            Disconnect(id="Q1", name=say("Main switch"), rating_a=200.0),
            Bar(id="P1", name=say("Plus bar"), studs=studs, rating_a=200.0),
            Bar(id="M1", name=say("Minus bar"), studs=studs, rating_a=200.0),
            Shunt(id="S1", name="Shunt", rating_a=300.0, monitor_fuse_a=1.0),
            Fuse(id="F2", name=say("First fuse"), family="class-t-fuse", rating_a=10.0, follows_load=True),
        ),
        equipment=(PowerLoad(id="E1", name=say("First load"), nominal_v=12.0, power_w=60.0),),
        runs=(
            Run(id="W1", a="B1.plus", b="F1.a", length_m=0.15, conductor="mm2-50"),
            Run(id="W2", a="F1.b", b="Q1.a", length_m=0.3, conductor="mm2-50"),
            Run(id="W3", a="Q1.b", b="P1.s1", length_m=0.3, conductor="mm2-50"),
            Run(id="W4", a="M1.s1", b="S1.b", length_m=0.3, conductor="mm2-50"),
            Run(id="W5", a="S1.a", b="B1.minus", length_m=0.45, conductor="mm2-50"),
            Run(id="W6", a="P1.s2", b="F2.a", length_m=0.1, conductor="mm2-2.5", follows_load=True),
            Run(id="W7", a="F2.b", b="E1.plus", length_m=2.0, conductor="mm2-2.5", follows_load=True),
            Run(id="W8", a="E1.minus", b="M1.s2", length_m=2.1, conductor="mm2-2.5", follows_load=True),
        ),
        scenarios=(Scenario(id="all", name=say("Everything on")),),
    )
