"""What keeps the house from standing is one clear line."""

import os
import shutil
import socket
import subprocess
import sys
import time
from collections import namedtuple
from pathlib import Path

import psycopg
import pytest

from kaigata.house import database, loops, machine
from kaigata.house.database import Cluster, port_is_free
from kaigata.house.loops import loops_built
from kaigata.house.trouble import Trouble
from tests.checks import TESTS

ROOT = TESTS.parent


def test_a_port_in_use_is_one_line_and_nothing_is_started():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]

        done = subprocess.run(
            [sys.executable, "-m", "kaigata.house", "start", "--port", str(port)],
            capture_output=True,
            text=True,
            check=False,
            cwd=ROOT,
        )

    assert done.returncode == 1
    assert done.stderr.strip() == (
        f"kaigata: port {port} is in use; stop what uses it or give another with --port"
    )


def test_a_full_disk_is_said_before_anything_is_made(monkeypatch):
    usage = namedtuple("usage", "total used free")
    monkeypatch.setattr(shutil, "disk_usage", lambda path: usage(10**9, 10**9, 5 * 2**20))

    with pytest.raises(Trouble, match="has 5 MB left, 400 are needed; make room"):
        machine.require_room()


@pytest.fixture
def kept_loop(monkeypatch, tmp_path):
    """A loop that was built from sources that have changed since."""
    monkeypatch.setattr(loops, "_CORE", tmp_path)
    monkeypatch.setattr(loops, "_STAMP", tmp_path / "loops")
    monkeypatch.setenv("KAIGATA_LOOPS", "now")
    (tmp_path / "loops").write_text("before")
    kept = tmp_path / "nest" / "__pycache__" / "fill.nbi"
    kept.parent.mkdir(parents=True)
    kept.touch()
    return kept


def built_by(monkeypatch, script):
    monkeypatch.setattr(loops, "_WARM", (sys.executable, "-c", script))


def test_loops_are_built_beside_other_work_and_once(kept_loop, tmp_path, monkeypatch):
    built_by(monkeypatch, f"open({str(tmp_path / 'built')!r}, 'x')")
    with loops_built():
        assert not kept_loop.exists()
        assert not (tmp_path / "loops").exists()
    assert (tmp_path / "loops").read_text() == "now"
    # A second time the file could not be made.
    with loops_built():
        pass


def test_loops_that_cannot_be_built_are_said_and_tried_again(kept_loop, tmp_path, monkeypatch):
    built_by(monkeypatch, "raise SystemExit(1)")
    with pytest.raises(Trouble, match="loops could not be built"), loops_built():
        pass
    assert not (tmp_path / "loops").exists()


def test_building_ends_with_what_went_wrong_beside_it(kept_loop, tmp_path, monkeypatch):
    built_by(monkeypatch, "import time; time.sleep(60)")
    began = time.monotonic()
    with pytest.raises(Trouble, match="no npm"), loops_built():
        raise Trouble("no npm")
    assert time.monotonic() - began < 30
    assert not (tmp_path / "loops").exists()


@pytest.fixture
def folder(monkeypatch, tmp_path):
    """A folder for clusters that the database's own user can reach, whoever runs the tests."""
    tmp_path.chmod(0o755)
    for parent in tmp_path.parents[:2]:
        parent.chmod(0o755)
    monkeypatch.setattr(database, "VAR", tmp_path)
    monkeypatch.setattr(database, "LOG", tmp_path / "log")
    return tmp_path


def test_a_database_that_does_not_come_up_is_said_with_its_last_word(folder):
    cluster = Cluster("broken")
    cluster.start()
    cluster.stop()
    (folder / "broken" / "postgresql.conf").write_text("work_mem = nonsense\n")

    with pytest.raises(Trouble, match=r"PostgreSQL did not come up: .*configuration file"):
        Cluster("broken").start()


def test_a_database_left_running_is_ended_before_another_serves_its_files(folder):
    left, again = Cluster("left"), Cluster("left")
    left.start()
    try:
        left.make_database("kept")
        again.start()

        assert not left.is_running()
        with psycopg.connect(again.address("kept")) as link:
            assert link.execute("SELECT 1").fetchone() == (1,)
    finally:
        again.stop()
        left.stop()


def test_the_number_of_another_process_does_not_keep_a_database_from_starting(folder):
    cluster = Cluster("moved")
    cluster.start()
    cluster.stop()
    (folder / "moved" / "postmaster.pid").write_text(f"{os.getpid()}\n")

    cluster.start()
    cluster.stop()


def test_a_server_ends_with_the_house_that_was_killed(tmp_path):
    house = """
import sys, time
from pathlib import Path
from kaigata.house.stage import Stage

class Asleep(Stage):
    def worker_words(self):
        return ["sleep", "60"]

stage = Asleep("", 0, Path(sys.argv[1]))
stage.start_worker()
print(stage.worker_pid(), flush=True)
time.sleep(60)
"""
    parent = subprocess.Popen(
        [sys.executable, "-c", house, str(tmp_path)], stdout=subprocess.PIPE, text=True, cwd=ROOT
    )
    child = Path("/proc", parent.stdout.readline().strip(), "stat")
    end = time.monotonic() + 10
    # Until it is what it was started as it has not said yet what is to become of it.
    while "sleep" not in child.read_text():
        assert time.monotonic() < end
        time.sleep(0.01)

    parent.kill()
    parent.communicate()

    # A process that ended may stay a while as a zombie (Z), until someone takes note.
    end = time.monotonic() + 10
    while child.exists() and child.read_text().split()[2] != "Z":
        assert time.monotonic() < end
        time.sleep(0.05)


def test_a_free_port_is_known_from_a_taken_one():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert not port_is_free(port)
    assert port_is_free(port)
