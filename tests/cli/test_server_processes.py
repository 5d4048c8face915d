"""Several server processes at one address: what one of them knows, all of them know."""

import os
import signal
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from idle_shimmer.store.accounts.accounts import add_account
from idle_shimmer.store.accounts.sign_in_failures import MOST
from idle_shimmer.store.database import session_scope
from tests.support.server import Application, empty_database

NAME, WORD = "Ana", "lanterns on the water"
# So many new connections reach both processes.
MANY = 20


@pytest.fixture(scope="module")
def application() -> Iterator[Application]:
    empty_database()
    with Application(worker=False, processes=2) as running:
        yield running


def asked(application: Application) -> httpx.Client:
    """A browser that opens a connection for each request."""
    fresh = httpx.Limits(max_keepalive_connections=0)
    return httpx.Client(base_url=application.address, trust_env=False, timeout=60, limits=fresh)


def serving(application: Application) -> set[int]:
    """The processes that serve."""
    parent = application.server.pid
    listed = Path(f"/proc/{parent}/task/{parent}/children").read_text().split()
    return {int(each) for each in listed if b"spawn_main" in command_of(each)}


def command_of(process: str) -> bytes:
    try:
        return Path(f"/proc/{process}/cmdline").read_bytes()
    except OSError:
        # It ended just now.
        return b""


def test_one_that_ends_is_replaced_while_the_other_one_answers(application: Application) -> None:
    before = serving(application)
    assert len(before) == 2
    os.kill(min(before), signal.SIGKILL)
    with asked(application) as browser:
        while len(serving(application) - {min(before)}) < 2:
            try:
                assert browser.get("/api/edits").status_code == 200
            except httpx.TransportError:
                # The connection was that of the process that ended.
                continue


def test_what_one_saves_the_others_show(application: Application) -> None:
    with asked(application) as browser:
        for n in range(MANY):
            saved = browser.post("/api/recipes", json={"recipe": {"name": f"Quay {n}"}}).json()[
                "id"
            ]
            own = browser.get("/api/recipes").json()["own"]
            assert saved in {each["id"] for each in own}
            assert len(own) == n + 1


def test_failed_attempts_count_for_all_of_them(application: Application) -> None:
    with session_scope() as session:
        add_account(session, NAME, WORD)
    with asked(application) as browser:
        answers = [
            browser.post("/api/session", json={"name": NAME, "password": "guess"}).status_code
            for _ in range(MANY)
        ]
    assert answers == [422] * MOST + [429] * (MANY - MOST)
