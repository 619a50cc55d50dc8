"""The short form of the campaign of hostile use (`bench.campaign`)."""

import subprocess
import sys

import pytest

from tests.conftest import free_port


@pytest.mark.slow
def test_nothing_breaks_and_nothing_is_lost_in_a_short_campaign() -> None:
    command = [sys.executable, "-m", "bench.campaign", "--short", "--port", str(free_port())]
    done = subprocess.run(command, capture_output=True, text=True, timeout=900, check=False)
    assert done.returncode == 0, done.stdout[-3000:] + done.stderr[-3000:]
    assert done.stdout.rstrip().endswith("nothing broke and nothing is lost")
    assert "picture for a window that means well" in done.stdout
