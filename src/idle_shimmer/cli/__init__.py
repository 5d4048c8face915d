"""The command line: what scripts and batch users call. It uses the same core as the server.

Commands import what they need when they run, so that the command line starts at once.
"""

import errno
import os
import signal
import sys

import typer

from idle_shimmer.cli import adjusting, listing, mattes, serving, transitions
from idle_shimmer.cli import bake as baking
from idle_shimmer.cli import users as accounts
from idle_shimmer.cli.problems import plain_errors
from idle_shimmer.core.compute.collector import postpone_collection
from idle_shimmer.core.compute.interruption import interruptible

# Plain help: the one with frames takes several times as long to start.
app = typer.Typer(
    add_completion=False,
    no_args_is_help=True,
    pretty_exceptions_enable=False,
    rich_markup_mode=None,
)


@app.callback()
def _describe() -> None:
    """Build transitions out of image filters across the cut between two clips."""


for _commands in (transitions, baking, adjusting, listing, mattes, serving):
    for _command in _commands.COMMANDS:
        app.command()(_command)
app.add_typer(accounts.user, name="user")


def main() -> None:
    """Run the command line; arguments that cannot be understood exit with 2, as Typer does."""
    postpone_collection()
    # A command that is stopped leaves nothing unfinished behind; server and worker stop in their own ways.
    signal.signal(signal.SIGTERM, _stop)
    # Python hears a signal between two calls of compiled code: those of large frames are divided.
    with plain_errors(), interruptible(_go_on):
        try:
            app()
        finally:
            _flush()


def _stop(number: int, _: object) -> None:
    raise SystemExit(128 + number)


def _go_on() -> None:
    """Nothing is asked: a signal raises by itself."""


def _flush() -> None:
    """Write out what was printed. Raises OSError where the output is full; a closed pipe ends quietly."""
    try:
        sys.stdout.flush()
    except OSError as error:
        # What could not be written is not tried again when the interpreter ends.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        if error.errno == errno.EPIPE:
            raise SystemExit(1) from None
        raise
