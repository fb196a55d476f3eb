"""The pages, one folder each."""
