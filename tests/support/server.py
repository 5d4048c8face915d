"""The test database, and the application with its worker running as processes of their own."""

import hashlib
import os
import signal
import socket
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psycopg

from idle_shimmer.settings import settings
from idle_shimmer.store.database import engine
from idle_shimmer.store.migrate import upgrade
from tests.conftest import ROOT

# The lock under which the template of test databases is made.
_MAKING_TEMPLATE = 20_221
COMMAND = str(Path(sys.executable).parent / "idle-shimmer")


def empty_database() -> None:
    """Bring the test database to a fresh start. Only ever a database whose name ends in _test.

    It is copied from a template that has every migration.
    """
    address = settings().plain_database()
    place, _, name = address.partition("?")[0].rpartition("/")
    if not name.endswith("_test"):
        raise RuntimeError("tests empty their database: run them with ./test, which gives them one")
    # Pooled connections know types of the schema by numbers that are given anew.
    engine().dispose()
    address = os.environ.get("IDLE_SHIMMER_TEST_SERVER", f"{place}/postgres")
    with psycopg.connect(address, autocommit=True) as server:
        template = _template(server, place)
        server.execute(f'DROP DATABASE IF EXISTS "{name}" WITH (FORCE)')
        server.execute(f'CREATE DATABASE "{name}" TEMPLATE "{template}"')


def _template(server: psycopg.Connection[Any], place: str) -> str:
    """Return the name of a database with every migration, made once for all parts of the tests."""
    sources = sorted((ROOT / "src/idle_shimmer/store").rglob("*.py"))
    mark = hashlib.sha256(b"".join(each.read_bytes() for each in sources)).hexdigest()[:12]
    name = f"shimmer_template_{mark}"
    server.execute("SELECT pg_advisory_lock(%s)", (_MAKING_TEMPLATE,))
    try:
        known = "SELECT 1 FROM pg_database WHERE datname = %s"
        if server.execute(known, (name,)).fetchone() is None:
            server.execute(f'DROP DATABASE IF EXISTS "{name}_begun" WITH (FORCE)')
            server.execute(f'CREATE DATABASE "{name}_begun"')
            upgrade(database=f"{place}/{name}_begun".replace("://", "+psycopg://", 1))
            server.execute(f'ALTER DATABASE "{name}_begun" RENAME TO "{name}"')
    finally:
        server.execute("SELECT pg_advisory_unlock(%s)", (_MAKING_TEMPLATE,))
    return name


class Application:
    """A served application on the test database, with a worker, as processes of their own."""

    def __init__(self, *, worker: bool = True, processes: int = 1) -> None:
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self._port = free.getsockname()[1]
        self.address = f"http://127.0.0.1:{self._port}"
        self._has_worker, self._processes = worker, processes
        self._others: list[subprocess.Popen[bytes]] = []

    @property
    def _environment(self) -> dict[str, str]:
        """What its processes know; they are many, and load kernels as they need them."""
        return {"IDLE_SHIMMER_WARM_UP": "0", **os.environ}

    def __enter__(self) -> "Application":
        self.worker = self.start_worker() if self._has_worker else None
        self.start_server()
        return self

    def __exit__(self, *_: object) -> None:
        processes = [self.server, *self._others]
        for process in processes:
            process.send_signal(signal.SIGCONT)
            process.terminate()
        try:
            for process in processes:
                process.wait(timeout=120)
        finally:
            # One that does not end is a failure, and outlives no test.
            for process in processes:
                process.kill()

    def start_server(self) -> None:
        """Start the server, at the same address as before, and wait until it answers."""
        arguments = [COMMAND, "serve", "--port", str(self._port)]
        arguments += ["--workers", str(self._processes)]
        self.server = subprocess.Popen(arguments, cwd=ROOT, env=self._environment)
        ready = ROOT / "scripts" / "wait_ready.py"
        waited = [sys.executable, str(ready), f"{self.address}/api/health", str(self.server.pid)]
        subprocess.run(waited, check=True)

    def kill_server(self) -> None:
        """End the server without a chance to clean up."""
        self.server.kill()
        self.server.wait(120)

    def start_worker(self) -> "subprocess.Popen[bytes]":
        """Start one more worker."""
        self._others.append(subprocess.Popen([COMMAND, "worker"], cwd=ROOT, env=self._environment))
        return self._others[-1]

    def processes_alive(self) -> list[bool]:
        """Whether server and worker run."""
        return [process.poll() is None for process in (self.server, *self._others[:1])]


@contextmanager
def running_application() -> Iterator[str]:
    """The address of a served application on the test database, with a worker."""
    with Application() as running:
        yield running.address
