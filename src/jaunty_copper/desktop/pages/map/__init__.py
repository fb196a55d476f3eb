"""The plus-to-minus map and the strip below it."""
