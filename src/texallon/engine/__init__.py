"""The render process: pictures and measurements for the windows that are open, apart from the server."""
