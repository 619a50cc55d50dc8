"""The ops: one file each, with its parameters, its kernel and its source."""
