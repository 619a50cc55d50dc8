"""Looks at work: from surface points to the rows of the material array."""
