"""The Log page: what to measure, what was read, and what that says."""
