"""Closed by default: only this machine's own pages get an answer, and pages get nothing from elsewhere.

A page from another site could otherwise reach a server on loopback, by name rebinding (hence the check of `Host`) or by
posting to it (hence `Origin` and `Sec-Fetch-Site`).
"""

from collections.abc import Iterable

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


class Gate:
    """Who may ask: only pages of this server's own address, or programs that are no page."""

    def __init__(self, hosts: tuple[str, ...]) -> None:
        self.hosts = hosts
        self.origins = {f"http://{host}" for host in hosts}

    def refuses(self, host: str, origin: str | None, site: str) -> tuple[int, str, str] | None:
        """Status, title and detail of a refusal, where there is one."""
        if host not in self.hosts:
            return 421, "Wrong host", "This server answers only to its own address."
        if origin is not None and origin not in self.origins:
            return 403, "Cross-site request refused", "The request came from another site."
        if site not in ("none", "same-origin"):
            return 403, "Cross-site request refused", "The request came from another site."
        return None

    def refuses_live(self, headers: Iterable[tuple[bytes, bytes]]) -> bool:
        """Whether a live connection is refused; one that names no origin is none of a page's."""
        found = {name.decode("latin1").lower(): value.decode("latin1") for name, value in headers}
        origin = found.get("origin")
        site = found.get("sec-fetch-site", "none")
        return origin is None or self.refuses(found.get("host", ""), origin, site) is not None


def register_security(app: Flask, gate: Gate) -> None:
    """Refuse foreign hosts and origins, limit bodies, and set the headers."""

    @app.before_request
    def _refuse() -> Response | None:
        found = gate.refuses(
            request.headers.get("Host", ""),
            request.headers.get("Origin"),
            request.headers.get("Sec-Fetch-Site", "none"),
        )
        if found is not None:
            return problem(*found)
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
