"""Writes a transition's frames: a folder of PNG files with an index, or a video file."""

import json
import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import cv2

from idle_shimmer.core.animation.timing import rate_text
from idle_shimmer.core.errors import InvalidValue
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
        raise InvalidValue(f"there is no folder {folder}: create it first", field="out")


def _write_pictures(
    transition: Transition, out: Path, size: Size, rate: Fraction, margin: int
) -> None:
    _require_folder(out.parent)
    if out.exists() and not out.is_dir():
        raise InvalidValue(
            f"{out} is a file: give a folder, or a name that ends in .mp4, .mov, .mkv or .webm",
            field="out",
        )
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


@dataclass(frozen=True)
class SoundAround:
    """Where the sound around a cut lies: files (None is muted), the cut's frames, how many around it.

    ``outgoing_out`` is exclusive; all frames are at ``rate``.
    """

    outgoing: Path | None
    incoming: Path | None
    outgoing_out: int
    incoming_in: int
    before: int
    after: int
    rate: Fraction


def sound_around_cut(around: SoundAround, read: ReadSound = read_sound) -> Sound:
    """Return the outgoing clip's sound up to the cut and the incoming clip's from it.

    ``read`` reads a part of a file, from and for so many seconds.
    """
    return joined(
        [
            read(
                around.outgoing,
                Fraction(around.outgoing_out - around.before) / around.rate,
                Fraction(around.before) / around.rate,
            ),
            read(
                around.incoming,
                Fraction(around.incoming_in) / around.rate,
                Fraction(around.after) / around.rate,
            ),
        ]
    )
