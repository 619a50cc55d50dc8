"""Texallon: procedural render materials for animation shots, built from readable rules."""
