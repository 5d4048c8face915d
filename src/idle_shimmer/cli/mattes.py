"""The command that writes mattes of a subject."""

from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from idle_shimmer.cli.problems import plain_errors

if TYPE_CHECKING:
    from idle_shimmer.core.subject.strokes import Strokes


def matte(
    clip: Annotated[Path, typer.Argument(help="A video file.")],
    strokes: Annotated[
        Path,
        typer.Option(help="What belongs to the subject: a JSON list of strokes by frame."),
    ],
    first: Annotated[int, typer.Option(help="The first frame.")],
    last: Annotated[int, typer.Option(help="The last frame, included.")],
    out: Annotated[Path, typer.Option(help="A folder for PNG files, 8-bit grey.")],
) -> None:
    """Write the mattes of a subject: white where it is, black where it is not."""
    with plain_errors():
        from idle_shimmer.output.matte_files import write_mattes

        write_mattes(clip, read_strokes(strokes, "--strokes"), first, last, out)


def read_strokes(file: Path, option: str) -> "list[Strokes]":
    """Return the strokes in a file. Raises InvalidValue that names the ``option``."""
    from idle_shimmer.core.errors import InvalidValue
    from idle_shimmer.core.subject.strokes import strokes_from_json

    try:
        text = file.read_text(encoding="utf-8")
    except (OSError, UnicodeDecodeError) as error:
        reason = getattr(error, "strerror", None) or "it is not text"
        raise InvalidValue(f"{file} cannot be read: {reason}", field=option) from None
    return strokes_from_json(text, option)


COMMANDS = (matte,)
