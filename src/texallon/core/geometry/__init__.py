"""Meshes, their attributes, and rays against them."""
