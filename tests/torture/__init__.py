"""Hostile, damaged and unlucky input, by a seed: what must hold whatever comes."""
