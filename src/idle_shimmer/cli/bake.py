"""The command that puts a recipe on the cuts of a timeline."""

import re
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from idle_shimmer.cli.options import taking
from idle_shimmer.cli.problems import plain_errors
from idle_shimmer.cli.recipe_files import named_recipe
from idle_shimmer.core.errors import InvalidValue

if TYPE_CHECKING:
    from fractions import Fraction

    from idle_shimmer.core.orientation import Axis
    from idle_shimmer.output.plan import OutputSettings

_PART = re.compile(r"(\d{1,5})(?:-(\d{1,5}))?")
_ENDINGS = (".otio", ".edl")


@dataclass(frozen=True, kw_only=True)
class BakeOptions:
    """What is baked onto which cuts of a timeline, and how it is written."""

    timeline: Annotated[Path, typer.Argument(help="An OpenTimelineIO file or a CMX 3600 list.")]
    media: Annotated[Path, typer.Option(help="The folder of the clips, with its subfolders.")]
    recipe: Annotated[str, typer.Option(help="A built-in recipe, or a JSON file.")]
    out: Annotated[Path, typer.Option(help="The ZIP to write.")]
    cuts: Annotated[
        str | None, typer.Option(help="Which cuts, such as 1,3-5; all of them by default.")
    ] = None
    flip_alternate: Annotated[
        str | None, typer.Option(help="horizontal or vertical: flip alternate cuts.")
    ] = None
    handles: Annotated[int, typer.Option(help="Untreated frames on each side of a window.")] = 12
    output: Annotated[
        str, typer.Option("--format", help="h264, hevc, prores, vp9, av1 or ffv1.")
    ] = "prores"
    quality: Annotated[str, typer.Option(help="draft, standard or high.")] = "standard"
    rate: Annotated[
        str | None, typer.Option(help="The rate of a list; by default the one at which it adds up.")
    ] = None


@taking(BakeOptions)
def bake(options: BakeOptions) -> None:
    """Apply a recipe to the cuts of an OTIO file or an EDL, and write the result as a round trip."""
    with plain_errors():
        from idle_shimmer.core.compute.allocator import keep_freed_memory
        from idle_shimmer.core.compute.collector import resume_collection
        from idle_shimmer.interchange.guarded import read_edit
        from idle_shimmer.output.baking import Baking
        from idle_shimmer.output.baking import bake as baked
        from idle_shimmer.output.opened_edit import opened_here
        from idle_shimmer.output.render_edit import render_edit

        keep_freed_memory()
        resume_collection()
        settings = _settings(options.output, options.quality, options.handles)
        if options.out.suffix.lower() != ".zip":
            raise InvalidValue(
                f"{options.out} does not end in .zip: a round trip is a ZIP", field="--out"
            )
        if not options.out.parent.is_dir():
            raise InvalidValue(
                f"there is no folder {options.out.parent}: create it first", field="--out"
            )
        axis = None if options.flip_alternate is None else _axis(options.flip_alternate)
        text = _text_of(options.timeline)
        document = read_edit(
            text, options.timeline.name, _rate(text, options.timeline.name, options.rate)
        )
        wanted = Baking(named_recipe(options.recipe), _numbers(options.cuts), axis)
        found = baked(document, options.media, wanted)
        with opened_here(found.plan, found.plan.size, Path(options.recipe).parent) as edit:
            render_edit(edit, "round_trip", settings, options.out, lambda: None)
        for line in found.report:
            print(line)


COMMANDS = (bake,)


def _settings(output: str, quality: str, handles: int) -> "OutputSettings":
    from idle_shimmer.cli.choices import one_of
    from idle_shimmer.media.write.output_formats import QUALITIES, output_format
    from idle_shimmer.output.plan import MAX_HANDLES, OutputSettings

    if not 0 <= handles <= MAX_HANDLES:
        raise InvalidValue(f"{handles} is not 0 to {MAX_HANDLES} frames", field="--handles")
    wanted = one_of(quality, QUALITIES, "--quality")
    return OutputSettings(output_format(output), wanted, handles=handles)


def _axis(text: str) -> "Axis":
    from idle_shimmer.cli.choices import one_of
    from idle_shimmer.core.orientation import AXES

    return one_of(text, AXES, "--flip-alternate")


def _text_of(timeline: Path) -> str:
    if timeline.suffix.lower() not in _ENDINGS:
        raise InvalidValue(f"{timeline} is not an .otio or .edl file: choose one", field="TIMELINE")
    try:
        return timeline.read_text(encoding="utf-8", errors="replace")
    except OSError as error:
        raise InvalidValue(
            f"{timeline} cannot be read: {error.strerror}", field="TIMELINE"
        ) from None


def _rate(text: str, name: str, given: str | None) -> "Fraction":
    from idle_shimmer.core.animation.timing import parse_rate
    from idle_shimmer.interchange.list_rates import rate_fits

    if given is not None:
        return parse_rate(given)
    best = rate_fits(text)[0]
    if name.lower().endswith(".edl") and best.fitting < best.events:
        print(
            f"{best.fitting} of {best.events} events add up at {float(best.rate):g} fps: give --rate"
            " if the list has another one"
        )
    return best.rate


def _numbers(text: str | None) -> frozenset[int] | None:
    """Return the numbers in a text such as 1,3-5."""
    if text is None:
        return None
    found: set[int] = set()
    for part in text.split(","):
        match = _PART.fullmatch(part.strip())
        if match is None or (match[2] and int(match[2]) < int(match[1])):
            raise InvalidValue(f"'{text}' is not a list of cuts: write it as 1,3-5", field="--cuts")
        found |= set(range(int(match[1]), int(match[2] or match[1]) + 1))
    return frozenset(found)
