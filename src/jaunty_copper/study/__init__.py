"""Everything computed from one plan: wiring, operating states, guarding."""
