"""Codes: limits and checks of each school, and the findings they give."""
