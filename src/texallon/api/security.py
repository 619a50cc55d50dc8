"""Closed by default: only this server's own pages get an answer, and pages get nothing from elsewhere.

A page from another site could otherwise reach a server on loopback, by name rebinding (hence the check of `Host`) or by
posting to it (hence `Origin` and `Sec-Fetch-Site`). Behind a proxy, only what brings the proxy's secret gets an answer.
"""

import hmac
from collections.abc import Iterable, Mapping

from flask import Flask, Response, g, request

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


PROXY_SECRET, PROXY_USER, PROXY_CLIENT = "texallon-proxy-secret", "x-forwarded-user", "x-forwarded-for"
"""What a proxy adds: its secret, who has logged in there, and whose connection it is."""


class Gate:
    """Who may ask: only pages of this server's own address, or programs that are no page.

    Headers are given with their names in small letters.
    """

    def __init__(self, hosts: tuple[str, ...], origins: tuple[str, ...] = (), proxy_secret: str = "") -> None:
        self.hosts = hosts
        self.origins = {f"http://{host}" for host in hosts} | set(origins)
        self._secret = proxy_secret.encode()

    def refuses(self, headers: Mapping[str, str]) -> tuple[int, str, str] | None:
        """Status, title and detail of a refusal, where there is one."""
        if self._secret and not hmac.compare_digest(headers.get(PROXY_SECRET, "").encode(), self._secret):
            return 403, "Not through the proxy", "This server answers only to the proxy in front of it."
        origin, site = headers.get("origin"), headers.get("sec-fetch-site", "none")
        if headers.get("host", "") not in self.hosts:
            return 421, "Wrong host", "This server answers only to its own address."
        if origin is not None and origin not in self.origins:
            return 403, "Cross-site request refused", "The request came from another site."
        if site not in ("none", "same-origin"):
            return 403, "Cross-site request refused", "The request came from another site."
        return None

    def refuses_live(self, headers: Iterable[tuple[bytes, bytes]]) -> bool:
        """Whether a live connection is refused; one that names no origin is none of a page's."""
        found = plain_headers(headers)
        return found.get("origin") is None or self.refuses(found) is not None

    def user(self, headers: Mapping[str, str]) -> str | None:
        """Who has logged in at the proxy; None where there is no proxy, or it does not say."""
        return headers.get(PROXY_USER) or None if self._secret else None

    def client(self, address: str, headers: Iterable[tuple[bytes, bytes]]) -> str:
        """Whose connection it is: the address it comes from, or what the proxy says of that."""
        if not self._secret:
            return address
        return plain_headers(headers).get(PROXY_CLIENT, address).rpartition(",")[2].strip() or address


def plain_headers(headers: Iterable[tuple[bytes, bytes]]) -> dict[str, str]:
    """The headers of a connection as text, their names in small letters."""
    return {name.decode("latin1").lower(): value.decode("latin1") for name, value in headers}


def register_security(app: Flask, gate: Gate) -> None:
    """Refuse foreign hosts and origins, limit bodies, and set the headers."""

    @app.before_request
    def _refuse() -> Response | None:
        headers = {name.lower(): value for name, value in request.headers.items()}
        found = gate.refuses(headers)
        if found is not None:
            return problem(*found)
        g.user = gate.user(headers)
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
