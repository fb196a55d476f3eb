"""Simulated meters that ship with the program, and the copper that they measure."""
