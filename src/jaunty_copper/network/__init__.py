"""A plan compiled to a circuit, its scenarios solved."""
