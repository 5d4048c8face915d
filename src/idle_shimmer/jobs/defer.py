"""Defers jobs by the names of their tasks: whoever does so need not load what the tasks run.

A job becomes visible together with the rows of the session that it is deferred in, or not at all.
"""

from contextlib import suppress
from dataclasses import dataclass
from functools import lru_cache

import procrastinate
import psycopg
from procrastinate.exceptions import AlreadyEnqueued
from sqlalchemy.orm import Session

from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope

NAMESPACE = "shimmer"
RENDERS, DETECTIONS, SUBJECTS, PROXIES, UPKEEP = (
    "render",
    "detection",
    "subjects",
    "proxies",
    "upkeep",
)
# So many workers at most help with one render.
MOST_HELPERS = 63


@dataclass(frozen=True)
class JobKind:
    """A kind of job: the name of its task, its queue, and the argument that names what it is about."""

    task: str
    queue: str
    argument: str
    priority: int = 0


_RENDER = JobKind("render", RENDERS, "render_id")
# Renders that wait go before help with those that run.
_HELP = JobKind("help_render", RENDERS, "segments_of", priority=-1)
_CUTS = JobKind("detect_cuts", DETECTIONS, "clip_id")
_BEATS = JobKind("detect_beats", DETECTIONS, "beats_of")
_MATTE = JobKind("make_matte", SUBJECTS, "matte_id")
_PROXY = JobKind("make_proxy", PROXIES, "proxy_of")


@lru_cache(maxsize=1)
def _app() -> procrastinate.App:
    """Return the queue for a process that only defers jobs, on connections that it is given."""
    return procrastinate.App(
        connector=procrastinate.SyncPsycopgConnector(conninfo=settings().plain_database())
    )


def defer_render(session: Session, render_id: str) -> None:
    """Queue a render, once: where it is queued already, that job renders it."""
    defer(session, _RENDER, render_id, f"render-{render_id}")


def defer_help(render_id: str, most: int) -> None:
    """Ask up to ``most`` other workers to render segments of a render."""
    with session_scope() as session:
        for number in range(min(most, MOST_HELPERS)):
            defer(session, _HELP, render_id, f"help-{render_id}-{number}")


def defer_cut_detection(session: Session, clip_id: str) -> None:
    """Queue the detection of a clip's cuts, once."""
    defer(session, _CUTS, clip_id, f"detection-{clip_id}")


def defer_beat_detection(session: Session, clip_id: str) -> None:
    """Queue the detection of a sound's beats, once."""
    defer(session, _BEATS, clip_id, f"beats-{clip_id}")


def defer_matte(session: Session, matte_id: str) -> None:
    """Queue the making of the mattes of a subject.

    A job that makes earlier ones of them ends when it has lost its claim; this one follows.
    """
    defer(session, _MATTE, matte_id, f"matte-{matte_id}")


def defer_proxy(session: Session, clip_id: str) -> None:
    """Queue the making of a clip's proxy, once."""
    defer(session, _PROXY, clip_id, f"proxy-{clip_id}")


def defer(session: Session, kind: JobKind, about: str, lock: str) -> None:
    """Queue a job about a row, on the session's connection; none where one of that ``lock`` waits."""
    session.flush()
    driver = session.connection().connection.driver_connection
    if not isinstance(driver, psycopg.Connection):
        raise TypeError("jobs are deferred on connections of psycopg")
    # What fails inside undoes only itself.
    with suppress(AlreadyEnqueued), driver.transaction():
        _app().configure_task(
            f"{NAMESPACE}:{kind.task}",
            queue=kind.queue,
            priority=kind.priority,
            queueing_lock=lock,
            connection=driver,
        ).defer(**{kind.argument: about})
