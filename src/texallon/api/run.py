"""The web server's process: `python -m texallon.api.run`, with settings from the environment."""

import asyncio
import logging
import logging.handlers
import os
import resource
from pathlib import Path
from typing import Any

import structlog
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

from texallon.api.app import create_front
from texallon.api.settings import Settings, SettingsError

HEADER_TIME = 15.0
"""Seconds that the head of a request may take to come, on a new connection or on one that is used again."""

IDLE_TIME = 30
"""Seconds that a connection may be kept without a request."""

MOST_CONNECTIONS = 4_000
LARGEST_HEAD = 65_536
LARGEST_MESSAGE = 2_000_000
LOG_SIZE, LOGS = 10_000_000, 5


class TimedProtocol(H11Protocol):
    """Ends connections whose request does not come."""

    _timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        if len(self.connections) > MOST_CONNECTIONS:
            transport.close()
            return
        self._await_head()

    def data_received(self, data: bytes) -> None:
        if self._timer is None and (self.cycle is None or self.cycle.response_complete):
            self._await_head()
        scope = self.scope
        super().data_received(data)
        if self.scope is not scope:
            self._head_is_here()

    def connection_lost(self, exc: Exception | None) -> None:
        self._head_is_here()
        super().connection_lost(exc)

    def _await_head(self) -> None:
        self._timer = self.loop.call_later(HEADER_TIME, self.transport.abort)

    def _head_is_here(self) -> None:
        if self._timer is not None:
            self._timer.cancel()
            self._timer = None


def set_up_logs(folder: Path) -> None:
    """Requests as JSON lines in files that are rotated; what goes wrong also where the server was started."""
    folder.mkdir(parents=True, exist_ok=True)
    into = logging.handlers.RotatingFileHandler(folder / "server.log", maxBytes=LOG_SIZE, backupCount=LOGS)
    shared: list[Any] = [
        structlog.stdlib.add_log_level, structlog.stdlib.add_logger_name, structlog.stdlib.ExtraAdder(),
        structlog.processors.TimeStamper(fmt="iso", utc=True), structlog.processors.format_exc_info,
    ]  # fmt: skip
    into.setFormatter(
        structlog.stdlib.ProcessorFormatter(
            processors=[
                structlog.stdlib.ProcessorFormatter.remove_processors_meta,
                structlog.processors.JSONRenderer(),
            ],
            foreign_pre_chain=shared,
        )
    )
    shown = logging.StreamHandler()
    shown.setLevel(logging.WARNING)
    shown.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    logging.basicConfig(level=logging.INFO, handlers=[into, shown], force=True)


def main() -> None:
    """Serve until asked to stop."""
    try:
        settings = Settings.from_environment()
    except SettingsError as error:
        raise SystemExit(f"texallon: {error}") from error
    set_up_logs(settings.data / "log")
    _, most = resource.getrlimit(resource.RLIMIT_NOFILE)
    resource.setrlimit(resource.RLIMIT_NOFILE, (most, most))
    config = uvicorn.Config(
        create_front(), host=settings.address, port=settings.port, http=TimedProtocol, ws="wsproto", lifespan="on",
        log_config=None, access_log=False, server_header=False, backlog=2048, timeout_keep_alive=IDLE_TIME,
        timeout_graceful_shutdown=3, h11_max_incomplete_event_size=LARGEST_HEAD, ws_max_size=LARGEST_MESSAGE,
        ws_per_message_deflate=False, proxy_headers=False,
    )  # fmt: skip
    logging.getLogger("uvicorn.error").setLevel(logging.WARNING)
    uvicorn.Server(config).run()
    os._exit(0)  # threads that still wait for somebody keep nothing up


if __name__ == "__main__":
    main()
