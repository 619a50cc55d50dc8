"""Shell commands for many frames: `frames` by one process, `shot` by several workers, `farm` for their machines, `video` and `flicker` of what was made."""

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, Literal

import click

from texallon.cli_common import SOME_FAILED, Share, load_shot, plainly, size_of
from texallon.document_digest import document_digest
from texallon.progress_line import ProgressLine

if TYPE_CHECKING:
    from texallon.core.document import Shot
    from texallon.frame_files import RangeOrder

CORES = os.cpu_count() or 1


def range_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """The options of a command that renders a range of frames, read again by `range_order`."""
    for each in reversed((
        click.option("--frames", default="", help="Such as 1-48, 1,24,48 or 1-48/4; all of the shot unless given."),
        click.option("--size", default="", help="Width x height in pixels; the shot's resolution unless given."),
        click.option("--samples", type=click.IntRange(1, 65536), default=None, help="Most per pixel; the shot's unless given."),
        click.option("--noise", type=Share(), default=None, help="Leave parts whose relative error is smaller; 0 never."),
        click.option("--denoise", is_flag=True, help="Smooth the noise that is left."),
        click.option("--passes", is_flag=True, help="Write layers into each .exr too."),
        click.option("--format", "kind", type=click.Choice(["exr", "png", "both"]), default="exr", help="Scene-linear, or as shown."),
        click.option("--compression", type=click.Choice(["zip", "zips", "piz", "dwaa", "none"]), default="zip", help="Of each .exr."),
        click.option("--burn-in", is_flag=True, help="Write name, frame and digest into the lower edge of each .png."),
        click.option("--overwrite", is_flag=True, help="Write over files that were made from something else."),
        click.option("--quiet", is_flag=True, help="Report failed frames only."),
        click.option("--out", type=click.Path(path_type=Path, file_okay=False), required=True, help="A folder."),
    )):  # fmt: skip
        command = each(command)
    return command


def range_order(document: "Shot", threads: int, said: dict[str, Any]) -> "RangeOrder":
    """What the options of `range_options` ask for; raises `ValueError`."""
    from texallon.frame_files import Order, RangeOrder, frames_of

    if said["passes"] and said["kind"] == "png":
        raise ValueError("--passes: only an .exr file has room for them")
    wanted, sampling = frames_of(said["frames"], document), document.sampling
    picture = Order(
        size_of(said["size"], document), said["samples"] or sampling.samples, threads, wanted[0],
        sampling.noise if said["noise"] is None else said["noise"], denoise=said["denoise"], passes=said["passes"],
        compression=said["compression"], burn_in=said["burn_in"],
    )  # fmt: skip
    suffixes = {"exr": (".exr",), "png": (".png",), "both": (".exr", ".png")}[said["kind"]]
    return RangeOrder(wanted, said["out"], suffixes, picture, document_digest(document), said["overwrite"])  # type: ignore[arg-type]


@click.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.option("--threads", type=click.IntRange(1, 256), default=CORES, help="Default: one per core.")
@range_options
def frames(shot: Path, threads: int, quiet: bool, **said: Any) -> None:
    """Render frames of SHOT into numbered files, and go on where the same order was broken off.

    Ends with status 3 where some frames could not be made; the others are there.
    """

    def work() -> None:
        from texallon.formats.shot_files import ShotFiles
        from texallon.frame_range import FrameReport, render_range

        document = load_shot(shot)
        order = range_order(document, threads, said)
        started, number, rendered, total = time.monotonic(), 0, 0, len(order.frames)

        def report(frame_report: FrameReport) -> None:
            nonlocal number, rendered
            number += 1
            rendered += frame_report.done != "kept"
            if frame_report.done == "failed":
                click.echo(f"texallon: frame {frame_report.frame}: {frame_report.why}", err=True)
            elif not quiet:
                left = (time.monotonic() - started) / max(rendered, 1) * (total - number)
                click.echo(
                    f"{frame_report.path.name} {frame_report.done}, {number} of {total}, about {left:.0f} s left",
                    err=True,
                )

        found = render_range(document, ShotFiles(root=shot.resolve().parent), order, report)
        if any(each.done == "failed" for each in found):
            sys.exit(SOME_FAILED)

    plainly(work)


@click.command()
@click.argument("shot", type=str)
@click.option(
    "--workers",
    type=click.IntRange(1, 256),
    default=None,
    help="Processes that render; one for four cores unless given.",
)
@click.option(
    "--threads", type=click.IntRange(1, 256), default=None, help="Of each; the machine's cores shared out unless given."
)
@click.option(
    "--farm", "address", default="", help="Of a scheduler, tcp://HOST:PORT, in place of workers of this machine's own."
)
@click.option("--store", default="", help="A folder or URL that all machines of a farm reach; needed with --farm.")
@range_options
def shot(
    shot: str, workers: int | None, threads: int | None, address: str, store: str, quiet: bool, **said: Any
) -> None:
    """Render frames of SHOT by several workers at once into numbered files, and go on where the same order was broken off.

    SHOT is a document beside its geometry, or the name of a shot of the demo. A worker that ends costs what it was rendering, which is begun
    again. Ends with status 3 where some frames could not be made; the others are there.
    """

    def work() -> None:
        from texallon.farm.cluster import FarmSettings
        from texallon.farm.shot import HowFar, render_shot
        from texallon.formats.shot_files import ShotFiles

        if address and not store:
            raise ValueError("--farm: --store names the folder or URL that its machines read from")
        path = found_shot(shot)
        document = load_shot(path)
        given = {"TEXALLON_FARM": address}
        given |= {"TEXALLON_FARM_WORKERS": str(workers)} if workers else {}
        given |= {"TEXALLON_FARM_THREADS": str(threads)} if threads else {}
        settings = FarmSettings.from_environment({**os.environ, **given})
        order = range_order(document, 0, said)
        line = ProgressLine(quiet)

        def report(how: HowFar) -> None:
            filled = round(30 * (how.done + how.running) / how.total)
            left = "" if how.left is None else f", about {how.left:.0f} s left"
            words = f"{how.done} of {how.total} frames" + (f", {how.failed} failed" if how.failed else "")
            bar = "█" * filled + "░" * (30 - filled)
            line.say(f"{bar} {words}{left}", how.done + how.failed == how.total)

        entries = render_shot(document, ShotFiles(root=path.resolve().parent), order, settings, report, store)
        failed = [each for each in entries if each.state == "failed"]
        for entry in failed:
            click.echo(f"texallon: frame {entry.wanted.task.picture.frame}: {entry.why}", err=True)
        if failed:
            sys.exit(SOME_FAILED)

    plainly(work)


def found_shot(name: str) -> Path:
    """The document that a name stands for: a file's path, with `.json` or without, else a shot of the demo.

    Raises `FileNotFoundError`.
    """
    for path in (Path(name), Path(f"{name}.json")):
        if path.is_file():
            return path
    if name.isalnum() and name.isupper():
        path = demo_folder() / f"{name}.json"
        if path.is_file():
            return path
    raise FileNotFoundError(f"there is no document {name}, and no shot of the demo has that name (GH010 to GH280 are)")


def demo_folder() -> Path:
    """The demo's documents and files, made once for each state of the code."""
    from texallon.code_digest import code_digest
    from texallon.demo.write import write_demo
    from texallon.farm.kept import kept_folder

    made = kept_folder() / "demo" / code_digest()[:16]
    if not made.is_dir():
        click.echo("  making the demo's files, once", err=True)
        made.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory(dir=made.parent) as folder:
            write_demo(Path(folder) / "demo")
            try:
                (Path(folder) / "demo").rename(made)
            except OSError:  # another has just made it
                pass
    return made


@click.command()
@click.argument("part", type=click.Choice(["scheduler", "worker"]))
@click.argument("address", default="")
@click.option("--port", type=click.IntRange(1, 65535), default=8786, show_default=True, help="Of a scheduler.")
@click.option(
    "--host",
    default="127.0.0.1",
    show_default=True,
    help="Where a scheduler listens; others reach it only where you say so.",
)
@click.option(
    "--threads",
    type=click.IntRange(1, 256),
    default=CORES,
    help="Of a worker's frame; one per core unless given.",
)
@click.option("--ca", default="", help="TLS: the authority's certificate.")
@click.option("--certificate", default="", help="TLS: this machine's certificate.")
@click.option("--key", default="", help="TLS: this machine's key.")
def farm(
    part: Literal["scheduler", "worker"],
    address: str,
    port: int,
    host: str,
    threads: int,
    ca: str,
    certificate: str,
    key: str,
) -> None:
    """Start a part of a farm by hand: `texallon farm scheduler` on one machine, `texallon farm worker tcp://HOST:8786` on each.

    Whoever reaches a scheduler can run code on its workers: keep it within a network that you trust, or use TLS.
    """

    def work() -> None:
        from texallon.farm.by_hand import run_scheduler, run_worker
        from texallon.farm.tls import Tls

        if part == "worker" and not address.startswith(("tcp://", "tls://")):
            raise ValueError("a worker needs the scheduler's address, such as tcp://farm:8786")
        if part == "scheduler" and address:
            raise ValueError("a scheduler has --host and --port, no address")
        tls = Tls(ca, certificate, key)
        if wrong := tls.problem():
            raise ValueError(f"--ca, --certificate, --key: {wrong}")
        if part == "scheduler":
            run_scheduler(host, port, tls)
        else:
            run_worker(address, threads, tls)

    plainly(work)


@click.command()
@click.argument("folder", type=click.Path(path_type=Path, file_okay=False))
@click.option("--name", default="", help="Of the frames, where the folder holds several.")
@click.option("--rate", type=click.FloatRange(0.1, 1000), default=24.0, help="Frames a second.")
@click.option("--burn-in", is_flag=True, help="Write name, frame and the document's digest into the lower edge.")
@click.option("--quiet", is_flag=True, help="Show no progress.")
@click.option("--out", type=click.Path(path_type=Path), required=True, help="An .mp4 file.")
def video(folder: Path, name: str, rate: float, burn_in: bool, quiet: bool, out: Path) -> None:
    """Write the numbered frames in FOLDER as a video (H.264), light as the camera exposes it."""

    def work() -> None:
        from texallon.video_of_frames import frames_in, make_video

        if out.suffix.lower() != ".mp4":
            raise ValueError(f"--out {out}: a video is written as .mp4")
        if not out.resolve().parent.is_dir():
            raise ValueError(f"--out {out}: there is no folder {out.parent}")
        found = frames_in(folder, name)
        line = ProgressLine(quiet)

        def report(done: int) -> None:
            line.say(f"{done} of {len(found.files)} frames", done == len(found.files))

        make_video(found, out, rate, burn_in, report=report)

    plainly(work)


@click.command()
@click.argument("folder", type=click.Path(path_type=Path, file_okay=False))
@click.option("--name", default="", help="Of the frames, where the folder holds several.")
@click.option(
    "--noticed", type=click.FloatRange(0.001, 10), default=None, help="Relative change that counts; 0.08 unless given."
)
def flicker(folder: Path, name: str, noticed: float | None) -> None:
    """Look in FOLDER for what boils, pops or jumps from frame to frame: by the noise-free passes of .exr files (written with --passes), else by
    the pictures.

    Status 0 where nothing is found, 3 where something is.
    """

    def work() -> None:
        from texallon.core.render.film.flicker import NOTICED, find_flicker
        from texallon.video_of_frames import frames_in, noise_free

        files = frames_in(folder, name, first="exr")
        read = [noise_free(path) for path in files.files.values()]
        if len(read) < 3:
            raise ValueError(f"{folder}: flicker shows in three frames or more; there are {len(read)}")
        shapes = {each.values.shape for each in read}
        if len(shapes) > 1:
            raise ValueError(f"{folder}: the frames differ in size or layers")
        velocities = [each.velocity for each in read]
        found = find_flicker(
            list(files.files), [each.values for each in read], velocities, NOTICED if noticed is None else noticed
        )
        for each in found:
            when = f"frame {each.first}" if each.first == each.last else f"frames {each.first} to {each.last}"
            left, top, right, bottom = (round(100 * side) for side in each.place)
            click.echo(
                f"{each.kind} at {when}, {left}…{right} % across and {top}…{bottom} % down, {each.strength:.1f} × what is noticed"
            )
        if found:
            sys.exit(SOME_FAILED)
        click.echo("nothing boils, pops or jumps")

    plainly(work)
