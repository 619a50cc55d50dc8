"""Whether two checkouts render the demo bit for bit alike: for changes of the code that must not change a picture.

    python -m tools.compare_checkouts OLD NEW [--size 192x108] [--samples 3] [--documents old|own]

OLD and NEW are folders of checkouts, or of pictures that an earlier run has left with `--keep`. Each checkout writes its own
demo and renders every shot at its first and middle frame, denoised, with all passes, by its own shell command and in a process
of its own. Every channel of every file is compared as bits, so that two NaNs are equal and 0 is not −0. With `--documents old`
both render OLD's documents, which shows that older documents still open and mean the same. Exit status 1 where anything differs.
"""

import argparse
import json
import os
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np
import OpenEXR


def _run(checkout: Path, *arguments: str) -> None:
    environment = {**os.environ, "PYTHONPATH": str(checkout / "src")}
    subprocess.run(
        [sys.executable, "-m", "texallon.cli", *arguments], check=True, env=environment, cwd=checkout,
        stdout=subprocess.DEVNULL,
    )  # fmt: skip


def _documents(demo: Path) -> list[Path]:
    return sorted(path for path in demo.rglob("*.json") if "resolution" in json.loads(path.read_text()))


def render_demo(checkout: Path, demo: Path, out: Path, size: str, samples: int) -> float:
    """Render each shot of a demo folder at two frames; returns the seconds it took, the first shot's start-up left out."""
    out.mkdir(parents=True, exist_ok=True)
    begun = time.perf_counter()
    for number, path in enumerate(_documents(demo)):
        frames = json.loads(path.read_text())["frames"]
        for frame in (frames["first"], (frames["first"] + frames["last"]) // 2):
            _run(
                checkout, "render", str(path), "--frame", str(frame), "--size", size, "--samples", str(samples), "--noise", "0",
                "--denoise", "--passes", "--quiet", "--out", str(out / f"{path.stem}.{frame:04d}.exr"),
            )  # fmt: skip
        if number == 0:
            begun = time.perf_counter()
    return time.perf_counter() - begun


def channels(path: Path) -> dict[str, np.ndarray]:
    """Every channel of every part of an EXR file, under its part's name."""
    with OpenEXR.File(str(path), separate_channels=True) as file:
        return {
            f"{part.header.get('name', '')}/{name}": channel.pixels.copy()
            for part in file.parts
            for name, channel in part.channels.items()
        }


def differences(old: Path, new: Path) -> list[str]:
    """What differs between two files, a line each; empty where every bit is the same."""
    a, b = channels(old), channels(new)
    found = [f"channel {name} is in one file only" for name in sorted(a.keys() ^ b.keys())]
    for name in sorted(a.keys() & b.keys()):
        if a[name].shape != b[name].shape or a[name].dtype != b[name].dtype:
            found.append(f"channel {name}: {a[name].dtype}{a[name].shape} and {b[name].dtype}{b[name].shape}")
        elif a[name].tobytes() != b[name].tobytes():
            write_aovs = np.abs(a[name].astype(np.float64) - b[name].astype(np.float64))
            found.append(
                f"channel {name}: {np.mean(a[name] != b[name]):.1%} of values differ, by up to {np.nanmax(write_aovs):.3g}"
            )
    return found


def main() -> int:
    parser = argparse.ArgumentParser(description=(__doc__ or "").split("\n")[0])
    parser.add_argument("old", type=Path)
    parser.add_argument("new", type=Path)
    parser.add_argument("--size", default="192x108")
    parser.add_argument("--samples", type=int, default=3)
    parser.add_argument("--documents", choices=["own", "old"], default="own")
    parser.add_argument("--keep", type=Path, help="Leave the pictures and documents in this folder.")
    given = parser.parse_args()
    with tempfile.TemporaryDirectory() as temporary:
        work = given.keep or Path(temporary)
        folders, demos = [], []
        for side, checkout in (("old", given.old.resolve()), ("new", given.new.resolve())):
            if not (checkout / "src").is_dir():
                folders.append(checkout / "pictures")
                demos.append(checkout / "demo")
                continue
            demo, out = work / side / "demo", work / side / "pictures"
            _run(checkout, "demo", "--out", str(demo))
            demos.append(demo)
            seconds = render_demo(
                checkout, demos[0] if given.documents == "old" else demo, out, given.size, given.samples
            )
            print(f"{side}: rendered in {seconds:.0f} s")
            folders.append(out)
        names = sorted({path.name for folder in folders for path in folder.glob("*.exr")})
        bad = 0
        for name in names:
            missing = [str(folder) for folder in folders if not (folder / name).exists()]
            found = [f"missing in {folder}" for folder in missing] or differences(folders[0] / name, folders[1] / name)
            print(f"{name}: {'the same, bit for bit' if not found else '; '.join(found)}")
            bad += bool(found)
        print(f"{len(names) - bad} of {len(names)} pictures are the same")
        return 1 if bad or not names else 0


if __name__ == "__main__":
    sys.exit(main())
