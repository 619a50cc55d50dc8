"""Geometry of stand-in simulations, a file for each."""
