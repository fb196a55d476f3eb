"""Documents of a plan as PDF."""
