"""What a window shows, one task a file: each knows what it needs, and whether it has anything left to do."""
