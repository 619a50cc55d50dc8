"""The server: requests in, problem+json out, live pictures over a WebSocket."""
