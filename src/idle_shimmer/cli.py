"""The command line: what scripts and batch users call. It uses the same core as the server."""

import json
import sys
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from idle_shimmer.catalogue import catalogue
from idle_shimmer.core.errors import InvalidValue, ShimmerError
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from idle_shimmer.core.timing import Window, parse_rate
from idle_shimmer.media.conform import ConformedClip
from idle_shimmer.media.reader import VideoReader
from idle_shimmer.rendering import sound_around_cut, write_transition
from idle_shimmer.transition import Transition

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)


@app.callback()
def _about() -> None:
    """Builds transitions out of image filters across the cut between two clips."""


@contextmanager
def _plain_errors() -> Iterator[None]:
    """One clear line on standard error and exit 2, in place of a trace."""
    try:
        yield
    except ShimmerError as error:
        _refuse(str(error))
    except PermissionError as error:
        _refuse(f"{error.filename}: no permission to write or read it")
    except OSError as error:
        _refuse(f"{error.filename or 'file'}: {error.strerror or error}")


def _refuse(message: str) -> NoReturn:
    print(" ".join(f"idle-shimmer: {message}".split()), file=sys.stderr)
    raise SystemExit(2)


@app.command()
def render(
    outgoing: Annotated[Path, typer.Option(help="The clip before the cut.")],
    incoming: Annotated[Path, typer.Option(help="The clip after the cut.")],
    recipe: Annotated[Path, typer.Option(help="The recipe, a JSON file.")],
    out: Annotated[
        Path, typer.Option(help="A folder for PNG pictures, or a .mp4, .mov, .mkv or .webm file.")
    ],
    before: Annotated[
        int | None, typer.Option(help="Frames of the window ahead of the cut.")
    ] = None,
    after: Annotated[int | None, typer.Option(help="Frames of the window from the cut.")] = None,
    outgoing_out: Annotated[
        int | None,
        typer.Option(
            help="First frame of the outgoing clip that is not shown; its end by default."
        ),
    ] = None,
    incoming_in: Annotated[
        int, typer.Option(help="First frame of the incoming clip that is shown.")
    ] = 0,
    size: Annotated[
        str | None,
        typer.Option(help="Frame size, such as 1280x720; the outgoing clip's by default."),
    ] = None,
    margin: Annotated[int, typer.Option(help="Untouched frames on each side of the window.")] = 1,
    rate: Annotated[
        str | None,
        typer.Option(
            help="Frames a second, such as 25 or 30000/1001; the outgoing clip's by default."
        ),
    ] = None,
) -> None:
    """Render a transition: its window, and a margin of untouched frames around it."""
    with _plain_errors(), ExitStack() as opened:
        transition = _transition(
            opened, outgoing, incoming, recipe, before, after, outgoing_out, incoming_in, size, rate
        )
        if margin < 0:
            raise InvalidValue(f"{margin} is less than 0: give 0 or more frames", field="--margin")
        transition.require_frames(margin)
        clip = transition.outgoing
        assert isinstance(clip, ConformedClip)
        window = transition.window
        with_sound = out.suffix != "" and any(
            isinstance(one, ConformedClip) and one.reader.facts.has_sound
            for one in (transition.outgoing, transition.incoming)
        )
        sound = None
        if with_sound:
            sound = sound_around_cut(
                outgoing,
                incoming,
                transition.outgoing_out,
                incoming_in,
                window.before + margin,
                window.after + margin,
                clip.rate,
            )
        write_transition(transition, out, clip.reader.size, clip.rate, margin, sound)


def _transition(
    opened: ExitStack,
    outgoing: Path,
    incoming: Path,
    recipe_path: Path,
    before: int | None,
    after: int | None,
    outgoing_out: int | None,
    incoming_in: int,
    size: str | None,
    rate: str | None,
) -> Transition:
    recipe = _read_recipe(recipe_path)
    frame_size = _parse_size(size) if size else None
    one = opened.enter_context(VideoReader(outgoing, frame_size))
    other = opened.enter_context(VideoReader(incoming, frame_size or one.size))
    frame_rate = parse_rate(rate) if rate else one.facts.rate
    clips = ConformedClip(one, frame_rate), ConformedClip(other, frame_rate)
    if outgoing_out is None:
        outgoing_out = clips[0].count or 0
    for name, clip, number in (
        ("--outgoing-out", clips[0], outgoing_out),
        ("--incoming-in", clips[1], incoming_in),
    ):
        if clip.count is not None and not 0 <= number <= clip.count:
            raise InvalidValue(
                f"{clip.name} has {clip.count} frames, so {number} lies outside it", field=name
            )
    return Transition(
        *clips, outgoing_out, incoming_in, _window(recipe, before, after), recipe, rate=frame_rate
    )


def _window(recipe: Recipe, before: int | None, after: int | None) -> Window:
    suggested = recipe.window
    before = before if before is not None else suggested.before if suggested else None
    after = after if after is not None else suggested.after if suggested else None
    if before is None or after is None:
        raise InvalidValue(
            "the recipe suggests no window: give --before and --after", field="--before, --after"
        )
    return Window(before, after)


def _read_recipe(path: Path) -> Recipe:
    try:
        text = path.read_text(encoding="utf-8")
    except UnicodeDecodeError:
        raise InvalidValue(f"{path} is no text: give a recipe as JSON", field="--recipe") from None
    except OSError as error:
        raise InvalidValue(f"{path} cannot be read: {error.strerror}", field="--recipe") from None
    return recipe_from_json(text)


def _parse_size(text: str) -> tuple[int, int]:
    parts = text.lower().split("x")
    if len(parts) == 2 and all(part.isdigit() for part in parts):
        width, height = int(parts[0]), int(parts[1])
        if 2 <= width <= 16384 and 2 <= height <= 16384:
            return width, height
    raise InvalidValue(f"'{text}' is no frame size: write it as 1280x720", field="--size")


@app.command()
def passes(
    as_json: Annotated[bool, typer.Option("--json", help="As JSON, with every parameter.")] = False,
) -> None:
    """List the passes and mixes that recipes are made of."""
    listed = catalogue()
    if as_json:
        print(json.dumps(listed, indent=1))
        return
    for each in listed["passes"]:
        print(f"{each['kind']:20} {each['purpose']}")
    for each in listed["mixes"]:
        print(f"mix {each['kind']:16} {each['purpose']}")


@app.command()
def serve(
    port: Annotated[int, typer.Option(help="Port on this machine.")] = 8350,
) -> None:
    """Serve the application on this machine."""
    from idle_shimmer.api.app import serve as serve_app

    with _plain_errors():
        serve_app(port)


@app.command()
def worker() -> None:
    """Run the jobs that wait in the database, until stopped."""
    from idle_shimmer.jobs.app import run_worker

    with _plain_errors():
        run_worker()


@app.command()
def migrate() -> None:
    """Bring the database to this version's tables."""
    from idle_shimmer.store.migrate import upgrade

    with _plain_errors():
        upgrade()


@app.command()
def demo() -> None:
    """Draw the demo clips and load the edit "Lantern night"."""
    from idle_shimmer.demo.load import load_demo

    with _plain_errors():
        print(load_demo())


@app.command()
def warm() -> None:
    """Compile every kernel now, so that the first frame does not wait."""
    from idle_shimmer.core.warm import warm_up

    warm_up()


def main() -> None:
    """Entry point; arguments that cannot be understood exit with 2, as Typer does."""
    app()
