"""A scheduler or a worker of a farm, run until asked to end: what `texallon farm` does."""

import asyncio
import logging
import signal

import click
import dask
from distributed import Nanny, Scheduler

from texallon.farm.cluster import FarmError
from texallon.farm.own_cluster import NO_PAGES, READY, SETTINGS
from texallon.farm.tls import Tls


def run_scheduler(host: str, port: int, tls: Tls) -> None:
    """Run a scheduler; prints its address once it listens.

    Parameters
    ----------
    host : str
        Where it listens.
    port : int
        On which port.
    tls : Tls
        Files, or none.

    Raises
    ------
    FarmError
        Where it can't listen there.
    """

    async def run() -> None:
        logging.getLogger("distributed").setLevel(logging.CRITICAL)
        protocol = "tls://" if any(tls) else "tcp://"
        with dask.config.set(SETTINGS):
            try:
                scheduler = await Scheduler(
                    host=host,
                    port=port,
                    protocol=protocol,
                    **NO_PAGES,
                    security=tls.security("scheduler"),
                )
            except (OSError, ValueError) as error:
                raise FarmError(f"a scheduler can't listen at {host}:{port}: {error}") from error
            async with scheduler:
                click.echo(scheduler.address)
                await _end_requested().wait()

    asyncio.run(run())


def run_worker(address: str, threads: int, tls: Tls) -> None:
    """Run a worker that begins anew where it ends; waits for a scheduler that is not there, or not yet again.

    Parameters
    ----------
    address : str
        Of the scheduler.
    threads : int
        For each frame.
    tls : Tls
        Files, or none.
    """

    async def run() -> None:
        over = _end_requested()
        while not over.is_set():
            ended = asyncio.create_task(over.wait())
            worked = asyncio.create_task(_work(address, threads, tls))
            await asyncio.wait({ended, worked}, return_when=asyncio.FIRST_COMPLETED)
            if over.is_set():
                worked.cancel()
            else:
                click.echo(f"{address} has ended or does not answer: trying again", err=True)
                await asyncio.wait({ended}, timeout=AGAIN_AFTER)
            ended.cancel()
            await asyncio.gather(ended, worked, return_exceptions=True)

    logging.getLogger("distributed").setLevel(logging.CRITICAL)
    with dask.config.set(SETTINGS):
        asyncio.run(run())


AGAIN_AFTER = 2.0
"""Seconds before a scheduler that has ended is looked for again."""


async def _work(address: str, threads: int, tls: Tls) -> None:
    try:
        async with Nanny(
            address, nthreads=1, preload=READY, security=tls.security("worker"),
            death_timeout=20, silence_logs=50, env={"TEXALLON_WORKER_THREADS": str(threads)},
        ) as nanny:  # fmt: skip
            click.echo(f"{nanny.worker_address} works for {address}")
            await nanny.finished()
    except Exception as error:  # whatever it is, the next try may do better
        said = error.__cause__ or error
        click.echo(f"no worker: {type(said).__name__}: {said}"[:400], err=True)


def _end_requested() -> asyncio.Event:
    """Set when this process is asked to end."""
    over, loop = asyncio.Event(), asyncio.get_running_loop()
    for number in (signal.SIGTERM, signal.SIGINT):
        loop.add_signal_handler(number, over.set)
    return over
