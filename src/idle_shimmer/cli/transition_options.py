"""The options of the commands on one transition."""

from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import typer


@dataclass(frozen=True, kw_only=True)
class TransitionOptions:
    """What render and check share: two clips, a recipe, and where they meet."""

    outgoing: Annotated[Path, typer.Option(help="The clip before the cut.")]
    incoming: Annotated[Path, typer.Option(help="The clip after the cut.")]
    recipe: Annotated[Path, typer.Option(help="The recipe, a JSON file.")]
    before: Annotated[int | None, typer.Option(help="Frames of the window ahead of the cut.")] = (
        None
    )
    after: Annotated[int | None, typer.Option(help="Frames of the window from the cut.")] = None
    outgoing_out: Annotated[
        int | None,
        typer.Option(
            help="First frame of the outgoing clip that is not shown; its end by default."
        ),
    ] = None
    incoming_in: Annotated[
        int, typer.Option(help="First frame of the incoming clip that is shown.")
    ] = 0
    size: Annotated[
        str | None,
        typer.Option(help="Frame size, such as 1280x720; the outgoing clip's by default."),
    ] = None
    rate: Annotated[
        str | None,
        typer.Option(help="Frame rate, such as 25 or 30000/1001; the outgoing clip's by default."),
    ] = None
    outgoing_strokes: Annotated[
        Path | None,
        typer.Option(help="What the subject of the outgoing clip is: a JSON file, as for matte."),
    ] = None
    incoming_strokes: Annotated[
        Path | None, typer.Option(help="What the subject of the incoming clip is.")
    ] = None

    @property
    def strokes(self) -> tuple[Path | None, Path | None]:
        """The strokes of both sides."""
        return self.outgoing_strokes, self.incoming_strokes


@dataclass(frozen=True, kw_only=True)
class RenderOptions(TransitionOptions):
    """What to render, and how it is written."""

    out: Annotated[
        Path,
        typer.Option(
            help="A folder for PNG files, a .mp4, .mov, .mkv or .webm file, or a .wav file for the sound"
            " alone."
        ),
    ]
    margin: Annotated[int, typer.Option(help="Untouched frames on each side of the window.")] = 1
    output: Annotated[
        str | None,
        typer.Option(
            "--format",
            help="h264, hevc, prores, vp9, av1, ffv1, or png8 and png16 in a .zip; by default what the"
            " file's ending says.",
        ),
    ] = None
    quality: Annotated[
        str, typer.Option(help="draft, standard or high, where the format has them.")
    ] = "standard"
    depth: Annotated[
        int | None,
        typer.Option(help="Bits of the pictures, 8 or 16; in a folder 8 by default."),
    ] = None
    sound: Annotated[str, typer.Option(help="on, or off for pictures alone.")] = "on"


@dataclass(frozen=True, kw_only=True)
class CheckOptions(TransitionOptions):
    """What to check. A render's options can be given unchanged: what checks do not need is ignored."""

    as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False
    margin: Annotated[int, typer.Option(hidden=True)] = 1
    out: Annotated[Path | None, typer.Option(hidden=True)] = None
