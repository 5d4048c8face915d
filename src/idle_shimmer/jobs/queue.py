"""The job queue: how jobs are deferred, and the worker that runs them."""

import os
from functools import lru_cache

import procrastinate

from idle_shimmer.jobs.tasks import tasks
from idle_shimmer.settings import settings

_STALLED_AFTER_S = 30
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
    """Queue a render."""
    queue().configure_task("shimmer:render", queue="render").defer(render_id=render_id)


def defer_cut_detection(clip_id: str) -> None:
    """Queue the detection of a clip's cuts."""
    queue().configure_task("shimmer:detect_cuts", queue="detection").defer(clip_id=clip_id)


def run_worker() -> None:
    """Work until stopped. A job whose worker died is retried after half a minute."""
    # Previews go before renders.
    os.nice(_NICE)
    app = _app(procrastinate.PsycopgConnector(conninfo=settings().plain_database()))

    @app.periodic(cron="* * * * *")
    @app.task(queueing_lock="retry-stalled", pass_context=True, name="retry_stalled")
    async def retry_stalled(context: procrastinate.JobContext, timestamp: int) -> None:
        """Retry jobs whose worker has gone."""
        for job in await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=_STALLED_AFTER_S):
            await app.job_manager.retry_job(job)

    app.run_worker(concurrency=1, shutdown_graceful_timeout=_GRACE_S, delete_jobs="successful")
