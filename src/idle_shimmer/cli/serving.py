"""Commands that serve the application: server, worker, database, demo, compilation."""

import json
from dataclasses import asdict
from typing import Annotated

import typer

from idle_shimmer.cli.problems import plain_errors


def serve(
    port: Annotated[int, typer.Option(help="Port to listen at.", min=1, max=65535)] = 8350,
    host: Annotated[
        str, typer.Option(help="Address to listen at; beyond this machine accounts are needed.")
    ] = "127.0.0.1",
    name: Annotated[
        list[str] | None, typer.Option(help="Host name to answer to, as browsers write it.")
    ] = None,
    workers: Annotated[
        int, typer.Option(help="Server processes; more make more previews at once.", min=1, max=64)
    ] = 1,
) -> None:
    """Serve the application, by default on this machine only."""
    with plain_errors():
        from idle_shimmer.logs import configure_logs

        configure_logs()
        from idle_shimmer.api.app import serve as serve_app

        serve_app(port, host, name or (), workers)


def worker() -> None:
    """Run the jobs that are queued in the database, until stopped."""
    with plain_errors():
        from idle_shimmer.core.compute.allocator import keep_freed_memory
        from idle_shimmer.core.compute.collector import resume_collection
        from idle_shimmer.jobs.worker import run_worker
        from idle_shimmer.logs import configure_logs

        configure_logs()
        keep_freed_memory()
        resume_collection()
        run_worker()


def migrate() -> None:
    """Bring the database to this version's tables."""
    with plain_errors():
        from idle_shimmer.store.migrate import upgrade

        upgrade()


def fill_store() -> None:
    """Copy the files of the data folder into the store that IDLE_SHIMMER_STORE names."""
    with plain_errors():
        from idle_shimmer.store.filling import fill_store as fill

        print(fill())


def demo() -> None:
    """Draw the demo clips and load the edit "Lantern night"."""
    with plain_errors():
        from idle_shimmer.demo.load_demo import load_demo

        print(load_demo())


def warm(
    beats: Annotated[
        bool, typer.Option("--beats", help="Also compile the beat tracker: a minute or two.")
    ] = False,
) -> None:
    """Compile every kernel now, so that the first frame does not wait."""
    from idle_shimmer.core.frame.warm_up import warm_up

    warm_up()
    if beats:
        from idle_shimmer.core.sound.beats import compile_tracking

        compile_tracking()


def doctor(
    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False,
) -> None:
    """Say what this installation lacks, and what to do; exit 1 where something does not work."""
    from idle_shimmer.cli.doctor import examine

    found = list(examine())
    if as_json:
        print(json.dumps({"findings": [asdict(each) for each in found]}, indent=1))
    else:
        for each in found:
            print(f"{each.status:8} {each.what:12} {each.message}")
    raise SystemExit(1 if any(each.status == "failed" for each in found) else 0)


COMMANDS = (doctor, serve, worker, migrate, fill_store, demo, warm)
