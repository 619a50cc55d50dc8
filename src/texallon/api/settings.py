"""A server's settings: each an environment variable, read and checked once."""

import os
from collections.abc import Mapping
from dataclasses import dataclass
from ipaddress import ip_address
from pathlib import Path
from urllib.parse import urlsplit

from texallon.farm.cluster import FarmError, FarmSettings
from texallon.store.quotas import NO_QUOTAS, Quotas
from texallon.store.thinning import DRAFT_DAYS

WEB = Path(__file__).resolve().parents[3] / "web" / "dist"

LOOPBACK = ("127.0.0.1", "localhost", "[::1]")
SHORTEST_SECRET = 16
"""Characters of a proxy's secret, at least."""

CORES_EACH = 2
"""Cores for each render process, where no setting says how many there are."""


THIS_MACHINE = FarmSettings()
"""Frames are rendered by workers of this machine."""


class SettingsError(ValueError):
    """A setting that can't be used: its name, what is wrong, and what would be right."""


@dataclass(frozen=True)
class Settings:
    """`data` is the folder of files and pictures, `database` a PostgreSQL URL, `address` and `port` where it listens.

    `hosts` are the names it answers to and `origins` those of pages that may ask; `base_path` is what stands before its own paths behind a
    proxy (empty or `/studio`); `proxy_secret` is what every request must bring where it is set. `render_processes` and `render_memory` (bytes
    in all, 0 for nine tenths of the machine's) bound the render processes. `draft_days` is how long every draft is kept;
    `portraits` says whether small pictures of shots are made in the background. `farm` says by which workers frames are rendered, and
    `render_store` where those of other machines find what they need.
    """

    data: Path
    database: str
    port: int
    hosts: tuple[str, ...]
    origins: tuple[str, ...] = ()
    address: str = "127.0.0.1"
    base_path: str = ""
    proxy_secret: str = ""
    render_processes: int = 1
    render_memory: int = 0
    quotas: Quotas = NO_QUOTAS
    draft_days: int = DRAFT_DAYS
    portraits: bool = True
    farm: FarmSettings = THIS_MACHINE
    render_store: str = ""
    web: Path = WEB

    @staticmethod
    def from_environment(given: Mapping[str, str] = os.environ) -> "Settings":
        """The settings that the environment gives; raises `SettingsError`."""
        port = _number(given, "TEXALLON_PORT", 8460, 1, 65535)
        address = given.get("TEXALLON_ADDRESS") or "127.0.0.1"
        secret = given.get("TEXALLON_PROXY_SECRET", "")
        _check_address(address, secret)
        base = _base(given.get("TEXALLON_BASE_URL", ""))
        hosts = (
            [f"{name}:{port}" for name in LOOPBACK] + ([base.netloc] if base else []) + _list(given, "TEXALLON_HOSTS")
        )
        return Settings(
            data=Path(given["TEXALLON_DATA"]),
            database=given["TEXALLON_DATABASE"],
            port=port,
            hosts=tuple(hosts),
            origins=tuple(([base.origin] if base else []) + _origins(given)),
            address=address,
            base_path=base.path if base else "",
            proxy_secret=secret,
            render_processes=_number(given, "TEXALLON_RENDER_PROCESSES", usual_processes(), 1, 64),
            render_memory=_number(given, "TEXALLON_RENDER_MEMORY", 0, 0, 1 << 50),
            draft_days=_number(given, "TEXALLON_DRAFT_DAYS", DRAFT_DAYS, 0, 36_500),
            portraits=_number(given, "TEXALLON_PORTRAITS", 1, 0, 1) == 1,
            farm=_farm(given),
            render_store=given.get("TEXALLON_RENDER_STORE", "").strip(),
            quotas=Quotas(
                files=_number(given, "TEXALLON_QUOTA_FILES", 0, 0, 1 << 50),
                files_of_one=_number(given, "TEXALLON_QUOTA_FILES_OF_ONE", 0, 0, 1 << 50),
                shots=_number(given, "TEXALLON_QUOTA_SHOTS", 0, 0, 1 << 31),
                windows_of_one=_number(given, "TEXALLON_QUOTA_WINDOWS_OF_ONE", 2_000, 1, 100_000),
            ),
        )


def _farm(given: Mapping[str, str]) -> FarmSettings:
    try:
        found = FarmSettings.from_environment(given)
    except FarmError as error:
        raise SettingsError(str(error)) from error
    if found.address and not given.get("TEXALLON_RENDER_STORE", "").strip():
        raise SettingsError(
            "TEXALLON_FARM is set, so TEXALLON_RENDER_STORE must name a folder or URL that its machines reach"
        )
    return found


def usual_processes() -> int:
    """How many render processes there are where nothing is said: one for two cores each, four at most."""
    return max(1, min(4, (os.cpu_count() or 1) // CORES_EACH))


@dataclass(frozen=True)
class _Base:
    origin: str
    netloc: str
    path: str


def _base(text: str) -> _Base | None:
    if not text:
        return None
    parts = urlsplit(text)
    if parts.scheme not in ("http", "https") or not parts.hostname or parts.query or parts.fragment or parts.username:
        raise SettingsError(f"TEXALLON_BASE_URL is “{text}”; it is written https://HOST or https://HOST/PATH")
    return _Base(f"{parts.scheme}://{parts.netloc}", parts.netloc, parts.path.rstrip("/"))


def _check_address(address: str, secret: str) -> None:
    """Refuse an address that others can reach without anything that keeps them out."""
    try:
        inside = ip_address(address).is_loopback
    except ValueError as error:
        raise SettingsError(
            f"TEXALLON_ADDRESS is “{address}”; it is a number such as 127.0.0.1, 0.0.0.0 or ::"
        ) from error
    if secret and len(secret) < SHORTEST_SECRET:
        raise SettingsError(f"TEXALLON_PROXY_SECRET has {len(secret)} characters; it needs {SHORTEST_SECRET} or more")
    if secret and not (secret.isascii() and secret.isprintable() and secret == secret.strip()):
        raise SettingsError(
            "TEXALLON_PROXY_SECRET has characters that a header can't carry; ASCII letters and digits are safe"
        )
    if not inside and not secret:
        raise SettingsError(
            f"TEXALLON_ADDRESS {address} can be reached by others, and nobody would be asked who they are: put a proxy with a login in "
            "front, give both the same TEXALLON_PROXY_SECRET, or stay on 127.0.0.1"
        )


def _origins(given: Mapping[str, str]) -> list[str]:
    found = _list(given, "TEXALLON_ORIGINS")
    for origin in found:
        parts = urlsplit(origin)
        if parts.scheme not in ("http", "https") or not parts.netloc or parts.path or parts.query:
            raise SettingsError(f"TEXALLON_ORIGINS has “{origin}”; an origin is written https://HOST, without a path")
    return found


def _list(given: Mapping[str, str], name: str) -> list[str]:
    return [each.strip() for each in given.get(name, "").split(",") if each.strip()]


def _number(given: Mapping[str, str], name: str, usual: int, low: int, high: int) -> int:
    text = given.get(name, "").strip()
    if not text:
        return usual
    if not (text.isascii() and text.isdigit()) or not low <= int(text[:20]) <= high:
        raise SettingsError(f"{name} is “{text[:40]}”; it is a whole number from {low} to {high}")
    return int(text)
