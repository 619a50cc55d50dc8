"""Work that takes a while: begun, watched, stopped, and its files fetched. One job runs at a time, in a process of its own that takes what
computing is left over. A job is forgotten when the server ends, and begun again by whoever wants it; its files stay."""

import json
import logging
import subprocess
import tempfile
import threading
import uuid
from collections import OrderedDict
from collections.abc import Mapping
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from pydantic import BaseModel, Field

from texallon.child_process import end_with_parent
from texallon.store.files import FileStore
from texallon.store.records import NotFoundError

MOST_KEPT = 40
"""Jobs that are remembered."""

_log = logging.getLogger("texallon.jobs")


class JobPath(BaseModel):
    job_id: str = Field(pattern=r"^[0-9a-f]{32}$")


class JobFilePath(JobPath):
    file: str = Field(pattern=r"^[a-z]{1,20}\.(png|exr|vdb|npz)$")


class JobBody(BaseModel):
    """A job: of what kind and of what, how far it is, whether it is finished, what went wrong, and the names of its files."""

    id: str
    kind: str
    shot: int
    what: str
    done: int
    total: int
    ready: bool
    failed: str
    files: list[str]


@dataclass
class Job:
    """One job; `files` are digests by name once it is ready."""

    id: str
    kind: str
    shot: int
    what: str
    total: int
    done: int = 0
    ready: bool = False
    failed: str = ""
    files: dict[str, str] = field(default_factory=dict)
    stopped: bool = False
    process: subprocess.Popen[str] | None = field(default=None, repr=False)

    def body(self) -> dict[str, Any]:
        """As a `JobBody`."""
        return {name: getattr(self, name) for name in JobBody.model_fields if name != "files"} | {
            "files": sorted(self.files)
        }


class Jobs:
    """All jobs of this server, newest last."""

    def __init__(self, files: FileStore) -> None:
        self.files = files
        self._lock, self._turn = threading.Lock(), threading.Lock()
        self._kept: OrderedDict[str, Job] = OrderedDict()

    def begin(
        self, kind: str, shot: int, what: str, total: int, document: object, command: list[str], out: Mapping[str, str]
    ) -> Job:
        """Begin a process that reads the document and prints `DONE TOTAL` lines; in its command `{NAME}` stands for each file of `out`."""
        job = Job(uuid.uuid4().hex, kind, shot, what, total)
        with self._lock:
            self._kept[job.id] = job
            while len(self._kept) > MOST_KEPT:
                self._kept.popitem(last=False)
        given = json.dumps(document)
        threading.Thread(target=self._run, args=(job, given, command, dict(out)), daemon=True).start()
        return job

    def find(self, job_id: str) -> Job:
        """A job; raises `NotFoundError`."""
        with self._lock:
            if job_id not in self._kept:
                raise NotFoundError("that job is not here any more; begin it again")
            return self._kept[job_id]

    def of(self, shot: int) -> list[Job]:
        """A shot's jobs, newest last."""
        with self._lock:
            return [job for job in self._kept.values() if job.shot == shot]

    def stop(self, job_id: str) -> None:
        """End a job that runs or waits."""
        job = self.find(job_id)
        job.stopped = True
        if job.process is not None:
            job.process.terminate()

    def _run(self, job: Job, document: str, command: list[str], out: dict[str, str]) -> None:
        try:
            with self._turn, tempfile.TemporaryDirectory() as name:
                folder = Path(name)
                if job.stopped:
                    job.failed = "stopped"
                    return
                paths = {key: folder / file for key, file in out.items()}
                filled = [part.format_map({key: str(path) for key, path in paths.items()}) for part in command]
                said = self._work(job, document, filled, folder)
                if said is not None:
                    job.failed = "stopped" if job.stopped else said
                    return
                for path in paths.values():
                    if path.is_file():
                        job.files[path.name] = self.files.put(path.read_bytes(), path.suffix)
                job.ready = True
        except OSError as error:
            job.failed = f"its files could not be kept: {error.strerror}"
            _log.warning("a job's files could not be kept: %s", error)

    def _work(self, job: Job, document: str, command: list[str], folder: Path) -> str | None:
        """Run the process to its end; gives what went wrong, if anything did."""
        with (folder / "document.json").open("w+") as given, (folder / "errors").open("w+") as errors:
            given.write(document)
            given.seek(0)
            job.process = subprocess.Popen(
                command, stdin=given, stdout=subprocess.PIPE, stderr=errors, text=True, preexec_fn=end_with_parent
            )
            if job.stopped:  # while it was begun
                job.process.terminate()
            assert job.process.stdout is not None
            for line in job.process.stdout:
                done, _, total = line.partition(" ")
                if done.isdigit() and total.strip().isdigit():
                    job.done, job.total = int(done), int(total)
            status = job.process.wait()
            errors.seek(0)
            said = errors.read().strip().splitlines()
        if status == 0:
            return None
        # Its last words are for a person where it ended by itself; else only the log has them.
        words = said[-1][:300] if said and status == 1 else "the renderer ended"
        if not job.stopped:
            _log.warning("a job of kind %s failed: %s", job.kind, " ".join(said)[-600:])
        return words
