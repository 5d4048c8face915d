"""The job queue: how jobs are deferred, and the worker that runs them."""

import asyncio
import os
import signal
from contextlib import suppress
from functools import lru_cache

import procrastinate

from idle_shimmer.jobs.tasks import tasks
from idle_shimmer.settings import settings

_STALLED_AFTER_S = 20
_UPKEEP = "upkeep"
_GRACE_S = 3
_NICE = 10


@lru_cache(maxsize=1)
def queue() -> procrastinate.App:
    """Return the queue for a process that only defers jobs."""
    app = _app(procrastinate.SyncPsycopgConnector(conninfo=settings().plain_database()))
    app.open()
    return app


def _app(connector: procrastinate.BaseConnector) -> procrastinate.App:
    app = procrastinate.App(connector=connector)
    app.add_tasks_from(tasks, namespace="shimmer")
    return app


def defer_render(render_id: str) -> None:
    """Queue a render, once: where it is queued already, that job renders it."""
    job = queue().configure_task(
        "shimmer:render", queue="render", queueing_lock=f"render-{render_id}"
    )
    with suppress(procrastinate.exceptions.AlreadyEnqueued):
        job.defer(render_id=render_id)


def defer_cut_detection(clip_id: str) -> None:
    """Queue the detection of a clip's cuts."""
    queue().configure_task("shimmer:detect_cuts", queue="detection").defer(clip_id=clip_id)


def run_worker() -> None:
    """Work until stopped. A job whose worker has died is taken up again within half a minute."""
    # Previews go before renders.
    os.nice(_NICE)
    asyncio.run(_work())


async def _work() -> None:
    app = _app(procrastinate.PsycopgConnector(conninfo=settings().plain_database()))

    @app.periodic(cron="* * * * * */10")
    @app.task(queue=_UPKEEP, queueing_lock="retry-stalled", pass_context=True, name="retry_stalled")
    async def retry_stalled(context: procrastinate.JobContext, timestamp: int) -> None:
        """Retry jobs whose worker has gone."""
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_STALLED_AFTER_S):
            await app.job_manager.retry_job(job)

    async with app.open_async():
        # Upkeep has a slot of its own: a long render does not keep it waiting.
        stop = asyncio.Event()
        for number in (signal.SIGINT, signal.SIGTERM):
            asyncio.get_running_loop().add_signal_handler(number, stop.set)
        workers = [
            asyncio.create_task(
                app.run_worker_async(
                    queues=queues,
                    concurrency=1,
                    shutdown_graceful_timeout=_GRACE_S,
                    delete_jobs="successful",
                    install_signal_handlers=False,
                )
            )
            for queues in (["render", "detection"], [_UPKEEP])
        ]
        stopping = asyncio.create_task(stop.wait())
        await asyncio.wait([*workers, stopping], return_when=asyncio.FIRST_COMPLETED)
        for worker in workers:
            worker.cancel()
        for outcome in await asyncio.gather(*workers, return_exceptions=True):
            if isinstance(outcome, Exception):
                raise outcome
