"""The plan: models, edits, reading and writing."""
