"""The processes that search: their work is the same as this one's, and a lost one is said."""

import os
import signal
import subprocess
import sys
import time
from contextlib import suppress
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from kaigata.core.errors import LimitError
from kaigata.core.nest.crew import Crew
from kaigata.core.nest.jobs import Job, Move, do_job
from kaigata.core.nest.plans import first_plan
from tests.checks import TESTS
from tests.core.nest.given import bench_of, filled, order_of


@pytest.fixture(scope="module")
def given():
    bench = bench_of(order_of("mix-60"))
    job = Job(0, Move("tighten"), filled(bench), first_plan(bench), seconds=None, attempts=3)
    return bench, [replace(job, seed=seed) for seed in (1, 2)]


@pytest.fixture
def crew(given):
    bench, _ = given
    stop = []
    with Crew(2, lambda: bool(stop)) as crew:
        crew.stop = lambda: stop.append(True)
        crew.give([bench])
        yield crew


def test_processes_do_what_this_one_would(given, crew):
    bench, jobs = given

    for wanted in (jobs, jobs[:1], jobs[::-1]):
        outcomes = crew.do(wanted)

        assert len(outcomes) == len(wanted)
        for job, outcome in zip(wanted, outcomes, strict=True):
            here = do_job(bench, job, lambda: False)
            for one, other in zip(outcome.layout.loads, here.layout.loads, strict=True):
                assert np.array_equal(one.at, other.at)
                assert np.array_equal(one.way, other.way)


FIRST = {
    "squeezed in": "squeeze_in(b.table, room, ly, 1, 60, random_state(1))",
    "moved apart": "separate(b.table, room, ly, 3, 9, 9, random_state(1), np.array([np.inf, 0]))",
    "measured": "measure_depths(b.table, ly)",
}


def test_what_a_process_did_first_does_not_change_what_it_does():
    """Loops that come with copies of each other must not differ by which was loaded first."""
    program = """
import hashlib, numpy as np
from kaigata.core.nest.jobs import Job, Move, do_job
from kaigata.core.nest.overlap import lying_of, measure_depths
from kaigata.core.nest.plans import first_plan
from kaigata.core.nest.separate import random_state, separate, squeeze_in
from tests.core.nest.given import bench_of, filled, order_of
b = bench_of(order_of("mix-60"))
room = b.room(next(iter(b.sheets)))[None]
ly = lying_of(b.table, np.array([0, 1]), np.array([[20., 20.], [50., 50.]]), np.zeros(2, bool))
{first}
job = Job(0, Move("tighten"), filled(b), first_plan(b), seed=1, seconds=None, attempts=3)
print(hashlib.sha256(do_job(b, job, lambda: False).layout.loads[0].at).hexdigest())
"""
    path = os.pathsep.join([str(TESTS.parent / "src"), str(TESTS.parent)])
    running = [
        subprocess.Popen([sys.executable, "-c", program.format(first=first)],
                         env={**os.environ, "PYTHONPATH": path}, stdout=subprocess.PIPE)
        for first in FIRST.values()
    ]  # fmt: skip
    nests = {one.communicate()[0] for one in running}

    assert [one.returncode for one in running] == [0, 0, 0]
    assert len(nests) == 1


def test_a_stop_ends_jobs_that_would_go_on(given, crew):
    _, jobs = given
    crew.do(jobs)
    crew.stop()
    began = time.monotonic()

    outcomes = crew.do([replace(j, seconds=60.0, attempts=None) for j in jobs])

    assert time.monotonic() - began < 20.0
    assert [len(o.layout.loads) for o in outcomes] == [len(j.layout.loads) for j in jobs]


def test_a_process_that_is_killed_is_said(given, crew):
    _, jobs = given
    crew.do(jobs)
    os.kill(next(iter(crew._pool._processes)), signal.SIGKILL)

    with pytest.raises(LimitError, match="a search process ended early"):
        crew.do([replace(j, seconds=5.0, attempts=None) for j in jobs])


def test_one_worker_needs_no_process(given):
    bench, jobs = given
    with Crew(1, lambda: False) as crew:
        crew.give([bench])
        [outcome] = crew.do([replace(jobs[0], attempts=12)])

    assert outcome.made <= 12
    assert bench.used_length(outcome.layout.loads[0]) < bench.used_length(jobs[0].layout.loads[0])


def test_the_next_benches_take_the_place_of_the_last(given, crew):
    _, jobs = given
    crew.do(jobs)
    other = bench_of(order_of("mix-20"))
    job = Job(0, Move("reorder"), filled(other), first_plan(other), seconds=None, attempts=2)

    crew.give([other])
    [outcome] = crew.do([job])

    copies = sum(len(x) for x in outcome.layout.loads) + outcome.layout.left_out.total()
    assert copies == other.wanted().total()


def test_nothing_is_left_behind(given, tmp_path, monkeypatch):
    monkeypatch.setattr("tempfile.tempdir", str(tmp_path))
    bench, jobs = given
    with Crew(2, lambda: False) as crew:
        crew.give([bench])
        assert list(tmp_path.iterdir())
        crew.do(jobs[:1])

    assert not list(tmp_path.iterdir())


def marked(word):
    """How many processes there are with a word in their environment."""
    found = 0
    for environ in Path("/proc").glob("[0-9]*/environ"):
        with suppress(OSError):
            found += word.encode() in environ.read_bytes()
    return found


def until(is_so, seconds):
    end = time.monotonic() + seconds
    while time.monotonic() < end and not is_so():
        time.sleep(0.2)
    return is_so()


def test_processes_end_with_a_search_that_is_killed():
    word = f"KAIGATA_TEST={os.getpid()}-{time.monotonic_ns()}"
    name, _, value = word.partition("=")
    program = (
        "from kaigata.core.nest import search; from tests.core.nest.given import order_of\n"
        "if __name__ == '__main__': search(order_of('mix-60'), seconds=60, workers=2)"
    )
    path = [str(TESTS.parent / "src"), str(TESTS.parent)]
    environment = {**os.environ, name: value, "PYTHONPATH": os.pathsep.join(path)}
    searching = subprocess.Popen([sys.executable, "-c", program], env=environment)
    try:
        # Itself, the server it forks from, that one's tracker, and two that search.
        assert until(lambda: marked(word) >= 5, 60)
    finally:
        searching.kill()
        searching.wait()

    assert until(lambda: marked(word) == 0, 20)
