"""Arrays in, arrays out: resistance, heat, batteries, nodal solve. No plan, no files."""
