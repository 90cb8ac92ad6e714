"""What keeps the house from standing is one clear line."""

import shutil
import socket
import subprocess
import sys
from collections import namedtuple

import pytest

from kaigata.house import database, machine
from kaigata.house.database import Cluster, port_is_free
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


def test_a_database_that_does_not_come_up_is_said_with_its_last_word(monkeypatch, tmp_path):
    # Where the database's own user can reach it, whoever runs the tests.
    tmp_path.chmod(0o755)
    for parent in tmp_path.parents[:2]:
        parent.chmod(0o755)
    monkeypatch.setattr(database, "VAR", tmp_path)
    monkeypatch.setattr(database, "LOG", tmp_path / "log")
    cluster = Cluster("broken")
    cluster.start()
    cluster.stop()
    (tmp_path / "broken" / "postgresql.conf").write_text("work_mem = nonsense\n")

    with pytest.raises(Trouble, match=r"PostgreSQL did not come up: .*configuration file"):
        Cluster("broken").start()


def test_a_free_port_is_known_from_a_taken_one():
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        assert not port_is_free(port)
    assert port_is_free(port)
