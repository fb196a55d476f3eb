"""A few hundred random gestures at each plan; `./run hands --random MINUTES` makes as many as one likes."""

import pytest

from .random_hands import PLANS, run

STEPS = 18


@pytest.mark.parametrize("plan", PLANS)
def test_random_hands_break_nothing(screen, tmp_path, plan):
    hands = run(screen, tmp_path, plan, seed=len(plan), steps=STEPS)
    assert len(hands.done) == STEPS
