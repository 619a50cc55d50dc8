"""Samples added up into pictures, and what is done to pictures: noise taken off, bloom, display."""
