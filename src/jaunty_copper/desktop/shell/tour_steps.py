"""What the tour of the demo says, and at what it points."""

from typing import Literal, NamedTuple

from jaunty_copper.language import say

DEMO = "orchard_station"
Place = Literal["map", "part", ""]


class TourStep(NamedTuple):
    """One thing that is pointed at.

    Attributes
    ----------
    page : str
        On which page it is seen.
    place : str
        ``map``: something on the map by its id; ``part``: a part of the window by its name; empty: the page as a whole.
    name : str
        Its id or name.
    lens : str
        Through which the map is seen.
    scenario : str
        In which; empty for the one that is looked at.
    """

    title: str
    text: str
    page: str = "map"
    place: Place = ""
    name: str = ""
    lens: str = "flow"
    scenario: str = ""


STEPS = (
    TourStep(
        say("From plus to minus"),
        say(
            "Plus is at the left, minus at the right, what gives and takes current in the middle. A conductor is as wide as its section and darker the nearer it is to its ampacity. Everything here can be clicked."
        ),
        place="part", name="map",
    ),
    TourStep(
        say("The bank"),
        say(
            "Four units in two strings. They share the load unevenly, for want of a better take-off. A double click opens the bank from above."
        ),
        place="map", name="B1",
    ),
    TourStep(
        say("The first device"),
        say(
            "The main fuse stands too far from the bank's post, and interrupts far less than the current that is prospective there: the badge says that something is wrong."
        ),
        place="map", name="F1",
    ),
    TourStep(
        say("What is selected"),
        say("Here stands what is known of a thing, what its code permits, and its fields. Type into one and everything follows at once."),
        place="part", name="inspector",
    ),
    TourStep(
        say("What is wrong"),
        say("Dangers first, then defects, then advice. What has one cause stands in one line. A click leads to the place, and says why it matters and where the limit comes from."),
        place="part", name="findings",
    ),
    TourStep(
        say("A scenario"),
        say("Each says what runs, how full the bank is and how warm the air. Worst case shows each thing where it has it hardest."),
        place="part", name="scenarios",
    ),
    TourStep(
        say("Where the volts go"),
        say("The lens Drop: what is lost at each place, as a staircase below. The key 2 does the same."),
        place="map", name="PUMP", lens="drop", scenario="work",
    ),
    TourStep(
        say("What a short circuit drives"),
        say("The lens Short: the greatest and least current at each place, and what each device can interrupt."),
        place="map", name="F2", lens="short",
    ),
    TourStep(
        say("Which device answers"),
        say("The lens Guard: what limits the current in each conductor for good. Hatched is what nothing limits."),
        place="map", name="GEN", lens="guard",
    ),
    TourStep(
        say("Curves"),
        say("Devices of one path as bands of time over current, with what the cable withstands; below, a short circuit runs in time."),
        page="curves",
    ),
    TourStep(
        say("Needs"),
        say("Equipment by scenarios and hours: ampere-hours, autonomy, days ahead. From this list whole plans can be drafted: Ctrl+Shift+G."),
        page="needs",
    ),
    TourStep(
        say("Build"),
        say("Cables to cut, what to buy, studs with their torque, the board to scale, and the order in which to connect."),
        page="build",
    ),
    TourStep(
        say("Measure, and learn to"),
        say("What a meter should read from stud to stud. Train… hides a fault in a copy of the system, to be found with simulated meters."),
        page="log",
    ),
    TourStep(
        say("Yours"),
        say("Ctrl+N draws the core of a plan of your own from a few questions. F1 opens the longer tour, methods and codes. Every step can be undone: Ctrl+Z."),
        place="part", name="map",
    ),
)  # fmt: skip
