"""The heart: pure computation, with no web server, no database and no interface."""
