"""Volumes: what looks fill bodies with, stored in bricks as rays need it, and looked up by kernels."""
