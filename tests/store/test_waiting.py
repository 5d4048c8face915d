"""A database that does not answer yet, and errors for which waiting is of use."""

import socket

import pytest
from sqlalchemy import Engine, create_engine, text
from sqlalchemy.exc import DataError, OperationalError

from idle_shimmer.jobs import patience
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.store import database
from idle_shimmer.store.database import DatabaseSilent, engine, wait_for_database


@pytest.fixture
def silent() -> Engine:
    """A database at a port where nobody listens."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    return create_engine(f"postgresql+psycopg://127.0.0.1:{port}/lanterns_test")


def test_a_database_that_starts_is_waited_for(
    silent: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    states = [silent, silent, engine()]
    monkeypatch.setattr(database, "engine", lambda: states.pop(0))
    monkeypatch.setattr(database, "_ASK_AGAIN_S", 0)
    wait_for_database()
    assert states == []


def test_a_database_that_stays_away_is_named(
    silent: Engine, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(database, "engine", lambda: silent)
    with pytest.raises(DatabaseSilent, match="does not answer: connection failed") as raised:
        wait_for_database(-1)
    assert raised.value.field == "DATABASE_URL"


def test_only_what_may_pass_is_tried_again(silent: Engine, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(patience, "_RETRY_S", 0)
    asked: list[Engine] = []

    def ask(states: list[Engine], query: str) -> object:
        asked.append(states[0])
        with states.pop(0).connect() as connection:
            return connection.scalar(text(query))

    states = [silent, silent, engine()]
    assert patiently(lambda: ask(states, "SELECT 7")) == 7
    assert len(asked) == 3
    states = [engine(), engine()]
    with pytest.raises(DataError):
        patiently(lambda: ask(states, "SELECT 1 / 0"))
    assert len(asked) == 4
    monkeypatch.setattr(patience, "_WAIT_S", -1)
    with pytest.raises(OperationalError):
        patiently(lambda: ask([silent], "SELECT 7"))
