"""The page itself: built files, served from here and nowhere else."""

from flask import Flask, Response, send_from_directory

from texallon.api.problems import problem
from texallon.api.settings import Settings


def register_page(app: Flask, settings: Settings) -> None:
    """`/` and the page's own files; those with a hash in their name may be kept for ever."""

    @app.route("/")
    def page() -> Response:
        if not (settings.web / "index.html").is_file():
            return problem(503, "The page is not built", "Run ./start, which builds it.")
        response = send_from_directory(settings.web, "index.html")
        response.headers["Cache-Control"] = "no-cache"
        return response

    @app.route("/assets/<path:name>")
    def asset(name: str) -> Response:
        return send_from_directory(settings.web / "assets", name, max_age=31_536_000)

    @app.route("/favicon.svg")
    def icon() -> Response:
        return send_from_directory(settings.web, "favicon.svg", max_age=86_400)
