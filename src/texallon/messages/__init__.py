"""Messages between page, server and render process: models that are validated at both ends.

The page's types for the live connection are generated from them (`api/describe.py`), as those of the REST routes are.
"""
