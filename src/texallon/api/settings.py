"""A server's settings."""

import os
from dataclasses import dataclass
from pathlib import Path

WEB = Path(__file__).resolve().parents[3] / "web" / "dist"


@dataclass(frozen=True)
class Settings:
    """`data` is the folder of files and pictures, `database` a PostgreSQL URL, `hosts` the names it answers to."""

    data: Path
    database: str
    port: int
    hosts: tuple[str, ...]
    web: Path = WEB

    @staticmethod
    def from_environment() -> "Settings":
        port = int(os.environ["TEXALLON_PORT"])
        hosts = tuple(f"{name}:{port}" for name in ("127.0.0.1", "localhost", "[::1]"))
        return Settings(Path(os.environ["TEXALLON_DATA"]), os.environ["TEXALLON_DATABASE"], port, hosts)
