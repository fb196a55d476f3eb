"""Sizes of what a diagram shows, in its own units: a pixel at scale one."""

PITCH = 49.0
"""Height of a row."""
BAND_GAP = 50.0
"""Between voltage systems."""
TOP = 46.0
EDGE = 16.0
ITEM = (44.0, 24.0)
"""Width and height of an inline item."""
ITEM_PITCH = 66.0
TRAY = 110.0, 52.0
"""From one loose thing to the next, across and down."""
LABEL = 16.0
"""Height of what is written below an item."""
ITEM_STEP = 10.0
"""By how much an item goes up or down to where nothing stands."""
FIRST_ITEM = 16.0
"""From a hub's edge to the first item beside it."""
EQUIPMENT = (152.0, 40.0)
UNIT = (74.0, 40.0)
UNIT_PITCH = 49.0
BLOCK = 92.0
"""Height of a bank of several units, with its air."""
SLOT = 30.0
"""Between conductors that leave one block."""
BAR_W = 14.0
STUD_GAP = 13.0
"""Least distance between studs of one bar."""
LANE = 34.0
"""Between columns of hubs that stand beside each other."""
GROUP_GAP = 30.0
"""Between the rows of one hub and those of the next."""
TITLE_ROOM = 42.0
"""Above the highest stud, for the bar's end and its name."""
TRUNK_LEAST = 64.0
ROW_LEAST = 92.0
"""Room for the label of a row's conductor."""
RETURN_LEAST = 60.0
