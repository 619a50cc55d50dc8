"""How far a shell command is: a line that is written over on a terminal, and one now and then in a file that keeps them all."""

import sys
import time

import click

ON_TERMINAL, IN_FILE = 0.2, 30.0
"""Seconds between two words."""

WIDE = 90
"""Characters that are written over."""


class ProgressLine:
    """Says on standard error how far something is.

    Parameters
    ----------
    quiet : bool
        Whether it says nothing.
    """

    def __init__(self, quiet: bool = False) -> None:
        self._quiet = quiet
        # A file hears nothing of what is done at once.
        self._last = 0.0 if sys.stderr.isatty() else time.monotonic()

    def say(self, text: str, over: bool) -> None:
        """Say it, unless something was said just now.

        Parameters
        ----------
        text : str
            A line.
        over : bool
            Whether it is the last: that is always said.
        """
        on_terminal = sys.stderr.isatty()
        now = time.monotonic()
        if self._quiet or (not over and now - self._last < (ON_TERMINAL if on_terminal else IN_FILE)):
            return
        self._last = now
        if on_terminal:
            click.echo("\r" + text.ljust(WIDE) + ("\n" if over else ""), err=True, nl=False)
        else:
            click.echo(text, err=True)
