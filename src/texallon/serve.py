"""Bringing everything up: database, demo, kernels, render process and web server."""

import hashlib
import os
import signal
import socket
import subprocess
import sys
from contextlib import closing
from pathlib import Path

import click
import llvmlite.binding as llvm
import numba

import texallon.core
from texallon.load_demo import load_demo
from texallon.store.database import connect, migrate
from texallon.store.files import FileStore
from texallon.store.postgres import DatabaseError, PrivatePostgres
from texallon.store.shots import ShotStore


def prepare(data: Path, database: str, demo: bool) -> tuple[str, PrivatePostgres | None]:
    """The database's URL with tables and demo in place, and the private server if there is one."""
    data.mkdir(parents=True, exist_ok=True)
    private = None
    if not database:
        private = PrivatePostgres(data / "postgres")
        database = private.start()
    engine = connect(database)
    migrate(engine)
    if demo:
        load_demo(ShotStore(engine), FileStore(data / "files"))
    engine.dispose()
    return database, private


def _as_interrupt(number: int, frame: object) -> None:
    raise KeyboardInterrupt


def kernels_digest() -> str:
    """Changes whenever compiled kernels may no longer fit: with the core's sources, the compiler and the processor."""
    digest = hashlib.sha256(f"{numba.__version__} {llvm.get_host_cpu_name()}".encode())
    for path in sorted(Path(texallon.core.__path__[0]).rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()


def port_is_free(port: int) -> bool:
    with closing(socket.socket()) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind(("127.0.0.1", port))
        except OSError:
            return False
    return True


@click.command(context_settings={"help_option_names": ["-h", "--help"]})
@click.option("--port", type=click.IntRange(1, 65535), default=8460, show_default=True)
@click.option("--data", type=click.Path(path_type=Path), default=Path(".data"), show_default=True, help="A folder.")
@click.option("--database", default="", help="URL of an existing PostgreSQL database, in place of a private one.")
@click.option("--no-demo", is_flag=True, help="Do not load the demo.")
@click.option("--setup-only", is_flag=True, help="Prepare everything, then stop.")
def main(port: int, data: Path, database: str, no_demo: bool, setup_only: bool) -> None:
    """Serve Texallon on loopback."""
    from texallon.warm_up import warm_up

    data = data.resolve()
    if not setup_only and not port_is_free(port):
        raise SystemExit(f"texallon: port {port} is in use; choose another with --port")

    def tell(done: int, total: int, what: str) -> None:
        click.echo(f"\r  compiling kernels: {done} of {total} ({what})".ljust(60), nl=done == total)

    stamp = data / "kernels"
    if not (stamp.is_file() and stamp.read_text() == kernels_digest()):
        warm_up(tell)
        data.mkdir(parents=True, exist_ok=True)
        stamp.write_text(kernels_digest())
    click.echo("  bringing up the database")
    try:
        url, private = prepare(data, database, not no_demo)
    except DatabaseError as error:
        raise SystemExit(f"texallon: {error}") from error
    if setup_only:
        if private is not None:
            private.stop()
        click.echo("  everything is ready")
        return
    environment = {**os.environ, "TEXALLON_DATA": str(data), "TEXALLON_DATABASE": url, "TEXALLON_PORT": str(port)}
    click.echo(f"\n  Texallon is at http://127.0.0.1:{port}   (stop with Ctrl-C)\n")
    command = [
        sys.executable, "-m", "gunicorn", "-w", "1", "-k", "gthread", "--threads", "64", "--timeout", "0",
        "--graceful-timeout", "3", "-b", f"127.0.0.1:{port}", "--log-level", "warning", "texallon.api.app:create_app()",
    ]  # fmt: skip
    sys.stdout.flush()
    signal.signal(signal.SIGTERM, _as_interrupt)
    server = subprocess.Popen(command, env=environment)
    try:
        code = server.wait()
    except KeyboardInterrupt:
        server.terminate()
        code = server.wait()
    finally:
        if private is not None:
            private.stop()
    raise SystemExit(0 if code in (0, -15) else code)


if __name__ == "__main__":
    main()
