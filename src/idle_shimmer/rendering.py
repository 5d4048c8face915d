"""Writes a transition's frames: a folder of PNG pictures with an index, or a video file."""

import json
import shutil
import tempfile
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import cv2

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.timing import rate_text
from idle_shimmer.media.sound import Sound, joined, read_sound
from idle_shimmer.media.writer import KINDS, kind_of, writing
from idle_shimmer.transition import Transition

Size = tuple[int, int]
ReadSound = Callable[[Path | None, Fraction, Fraction], Sound]


def write_transition(
    transition: Transition, out: Path, size: Size, rate: Fraction, margin: int, sound: Sound | None
) -> None:
    """The window and ``margin`` frames around it, into ``out``: a folder or a video file.

    Nothing appears at ``out`` before everything is written.
    """
    if out.suffix.lower() in KINDS:
        _require_folder(out.parent)
        with writing(out, size, rate, sound=None if sound is None else [sound]) as writer:
            for _, picture in transition.frames(margin):
                writer.write(picture)
    elif out.suffix and not out.is_dir():
        kind_of(out)
    else:
        _write_pictures(transition, out, size, rate, margin)


def _require_folder(folder: Path) -> None:
    if not folder.is_dir():
        raise InvalidValue(f"there is no folder {folder}: make it first", field="out")


def _write_pictures(
    transition: Transition, out: Path, size: Size, rate: Fraction, margin: int
) -> None:
    _require_folder(out.parent)
    if out.exists() and not out.is_dir():
        raise InvalidValue(f"{out} is a file: name a folder, or a video file ending", field="out")
    with tempfile.TemporaryDirectory(prefix=".unfinished-", dir=out.parent) as name:
        folder, listed = Path(name), []
        for number, (offset, picture) in enumerate(transition.frames(margin)):
            file = f"frame_{number:04}.png"
            cv2.imwrite(str(folder / file), cv2.cvtColor(picture, cv2.COLOR_RGB2BGR))
            listed.append({"file": file, "offset": offset})
        index = {"rate": rate_text(rate), "size": list(size), "frames": listed}
        (folder / "index.json").write_text(json.dumps(index, indent=1) + "\n", encoding="utf-8")
        out.mkdir(exist_ok=True)
        for old in out.glob("frame_*.png"):
            old.unlink()
        for made in sorted(folder.iterdir(), key=lambda each: each.name == "index.json"):
            shutil.move(made, out / made.name)


def sound_around_cut(
    outgoing: Path | None,
    incoming: Path | None,
    outgoing_out: int,
    incoming_in: int,
    before: int,
    after: int,
    rate: Fraction,
    read: ReadSound = read_sound,
) -> Sound:
    """The outgoing clip's sound up to the cut and the incoming clip's from it; counts are frames.

    None is a muted clip. ``read`` reads a piece of a file, from and for so many seconds.
    """
    return joined(
        [
            read(outgoing, Fraction(outgoing_out - before) / rate, Fraction(before) / rate),
            read(incoming, Fraction(incoming_in) / rate, Fraction(after) / rate),
        ]
    )
