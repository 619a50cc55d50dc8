"""A campaign of hostile use against a server of its own: `python -m bench.campaign --help`."""
