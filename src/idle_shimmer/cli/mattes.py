"""The command that writes mattes of a subject."""

from pathlib import Path
from typing import Annotated

import typer

from idle_shimmer.cli.problems import plain_errors


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
        from idle_shimmer.core.errors import InvalidValue
        from idle_shimmer.core.subject.strokes import strokes_from_json
        from idle_shimmer.output.matte_files import write_mattes

        try:
            text = strokes.read_text(encoding="utf-8")
        except (OSError, UnicodeDecodeError) as error:
            reason = getattr(error, "strerror", None) or "it is not text"
            raise InvalidValue(f"{strokes} cannot be read: {reason}", field="--strokes") from None
        write_mattes(clip, strokes_from_json(text), first, last, out)


COMMANDS = (matte,)
