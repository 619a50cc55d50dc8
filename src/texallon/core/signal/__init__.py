"""Recipes into plans, and plans into values over a batch of points."""
