"""Looking after what was brought up: the web server and the private database."""

import subprocess
import time

import click

from texallon.store.postgres import DatabaseError, PrivatePostgres

PAUSE = 0.5
"""Seconds between looks."""

LONGEST_PAUSE = 30.0
"""Seconds between tries to start a database that will not start."""


def look_after(server: subprocess.Popen[bytes], database: PrivatePostgres | None) -> int:
    """Wait for the web server to end, gives its exit status; a database that dies meanwhile is started again."""
    pause, again = PAUSE, 0.0
    while True:
        try:
            return server.wait(timeout=PAUSE)
        except subprocess.TimeoutExpired:
            pass
        if database is None or database.running() or time.monotonic() < again:
            continue
        try:
            database.revive()
            click.echo("  the database had stopped and was started again")
            pause = PAUSE
        except DatabaseError as error:
            # Processes of the old server may still hold its memory for a moment.
            pause = min(2 * pause, LONGEST_PAUSE)
            again = time.monotonic() + pause
            if pause > 4 * PAUSE:
                click.echo(f"  the database has stopped and can't be started again yet: {str(error)[:300]}", err=True)
