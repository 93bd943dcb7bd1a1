"""Long work: bounded in number, ended when told, forgotten when old."""

from threading import Event

import pytest

from sapolin.api import jobs as room
from sapolin.api.errors import Refusal
from sapolin.api.jobs import Job, Jobs


@pytest.fixture
def jobs():
    running = Jobs()
    yield running
    running.close()


def at_once(job: Job):
    return job.id


def test_work_has_an_answer_and_can_be_found_by_its_id(jobs):
    job = jobs.start(at_once)
    assert job.future.result(timeout=5) == job.id
    assert jobs.get(job.id) is job


def test_it_is_cancelled_at_its_next_step_and_keeps_the_best_it_found(jobs, make_formula):
    first = make_formula()
    reported = Event()

    def work(job: Job):
        on = job.report("blends", first, 3.0, 0.0)
        while on:
            on = job.report("blends", None, 99.0, 1.0)
            reported.set()
        return "stopped"

    job = jobs.start(work)
    assert reported.wait(5)
    jobs.cancel(job.id)
    assert job.future.result(timeout=5) == "stopped"
    # A report without a blend moves the bound, never the best.
    assert (job.best, job.value, job.bound) == (first, 3.0, 1.0)


def test_too_many_at_once_are_refused_and_welcome_again_later(jobs):
    go = Event()
    waiting = [jobs.start(lambda job: go.wait(10)) for _ in range(room.MOST_WAITING)]
    with pytest.raises(Refusal) as refused:
        jobs.start(at_once)
    assert refused.value.status == 429
    go.set()
    for job in waiting:
        job.future.result(timeout=5)
    assert jobs.start(at_once).future.result(timeout=5)


def test_only_the_latest_answers_are_kept(jobs):
    done = []
    for _ in range(room.MOST_KEPT + 3):
        done.append(jobs.start(at_once))
        done[-1].future.result(timeout=5)
    assert jobs.get(done[-1].id)
    with pytest.raises(Refusal) as lost:
        jobs.get(done[0].id)
    assert lost.value.status == 404


def test_closing_ends_what_runs_and_what_waits():
    jobs = Jobs()
    begun = Event()

    def until_cancelled(job: Job):
        begun.set()
        return job.cancelled.wait(10)

    running = jobs.start(until_cancelled)
    waiting = jobs.start(until_cancelled)
    assert begun.wait(5)
    jobs.close()
    assert running.future.result(timeout=5) is True
    assert waiting.future.cancelled()
