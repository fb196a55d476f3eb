"""The Needs page: what must run and when, and what that asks."""
