"""Closed by default: only this machine's own pages get an answer, and pages get nothing from elsewhere.

A page from another site could otherwise reach a server on loopback, by name rebinding (hence the check of `Host`) or by
posting to it (hence `Origin` and `Sec-Fetch-Site`).
"""

from flask import Flask, Response, request

from texallon.api.problems import problem

POLICY = "; ".join(
    [
        "default-src 'none'",
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "font-src 'self'",
        "connect-src 'self'",
        "base-uri 'none'",
        "form-action 'none'",
        "frame-ancestors 'none'",
    ]
)
"""Inline styles are set by Carbon's components; scripts only ever come from here."""

SMALL_BODY = 4_000_000


def register_security(app: Flask, hosts: tuple[str, ...]) -> None:
    """Refuse foreign hosts and origins, limit bodies, and set the headers."""
    origins = {f"http://{host}" for host in hosts}

    @app.before_request
    def _refuse() -> Response | None:
        if request.headers.get("Host", "") not in hosts:
            return problem(421, "Wrong host", "This server answers only to its own address.")
        origin = request.headers.get("Origin")
        if origin is not None and origin not in origins:
            return problem(403, "Cross-site request refused", "The request came from another site.")
        if request.headers.get("Sec-Fetch-Site", "none") not in ("none", "same-origin"):
            return problem(403, "Cross-site request refused", "The request came from another site.")
        upgrade = request.headers.get("Upgrade", "").lower() == "websocket"
        if upgrade and origin is None:
            return problem(403, "Cross-site request refused", "A live connection names its origin.")
        if request.endpoint is None or "upload" not in request.endpoint:
            request.max_content_length = SMALL_BODY
        return None

    @app.after_request
    def _headers(response: Response) -> Response:
        response.headers["Content-Security-Policy"] = POLICY
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        response.headers["Cross-Origin-Resource-Policy"] = "same-origin"
        response.headers["Cross-Origin-Opener-Policy"] = "same-origin"
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response
