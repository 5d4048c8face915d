"""The test database, and the application with its worker running as processes of their own."""

import os
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import psycopg

from idle_shimmer.settings import settings
from idle_shimmer.store.migrate import upgrade
from tests.conftest import ROOT

COMMAND = str(Path(sys.executable).parent / "idle-shimmer")


def empty_database() -> None:
    """Bring the test database to a fresh start. Only ever a database whose name ends in _test."""
    address = settings().plain_database()
    if not address.partition("?")[0].endswith("_test"):
        raise RuntimeError("tests empty their database: run them with ./test, which gives them one")
    with psycopg.connect(address, autocommit=True) as connection:
        connection.execute("DROP SCHEMA public CASCADE; CREATE SCHEMA public")
    upgrade()


@contextmanager
def running_application() -> Iterator[str]:
    """The address of a served application on the test database, with a worker."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    address = f"http://127.0.0.1:{port}"
    processes = [
        subprocess.Popen([COMMAND, "serve", "--port", str(port)], cwd=ROOT, env=os.environ),
        subprocess.Popen([COMMAND, "worker"], cwd=ROOT, env=os.environ),
    ]
    try:
        ready = ROOT / "scripts" / "wait_ready.py"
        waited = [sys.executable, str(ready), f"{address}/api/health", str(processes[0].pid)]
        subprocess.run(waited, check=True)
        yield address
    finally:
        for process in processes:
            process.terminate()
        for process in processes:
            process.wait(timeout=30)
