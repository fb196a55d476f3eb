"""Proposals: which device fits, and why the others do not."""
