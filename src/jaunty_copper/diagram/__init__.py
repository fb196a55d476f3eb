"""Where everything stands on the plus-to-minus map, in abstract units."""
