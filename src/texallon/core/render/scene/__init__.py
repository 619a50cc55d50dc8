"""A shot's geometry ready for rays, and what a hit needs to become a surface point."""
