"""Long work off the request threads: started, watched, cancelled; bounded in number and time, gone with the process."""

from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from threading import Event, Lock
from uuid import uuid4

from sapolin.api.errors import Refusal
from sapolin.core.formula.document import Formula
from sapolin.core.optimise.solve import SolveAnswer

__all__ = ["Job", "Jobs"]

MOST_KEPT = 20
"""Finished jobs whose answers can still be fetched."""
MOST_WAITING = 6
"""Jobs running or waiting at once."""


@dataclass
class Job:
    """One piece of work."""

    id: str
    cancelled: Event = field(default_factory=Event)
    looking_for: str = ""
    best: Formula | None = None
    value: float | None = None
    """Of the best so far; null while there is none."""
    bound: float | None = None
    future: "Future[SolveAnswer] | None" = None

    def report(self, looking_for: str, best: Formula | None, value: float, bound: float) -> bool:
        """Take note of progress; answers whether to go on."""
        self.looking_for = looking_for
        if best is not None:
            self.best, self.value = best, value
        self.bound = bound
        return not self.cancelled.is_set()


class Jobs:
    """The jobs of one application."""

    def __init__(self, workers: int = 1) -> None:
        self._pool = ThreadPoolExecutor(max_workers=workers, thread_name_prefix="solve")
        self._jobs: OrderedDict[str, Job] = OrderedDict()
        self._lock = Lock()

    def start(self, work: Callable[[Job], SolveAnswer]) -> Job:
        """Start `work` as soon as a thread is free. Refused when too much is waiting already."""
        with self._lock:
            unfinished = [job for job in self._jobs.values() if job.future is not None and not job.future.done()]
            if len(unfinished) >= MOST_WAITING:
                raise Refusal(429, "too_busy", "Too many questions are being solved already. Cancel one, or wait.")
            job = Job(uuid4().hex)
            job.future = self._pool.submit(work, job)
            self._jobs[job.id] = job
            for old in list(self._jobs)[:-MOST_KEPT]:
                if (future := self._jobs[old].future) is not None and future.done():
                    del self._jobs[old]
            return job

    def get(self, job_id: str) -> Job:
        """A job by its id."""
        with self._lock:
            job = self._jobs.get(job_id)
        if job is None:
            raise Refusal(404, "not_found", "There is no such job; a restart of the server ends them. Ask again.")
        return job

    def cancel(self, job_id: str) -> Job:
        """Let a job end at its next step; what it found so far is its answer."""
        job = self.get(job_id)
        job.cancelled.set()
        return job

    def close(self) -> None:
        """End everything."""
        with self._lock:
            for job in self._jobs.values():
                job.cancelled.set()
        self._pool.shutdown(wait=False, cancel_futures=True)
