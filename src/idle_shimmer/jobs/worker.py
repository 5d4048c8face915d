"""The worker: runs jobs of every queue until it is stopped, and keeps the queue in order."""

import asyncio
import os
import signal
import time
from contextlib import suppress

import procrastinate
import psycopg
import structlog
from procrastinate.exceptions import ConnectorException

import idle_shimmer.jobs.tasks  # noqa: F401 - registers the tasks
from idle_shimmer.core.frame.warm_up import warm_up
from idle_shimmer.files.store_mark import StoreUnreachable
from idle_shimmer.jobs.blueprint import tasks
from idle_shimmer.jobs.defer import (
    DETECTIONS,
    NAMESPACE,
    PROXIES,
    RENDERS,
    SUBJECTS,
    UPKEEP,
    defer_beat_detection,
    defer_cut_detection,
    defer_matte,
    defer_render,
)
from idle_shimmer.media.decode.forked import prepare
from idle_shimmer.settings import settings
from idle_shimmer.store.clips import beat_detections, cut_detections, subject_mattes
from idle_shimmer.store.database import session_scope, wait_for_database
from idle_shimmer.store.installation import guard_store
from idle_shimmer.store.queue_state import waiting_jobs
from idle_shimmer.store.renders import renders
from idle_shimmer.store.sweeping import sweep

_log = structlog.get_logger(__name__)
_STALLED_AFTER_S = 20
_GRACE_S = 0.2
_NICE = 10
# Pauses before the worker tries a database again that does not answer.
_FIRST_PAUSE_S, _LONGEST_PAUSE_S, _SETTLED_S = 1.0, 30.0, 60.0


def run_worker() -> None:
    """Work until stopped. A job whose worker has died is taken up again within forty seconds."""
    # Previews go before renders.
    os.nice(_NICE)
    wait_for_database()
    guard_store()
    with suppress(StoreUnreachable), session_scope() as session:
        sweep(session)
    with session_scope() as session:
        is_idle = waiting_jobs(session) == 0
    if is_idle and settings().idle_shimmer_warm_up:
        # The first render need not wait then for what it runs to be loaded.
        prepare()
        warm_up()
    asyncio.run(_work())


async def _work() -> None:
    """Work until a signal to stop; where the database goes away, wait until it is back."""
    stop = asyncio.Event()
    for number in (signal.SIGINT, signal.SIGTERM):
        asyncio.get_running_loop().add_signal_handler(number, stop.set)
    # One for all attempts: a blueprint's tasks are renamed each time that they are added.
    app = _working()
    pause_s = _FIRST_PAUSE_S
    while not stop.is_set():
        began = time.monotonic()
        try:
            await _work_until(stop, app)
        except (ConnectorException, psycopg.Error, OSError) as error:
            if time.monotonic() - began > _SETTLED_S:
                pause_s = _FIRST_PAUSE_S
            _log.warning("the database does not answer", error=str(error), retry_in_s=pause_s)
            with suppress(TimeoutError):
                await asyncio.wait_for(stop.wait(), pause_s)
            pause_s = min(2 * pause_s, _LONGEST_PAUSE_S)


def _working() -> procrastinate.App:
    """Return the queue for a worker, with the upkeep that runs every ten seconds."""
    address = settings().plain_database()
    # Each worker's connections count: a server has a hundred, and installations have many workers.
    app = procrastinate.App(
        connector=procrastinate.PsycopgConnector(conninfo=address, min_size=1, max_size=4)
    )
    app.add_tasks_from(tasks, namespace=NAMESPACE)

    @app.periodic(cron="* * * * * */10")
    @app.task(queue=UPKEEP, queueing_lock="retry-stalled", pass_context=True, name="retry_stalled")
    async def retry_stalled(context: procrastinate.JobContext, timestamp: int) -> None:
        """Retry jobs whose worker has gone, and queue what has lost its job."""
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_STALLED_AFTER_S):
            await app.job_manager.retry_job(job)
        await asyncio.to_thread(requeue_forgotten)

    return app


def requeue_forgotten() -> None:
    """Queue the renders and detections that wait or run, but have no job that will end."""
    with session_scope() as session:
        for render in renders.without_job(session):
            _log.warning("a render had lost its job", render=str(render))
            defer_render(session, str(render))
        for clip in cut_detections.without_job(session):
            _log.warning("a detection had lost its job", clip=str(clip))
            defer_cut_detection(session, str(clip))
        for sound in beat_detections.without_job(session):
            _log.warning("a detection of beats had lost its job", clip=str(sound))
            defer_beat_detection(session, str(sound))
        for matte in subject_mattes.without_job(session):
            _log.warning("the mattes of a subject had lost their job", matte=str(matte))
            defer_matte(session, str(matte))


async def _work_until(stop: asyncio.Event, app: procrastinate.App) -> None:
    async with app.open_async():
        # Upkeep, subjects and proxies have slots of their own: a long render does not keep them waiting.
        workers = [
            asyncio.create_task(
                app.run_worker_async(
                    queues=queues,
                    concurrency=1,
                    # Being told of jobs takes a connection; what nobody waits for is looked for now and then.
                    listen_notify=queues not in ([PROXIES], [UPKEEP]),
                    shutdown_graceful_timeout=_GRACE_S,
                    delete_jobs="successful",
                    install_signal_handlers=False,
                )
            )
            for queues in ([RENDERS, DETECTIONS], [SUBJECTS], [PROXIES], [UPKEEP])
        ]
        stopping = asyncio.create_task(stop.wait())
        await asyncio.wait([*workers, stopping], return_when=asyncio.FIRST_COMPLETED)
        stopping.cancel()
        for worker in workers:
            worker.cancel()
        for outcome in await asyncio.gather(*workers, return_exceptions=True):
            if isinstance(outcome, Exception):
                raise outcome
