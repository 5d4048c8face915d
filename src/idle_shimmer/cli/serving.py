"""Commands that serve the application: server, worker, database, demo, compilation."""

from typing import Annotated

import typer

from idle_shimmer.cli.problems import plain_errors


def serve(
    port: Annotated[int, typer.Option(help="Port on this machine.")] = 8350,
) -> None:
    """Serve the application on this machine."""
    with plain_errors():
        from idle_shimmer.api.app import serve as serve_app
        from idle_shimmer.core.compute.allocator import keep_freed_memory

        keep_freed_memory()
        serve_app(port)


def worker() -> None:
    """Run the jobs that are queued in the database, until stopped."""
    with plain_errors():
        from idle_shimmer.core.compute.allocator import keep_freed_memory
        from idle_shimmer.jobs.queue import run_worker

        keep_freed_memory()
        run_worker()


def migrate() -> None:
    """Bring the database to this version's tables."""
    with plain_errors():
        from idle_shimmer.store.migrate import upgrade

        upgrade()


def demo() -> None:
    """Draw the demo clips and load the edit "Lantern night"."""
    with plain_errors():
        from idle_shimmer.demo.load import load_demo

        print(load_demo())


def warm() -> None:
    """Compile every kernel now, so that the first frame does not wait."""
    from idle_shimmer.core.warm_up import warm_up

    warm_up()


COMMANDS = (serve, worker, migrate, demo, warm)
