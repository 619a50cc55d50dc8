"""The shell command: the same work without a browser, a server or a database."""

import json
import os
import sys
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, Literal

import click
import numpy as np

from texallon.cli_common import FRAME, Share, fail, load_shot, plainly, size_of
from texallon.cli_frames import farm, flicker, frames, shot, video
from texallon.document_digest import document_digest
from texallon.progress_line import ProgressLine


class OneLine(click.Group):
    """Says what is wrong with a command in one line, as with everything else, and ends with status 1."""

    def main(self, *arguments: Any, **named: Any) -> Any:
        try:
            return super().main(*arguments, **{**named, "standalone_mode": False})
        except click.exceptions.NoArgsIsHelpError as error:
            error.show()
            raise SystemExit(0) from error
        except click.ClickException as error:
            context = getattr(error, "ctx", None)
            more = f" (see {context.command_path} --help)" if context is not None else ""
            fail(f"{error.format_message()}{more}")
        except click.Abort:
            fail("stopped")


@click.group(cls=OneLine, context_settings={"help_option_names": ["-h", "--help"], "max_content_width": 110})
@click.version_option(package_name="texallon")
def main() -> None:
    """Texallon: procedural render materials for animation shots."""


@main.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.option("--frame", type=FRAME, default=None, help="The frame to render; the shot's first unless given.")
@click.option("--size", default="", help="Width x height in pixels; the shot's resolution unless given.")
@click.option(
    "--samples", type=click.IntRange(1, 65536), default=None, help="Most samples per pixel; the shot's unless given."
)
@click.option("--noise", type=Share(), default=None, help="Leave parts whose relative error is smaller; 0 never.")
@click.option("--region", type=(float, float, float, float), default=None, help="Left, top, right and bottom, 0 … 1.")
@click.option("--threads", type=click.IntRange(1, 256), default=os.cpu_count() or 1, help="Default: one per core.")
@click.option("--denoise", is_flag=True, help="Smooth the noise that is left.")
@click.option(
    "--passes",
    is_flag=True,
    help="Write layers into the .exr too: depth, position …, light by its way, and light groups.",
)
@click.option("--signal", "signals", multiple=True, help="A shared signal to write as a pass; may be given again.")
@click.option(
    "--beyond-half",
    type=click.Choice(["float", "clamp"]),
    default="float",
    help="Light beyond 65504, which half floats can't hold: write whole floats, or hold it there.",
)
@click.option("--quiet", is_flag=True, help="Show no progress.")
@click.option(
    "--out",
    type=click.Path(path_type=Path),
    required=True,
    help="An .exr (scene-linear, before the camera's exposure) or a .png file (as shown, exposure applied).",
)
def render(
    shot: Path,
    frame: int | None,
    size: str,
    samples: int | None,
    noise: float | None,
    region: tuple[float, float, float, float] | None,
    threads: int,
    denoise: bool,
    passes: bool,
    signals: tuple[str, ...],
    beyond_half: Literal["float", "clamp"],
    quiet: bool,
    out: Path,
) -> None:
    """Render one frame of SHOT, a document beside its geometry."""

    def work() -> None:
        from texallon.core.render.film.film import Film
        from texallon.formats.shot_files import ShotFiles
        from texallon.frame_files import Order
        from texallon.render_file import render_file

        if out.suffix.lower() not in (".exr", ".png"):
            raise ValueError(f"--out {out}: a picture is written as .exr or .png")
        if (passes or signals) and out.suffix.lower() != ".exr":
            raise ValueError("--passes: only an .exr file has room for them")
        if not out.resolve().parent.is_dir():
            raise ValueError(f"--out {out}: there is no folder {out.parent}")
        if region and not (0 <= region[0] < region[2] <= 1 and 0 <= region[1] < region[3] <= 1):
            raise ValueError("--region: left and top come before right and bottom, all within 0 … 1")
        document = load_shot(shot)
        frames = document.frames
        wanted = frames.first if frame is None else frame
        if not frames.first <= wanted <= frames.last:
            raise ValueError(f"--frame {wanted}: the shot has frames {frames.first} to {frames.last}")
        most = document.sampling.samples if samples is None else samples
        level = document.sampling.noise if noise is None else noise
        order = Order(
            size_of(size, document), most, threads, wanted, level, region, denoise, passes, signals, beyond_half
        )
        started, line = time.monotonic(), ProgressLine(quiet)

        def report(done: int, film: Film) -> None:
            left = (time.monotonic() - started) / done * (most - done)
            line.say(f"{done} of {most} samples, {left:.0f} s left at most", done == most or film.done)

        comments = {"texallon:document": document_digest(document), "texallon:frame": str(wanted)}
        film = render_file(document, ShotFiles(root=shot.resolve().parent), order, out, comments, report)
        for warning in [] if film.volumes is None else film.volumes.warnings():
            click.echo(f"texallon: {warning}", err=True)

    plainly(work)


@main.command("contact-sheet")
@click.argument("shot", type=click.Path(path_type=Path))
@click.option("--count", type=click.IntRange(1, 400), default=12, help="How many frames, evenly over the shot.")
@click.option("--frames", default="", help="Those frames in the place of a count, such as 1,24,48.")
@click.option("--size", default="320x180", help="Width x height of each, in pixels.")
@click.option("--columns", type=click.IntRange(1, 100), default=4, help="How many stand side by side.")
@click.option("--samples", type=click.IntRange(1, 65536), default=16, help="Per pixel; what noise is left is smoothed.")
@click.option("--threads", type=click.IntRange(1, 256), default=os.cpu_count() or 1, help="Default: one per core.")
@click.option("--quiet", is_flag=True, help="Show no progress.")
@click.option("--out", type=click.Path(path_type=Path), required=True, help="A .png file.")
def contact_sheet(
    shot: Path, count: int, frames: str, size: str, columns: int, samples: int, threads: int, quiet: bool, out: Path
) -> None:
    """Show frames of SHOT side by side in one picture."""

    def work() -> None:
        from texallon import contact_sheet as made
        from texallon.formats.shot_files import ShotFiles
        from texallon.frame_files import frames_of

        if out.suffix.lower() != ".png":
            raise ValueError(f"--out {out}: a contact sheet is written as .png")
        if not out.resolve().parent.is_dir():
            raise ValueError(f"--out {out}: there is no folder {out.parent}")
        document = load_shot(shot)
        wanted = frames_of(frames, document) if frames else made.spread_over(document, count)
        order = made.SheetOrder(wanted, size_of(size, document), columns, samples, threads)
        line = ProgressLine(quiet)

        def report(done: int, of: int) -> None:
            line.say(f"{done} of {of} frames", done == of)

        made.contact_sheet(document, ShotFiles(root=shot.resolve().parent), order, out, report)

    plainly(work)


@main.command()
@click.option("--out", type=click.Path(path_type=Path, file_okay=False), required=True, help="A folder.")
def demo(out: Path) -> None:
    """Write the demo, *Midwinter Glasshouse*: documents, geometry and light."""

    def work() -> None:
        from texallon.demo.write import write_demo

        for path in write_demo(out):
            click.echo(path)

    plainly(work)


@main.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.option("--look", required=True, help="The look's name.")
@click.option(
    "--signal",
    required=True,
    help="A named signal, a layer's mask as “LAYER.where”, or a channel such as base_color.",
)
@click.option("--points", type=click.Path(path_type=Path), required=True, help="An .npz file with `position (n, 3)`.")
@click.option("--out", type=click.Path(path_type=Path), required=True, help="The .npz file to write `values` into.")
def sample(shot: Path, look: str, signal: str, points: Path, out: Path) -> None:
    """Evaluate a signal of a look at given points."""

    def work() -> None:
        from texallon.core.signal.sampling import sample_signal
        from texallon.formats.points_file import read_points

        values = sample_signal(load_shot(shot), look, signal, read_points(points))
        with out.open("wb") as file:
            np.savez_compressed(file, values=values)

    plainly(work)


@main.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.argument("object_name", metavar="OBJECT")
@click.option(
    "--out", type=click.Path(path_type=Path), required=True, help="The file: .ply or .glb, .csv for particles."
)
@click.option("--frame", type=FRAME, default=None, help="The frame to look at; the shot's first unless given.")
@click.option("--signal", "signals", multiple=True, help="A shared signal that is written as an attribute too.")
def geometry(shot: Path, object_name: str, out: Path, frame: int | None, signals: tuple[str, ...]) -> None:
    """Write what OBJECT of SHOT consists of, as it is seen, in its own space: divided, displaced, within its skin, with all that it carries."""

    def work() -> None:
        from texallon.core.render.object_geometry import object_geometry
        from texallon.formats.shot_files import ShotFiles
        from texallon.formats.write_geometry import write_geometry

        files = ShotFiles(root=shot.resolve().parent)
        write_geometry(out, object_geometry(load_shot(shot), object_name, files, frame, signals))

    plainly(work)


@main.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.argument("object_name", metavar="OBJECT")
@click.option("--out", type=click.Path(path_type=Path), required=True, help="The file: .vdb (OpenVDB) or .npz (NumPy).")
@click.option("--cells", type=click.IntRange(1, 512), default=128, help="Voxels along the longest side.")
@click.option("--frame", type=FRAME, default=None, help="The frame to look at; the shot's first unless given.")
def volume(shot: Path, object_name: str, out: Path, cells: int, frame: int | None) -> None:
    """Write what OBJECT of SHOT is filled with as voxel grids; OBJECT is “air” for the atmosphere."""

    def work() -> None:
        from texallon.core.document.resolved import resolve
        from texallon.core.render.baked_volume import bake_volume
        from texallon.core.render.graph import FrameGraph
        from texallon.formats.shot_files import ShotFiles
        from texallon.formats.write_voxels import check_ending, write_voxels

        check_ending(out)
        graph = FrameGraph(resolve(load_shot(shot), frame), ShotFiles(root=shot.resolve().parent))
        baked = bake_volume(graph, object_name, cells)
        write_voxels(out, baked.grids, baked.to_place)
        for name, values in baked.grids.items():
            click.echo(f"{name}: {' × '.join(str(n) for n in values.shape[:3])} voxels")

    plainly(work)


@main.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.option("--frame", type=FRAME, default=None, help="The frame to look at; the shot's first unless given.")
@click.option("--json", "as_json", is_flag=True, help="Everything, with the changes that would mend it, as JSON.")
def advise(shot: Path, frame: int | None, as_json: bool) -> None:
    """Say what stands out in SHOT by the rules of the craft."""

    def work() -> None:
        from dataclasses import asdict

        from texallon.core.advice.look_over import look_over
        from texallon.formats.shot_files import ShotFiles

        found = look_over(load_shot(shot), ShotFiles(root=shot.resolve().parent), frame)
        if as_json:
            click.echo(json.dumps([asdict(each) for each in found], indent=2, ensure_ascii=False))
            return
        for each in found:
            where = " · ".join(filter(None, [each.look, each.where]))
            click.echo(f"{each.severity}: {where}: {each.reason}")

    plainly(work)


@main.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.option("--at", nargs=2, type=Share(), required=True, help="Across and down, 0…1 from the top left.")
@click.option("--frame", type=FRAME, default=None, help="The frame to read at; the shot's first unless given.")
@click.option(
    "--cut", type=Share(), default=0.5, help="Where volumes are cut, 0 (near) to 1 (far), to read within them."
)
@click.option("--as-seen", is_flag=True, help="Read as deep in volumes as the camera sees, instead.")
@click.option("--json", "as_json", is_flag=True, help="Everything, as JSON.")
def read(shot: Path, at: tuple[float, float], frame: int | None, cut: float, as_seen: bool, as_json: bool) -> None:
    """Read every value along the way at one place of SHOT's picture."""

    def work() -> None:
        from texallon.core.document.resolved import resolve
        from texallon.core.render.camera.pick import pick, read_point
        from texallon.core.render.graph import FrameGraph
        from texallon.core.render.volume_reading import pick_on_cut, read_in_volume
        from texallon.core.signal.reading import as_json as plain
        from texallon.core.signal.reading import lines
        from texallon.formats.shot_files import ShotFiles

        document = load_shot(shot)
        graph = FrameGraph(resolve(document, frame), ShotFiles(root=shot.resolve().parent))
        scene, view = graph.scene, graph.view(*document.resolution)
        picked = pick(scene, view, *at, through=False)
        found = picked and read_point(graph.shot, scene, view, picked, graph.relief)
        within = pick_on_cut(graph.filled, view, None if as_seen else cut, *at)
        there = within and read_in_volume(graph.filled, view, within)
        if there and (not found or there.nearer(found, view)):
            found = there
        if not found:
            raise ValueError(f"--at {at[0]:g} {at[1]:g}: there is nothing but sky")
        if as_json:
            whole = {"object": found.object, "look": found.look, "position": found.position.tolist()}
            click.echo(json.dumps(whole | plain(found.reading), indent=2, ensure_ascii=False))
            return
        click.echo(f"{found.object}, {found.look}, at {' '.join(f'{x:.3f}' for x in found.position)} m")
        for line in lines(found.reading):
            click.echo(line)

    plainly(work)


@main.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.option("--after", type=click.Path(path_type=Path), help="The same shot, edited: what it computes anew.")
@click.option("--frame", type=FRAME, default=None, help="The frame to look at; the shot's first unless given.")
@click.option("--json", "as_json", is_flag=True, help="Everything, as JSON.")
def explain(shot: Path, after: Path | None, frame: int | None, as_json: bool) -> None:
    """List what is computed to show SHOT, and with --after what of it an edit leaves standing."""

    def work() -> None:
        from dataclasses import asdict

        from texallon.core.document import shot_json
        from texallon.engine.explain import ExplainedWindow, table
        from texallon.formats.shot_files import ShotFiles

        window = ExplainedWindow(ShotFiles(root=shot.resolve().parent))
        accounts = [window.show(shot_json(load_shot(path)), frame) for path in (shot, *([after] if after else []))]
        if as_json:
            plain = [[asdict(use) for use in account.kinds.values()] for account in accounts]
            click.echo(json.dumps(dict(zip(("shot", "after"), plain, strict=False)), indent=2))
            return
        for path, account in zip((shot, after), accounts, strict=False):
            click.echo(f"{path}:")
            for line in table(account):
                click.echo(f"  {line}")
        click.echo(f"kept: {window.store.bytes / 1e6:.0f} of {window.store.budget / 1e6:.0f} MB")

    plainly(work)


@main.command()
@click.option("--json", "as_json", is_flag=True, help="Everything, as JSON.")
def ops(as_json: bool) -> None:
    """List the ops that recipes are made of."""
    from texallon.core.ops.registry import describe
    from texallon.core.ops.registry import ops as registry

    listed: list[dict[str, Any]] = [describe(kind) for kind in registry().values()]
    if as_json:
        click.echo(json.dumps(listed, indent=2, ensure_ascii=False))
        return
    for op in listed:
        click.echo(f"{op['name']:<12} {op['kind']:<7} {op['purpose']}")


@main.command()
@click.option("--pack", "of_pack", is_flag=True, help="Of a pack's manifest instead.")
def schema(of_pack: bool) -> None:
    """Print the JSON Schema of a shot's document."""
    from texallon.core.signal.schema import shot_schema
    from texallon.packing.manifest import manifest_schema

    click.echo(json.dumps(manifest_schema() if of_pack else shot_schema(), indent=2, ensure_ascii=False))


@main.command()
@click.option("--quiet", is_flag=True)
def compile(quiet: bool) -> None:
    """Compile every kernel now, so that the first picture does not wait for it."""
    from texallon.warm_up import warm_up

    line = ProgressLine(quiet)

    def report(done: int, total: int, what: str) -> None:
        line.say(f"  compiling kernels: {done} of {total} ({what})", done == total)

    warm_up(report)


def _safely(work: Callable[[], None]) -> None:
    """As `_plainly`, for work with a data folder."""
    from sqlalchemy.exc import SQLAlchemyError

    from texallon.safekeeping.manifest import BackupError
    from texallon.store.postgres import DatabaseError

    def within() -> None:
        try:
            work()
        except (BackupError, DatabaseError) as error:
            fail(str(error))
        except SQLAlchemyError as error:
            fail(f"the database does not work: {' '.join(str(getattr(error, 'orig', error)).split())[:300]}")

    plainly(within)


@main.command()
@click.argument("shot", type=click.Path(path_type=Path))
@click.option("--look", required=True, help="The look's name.")
@click.option("--out", type=click.Path(path_type=Path), required=True, help="The .png file: all pictures on one sheet.")
@click.option(
    "--parts", type=click.Path(path_type=Path), help="An .exr file with every picture as a part, scene-linear."
)
@click.option("--samples", type=click.IntRange(1, 65536), default=48, show_default=True)
@click.option("--size", default="400x300", show_default=True, help="Width x height of one picture in pixels.")
@click.option("--threads", type=click.IntRange(1, 256), default=os.cpu_count() or 1, help="Default: one per core.")
@click.option("--quiet", is_flag=True, help="Show no progress.")
def review(
    shot: Path, look: str, out: Path, parts: Path | None, samples: int, size: str, threads: int, quiet: bool
) -> None:
    """Render a look's review sheet: test body and own object under three lights, references, turntable."""

    def work() -> None:
        from texallon.review.shell import review_file

        if out.suffix.lower() != ".png" or (parts is not None and parts.suffix.lower() != ".exr"):
            raise ValueError("--out is a .png file, and --parts an .exr")
        line = ProgressLine(quiet)

        def report(done: int, total: int) -> None:
            line.say(f"{done} of {total} pictures", done == total)

        document = load_shot(shot)
        review_file(
            document, shot.resolve().parent, look, size_of(size, document), samples, threads, out, parts, report
        )

    plainly(work)


@main.command()
@click.argument("shots", nargs=-1, type=click.Path(path_type=Path))
@click.option("--project", default="", help="Its name; of the data folder, where no documents are given.")
@click.option("--shot", "chosen", multiple=True, help="The name of a shot of the project; all of it unless given.")
@click.option("--out", type=click.Path(path_type=Path), required=True, help="The .zip file.")
@click.option("--data", type=click.Path(path_type=Path), default=Path(".data"), help="The data folder.")
@click.option("--database", default="", help="URL of the database, where it is not the folder's own.")
def pack(shots: tuple[Path, ...], project: str, chosen: tuple[str, ...], out: Path, data: Path, database: str) -> None:
    """Write SHOTS, documents beside their files, or a project of the data folder into one .zip."""

    def work() -> None:
        from texallon.packing.shell import pack_documents, pack_project

        if shots and chosen:
            raise ValueError("--shot: it names a shot of the data folder, and documents were given")
        if not shots and not project:
            raise ValueError("--project: which, or which documents?")
        if shots:
            manifest = pack_documents([(load_shot(path), path) for path in shots], project, out)
        else:
            manifest = pack_project(data.resolve(), database, project, chosen, out)
        click.echo(f"{out}: {len(manifest.shots)} shots, {len(manifest.files)} files")

    _safely(work)


@main.command()
@click.argument("pack", type=click.Path(path_type=Path))
@click.option("--out", type=click.Path(path_type=Path, file_okay=False), help="A new folder for plain files.")
@click.option("--data", type=click.Path(path_type=Path), help="A data folder that it becomes a new project of.")
@click.option("--database", default="", help="URL of the database, where it is not the folder's own.")
def unpack(pack: Path, out: Path | None, data: Path | None, database: str) -> None:
    """Check PACK and lay it out as plain files, or bring it into a data folder as a project."""

    def work() -> None:
        from texallon.packing.shell import unpack_into_data, unpack_into_folder

        if (out is None) == (data is None):
            raise ValueError("--out or --data: one of them says where to")
        if out is not None:
            for path in unpack_into_folder(pack, out):
                click.echo(path)
        elif data is not None:
            name, count = unpack_into_data(pack, data.resolve(), database)
            click.echo(f"{name}: {count} shots")

    _safely(work)


DATA = click.option("--data", type=click.Path(path_type=Path), default=Path(".data"), help="The data folder.")
DATABASE = click.option("--database", default="", help="URL of the database, where it is not the folder's own.")


@main.command()
@click.argument("folder", type=click.Path(path_type=Path))
@DATA
@DATABASE
def backup(folder: Path, data: Path, database: str) -> None:
    """Back everything up into FOLDER, also while the server runs."""

    def work() -> None:
        from texallon.safekeeping.backup import back_up

        if not (data / "files").is_dir():
            raise ValueError(f"{data} is no data folder: nothing was served from it yet")
        made = back_up(data.resolve(), database, folder)
        click.echo(f"{made}")

    _safely(work)


@main.command()
@click.argument("backup", type=click.Path(path_type=Path, exists=True))
@DATA
@DATABASE
@click.option("--over-what-is-there", is_flag=True, help="Do not back up first what is there.")
def restore(backup: Path, data: Path, database: str, over_what_is_there: bool) -> None:
    """Bring BACKUP back into the data folder, new or in use; what is there is backed up first."""

    def work() -> None:
        from texallon.safekeeping.backup import restore as bring_back

        kept = bring_back(backup, data.resolve(), database, keep=not over_what_is_there)
        click.echo(f"brought back from {backup}")
        if kept is not None:
            click.echo(f"what was there before is in {kept}; pages that are open are to be reloaded")

    _safely(work)


@main.command()
@DATA
@DATABASE
@click.option("--backup", type=click.Path(path_type=Path), default=None, help="Look at a backup instead.")
def check(data: Path, database: str, backup: Path | None) -> None:
    """Look whether everything is whole: shots, files, digests. Exit status 1 where something is not."""

    def work() -> None:
        from texallon.safekeeping.backup import running_database
        from texallon.safekeeping.check import check as look
        from texallon.safekeeping.manifest import verify

        if backup is not None:
            found = verify(backup)
            click.echo(f"whole: {len(found.files)} files, made {found.made}")
            return
        if not database and not (data / "postgres").is_dir():
            raise ValueError(f"{data} is no data folder: nothing was served from it yet")
        with running_database(data.resolve(), database) as url:
            wrong = look(url, data.resolve())
        for line in wrong:
            click.echo(line)
        if wrong:
            raise SystemExit(1)
        click.echo("whole")

    _safely(work)


for each in (frames, shot, video, flicker, farm):
    main.add_command(each)

if __name__ == "__main__":
    sys.exit(main())
