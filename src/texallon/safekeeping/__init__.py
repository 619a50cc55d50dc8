"""Keeping a whole data folder safe: backups, bringing them back, and looking whether all is there."""
