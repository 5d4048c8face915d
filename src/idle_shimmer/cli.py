"""The command line: what scripts and batch users call. It uses the same core as the server."""

import json
import sys
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import asdict, dataclass
from functools import partial
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from idle_shimmer.book import book, entry
from idle_shimmer.catalogue import catalogue
from idle_shimmer.checking import check_transition, frame_or_none, small_size
from idle_shimmer.core.checks.base import SEVERITY, worst
from idle_shimmer.core.errors import InvalidValue, ShimmerError
from idle_shimmer.core.memory import keep_freed_memory
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from idle_shimmer.core.timing import Window, parse_rate
from idle_shimmer.media.conform import ConformedClip
from idle_shimmer.media.cuts import USUAL_THRESHOLD, find_cuts
from idle_shimmer.media.mattes import matte_reader
from idle_shimmer.media.reader import VideoReader
from idle_shimmer.media.sound import Sound
from idle_shimmer.rendering import sound_around_cut, write_transition
from idle_shimmer.transition import Transition

app = typer.Typer(add_completion=False, no_args_is_help=True, pretty_exceptions_enable=False)


@app.callback()
def _prepared() -> None:
    """Builds transitions out of image filters across the cut between two clips."""
    keep_freed_memory()


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


@dataclass(frozen=True)
class _Given:
    """The options that render and check share: two clips, a recipe, and where they meet."""

    outgoing: Path
    incoming: Path
    recipe: Path
    before: int | None
    after: int | None
    outgoing_out: int | None
    incoming_in: int
    size: str | None
    rate: str | None


_Outgoing = Annotated[Path, typer.Option(help="The clip before the cut.")]
_Incoming = Annotated[Path, typer.Option(help="The clip after the cut.")]
_RecipeFile = Annotated[Path, typer.Option(help="The recipe, a JSON file.")]
_Before = Annotated[int | None, typer.Option(help="Frames of the window ahead of the cut.")]
_After = Annotated[int | None, typer.Option(help="Frames of the window from the cut.")]
_OutgoingOut = Annotated[
    int | None,
    typer.Option(help="First frame of the outgoing clip that is not shown; its end by default."),
]
_IncomingIn = Annotated[int, typer.Option(help="First frame of the incoming clip that is shown.")]
_SizeText = Annotated[
    str | None, typer.Option(help="Frame size, such as 1280x720; the outgoing clip's by default.")
]
_RateText = Annotated[
    str | None,
    typer.Option(help="Frames a second, such as 25 or 30000/1001; the outgoing clip's by default."),
]
_AsJson = Annotated[bool, typer.Option("--json", help="As JSON.")]


@app.command()
def render(
    outgoing: _Outgoing,
    incoming: _Incoming,
    recipe: _RecipeFile,
    out: Annotated[
        Path, typer.Option(help="A folder for PNG pictures, or a .mp4, .mov, .mkv or .webm file.")
    ],
    before: _Before = None,
    after: _After = None,
    outgoing_out: _OutgoingOut = None,
    incoming_in: _IncomingIn = 0,
    size: _SizeText = None,
    margin: Annotated[int, typer.Option(help="Untouched frames on each side of the window.")] = 1,
    rate: _RateText = None,
) -> None:
    """Render a transition: its window, and a margin of untouched frames around it."""
    given = _Given(outgoing, incoming, recipe, before, after, outgoing_out, incoming_in, size, rate)
    with _plain_errors(), ExitStack() as opened:
        transition = _transition(opened, given)
        if margin < 0:
            raise InvalidValue(f"{margin} is less than 0: give 0 or more frames", field="--margin")
        transition.require_frames(margin)
        clip = _conformed(transition.outgoing)
        sound = _sound(transition, given, margin) if out.suffix else None
        write_transition(transition, out, clip.reader.size, clip.rate, margin, sound)


@app.command()
def check(
    outgoing: _Outgoing,
    incoming: _Incoming,
    recipe: _RecipeFile,
    before: _Before = None,
    after: _After = None,
    outgoing_out: _OutgoingOut = None,
    incoming_in: _IncomingIn = 0,
    size: _SizeText = None,
    margin: Annotated[int, typer.Option(hidden=True)] = 1,
    rate: _RateText = None,
    out: Annotated[Path | None, typer.Option(hidden=True)] = None,
    as_json: _AsJson = False,
) -> None:
    """Check whether a transition lands cleanly; exit 1 where something is broken."""
    # Taken so that a render's options can be given as they are.
    del margin, out
    given = _Given(outgoing, incoming, recipe, before, after, outgoing_out, incoming_in, size, rate)
    with _plain_errors(), ExitStack() as opened:
        transition = _transition(opened, given)
        transition.require_window()
        clip = _conformed(transition.outgoing)
        small = _transition(opened, given, small_size(clip.reader.size))
        facts = clip.reader.facts
        scale = max(clip.reader.size[0] / facts.width, clip.reader.size[1] / facts.height)
        findings = check_transition(
            transition, clip.reader.size, partial(frame_or_none, small), source_scale=scale
        )
    if as_json:
        print(json.dumps({"checks": [each.as_json() for each in findings]}, indent=1))
    else:
        for each in sorted(findings, key=lambda one: -SEVERITY[one.verdict]):
            print(f"{each.verdict:7} {each.id:13} {each.sentence}")
            if each.mend is not None:
                print(f"{'':21} mend: {each.mend.label}")
    raise SystemExit(1 if worst(findings).verdict == "broken" else 0)


def _conformed(clip: object) -> ConformedClip:
    assert isinstance(clip, ConformedClip)
    return clip


def _sound(transition: Transition, given: _Given, margin: int) -> Sound | None:
    sides = _conformed(transition.outgoing), _conformed(transition.incoming)
    if not any(one.reader.facts.has_sound for one in sides):
        return None
    window = transition.window
    return sound_around_cut(
        given.outgoing,
        given.incoming,
        transition.outgoing_out,
        given.incoming_in,
        window.before + margin,
        window.after + margin,
        sides[0].rate,
    )


def _transition(
    opened: ExitStack, given: _Given, small: tuple[int, int] | None = None
) -> Transition:
    """What the options ask for; at the size ``small`` where that is given."""
    recipe = _read_recipe(given.recipe)
    frame_size = small or (_parse_size(given.size) if given.size else None)
    one = opened.enter_context(VideoReader(given.outgoing, frame_size))
    other = opened.enter_context(VideoReader(given.incoming, frame_size or one.size))
    frame_rate = parse_rate(given.rate) if given.rate else one.facts.rate
    clips = ConformedClip(one, frame_rate), ConformedClip(other, frame_rate)
    outgoing_out = given.outgoing_out
    if outgoing_out is None:
        outgoing_out = clips[0].count or 0
    for name, clip, number in (
        ("--outgoing-out", clips[0], outgoing_out),
        ("--incoming-in", clips[1], given.incoming_in),
    ):
        if clip.count is not None and not 0 <= number <= clip.count:
            raise InvalidValue(
                f"{clip.name} has {clip.count} frames, so {number} lies outside it", field=name
            )
    return Transition(
        *clips,
        outgoing_out,
        given.incoming_in,
        _window(recipe, given.before, given.after),
        recipe,
        rate=frame_rate,
        matte_of=matte_reader(given.recipe.parent, one.size),
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
def recipes(
    name: Annotated[str | None, typer.Argument(help="The slug of one recipe.")] = None,
    as_json: _AsJson = False,
) -> None:
    """List the built-in recipes, or write one of them as JSON."""
    with _plain_errors():
        if name is not None:
            print(json.dumps(entry(name).document, indent=1))
            return
    listed = [
        {
            "slug": each.slug,
            "name": each.recipe.name,
            "tags": list(each.recipe.tags),
            "needs": asdict(each.needs),
            "window": {"before": each.window.before, "after": each.window.after},
            "notes": each.recipe.notes,
        }
        for each in book().values()
    ]
    if as_json:
        print(json.dumps(listed, indent=1))
        return
    for one in listed:
        print(f"{one['slug']:24} {one['notes']}")


@app.command()
def cuts(
    file: Annotated[Path, typer.Argument(help="A finished edit, a video file.")],
    as_json: _AsJson = False,
    threshold: Annotated[
        float, typer.Option(min=0, max=1, help="The least confidence to tell.")
    ] = USUAL_THRESHOLD,
) -> None:
    """Find the cuts of a finished edit: the first frame of every new shot."""
    with _plain_errors():
        found = find_cuts(file, threshold)
    if as_json:
        print(json.dumps({"cuts": [asdict(each) for each in found]}, indent=1))
        return
    for each in found:
        print(f"{each.frame:8}  {each.confidence:.2f}")


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
