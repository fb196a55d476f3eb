"""The Tables page: everything a plan holds, to be sorted, filtered and typed through."""
