"""Frames rendered by workers: what a task is, where workers find what it needs, and who keeps them busy."""
