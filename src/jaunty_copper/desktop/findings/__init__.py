"""The list of findings."""
