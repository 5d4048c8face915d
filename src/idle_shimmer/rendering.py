"""Writes a transition's frames: a folder of PNG files with an index, or a video file."""

import errno
import json
import re
import shutil
import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import cv2

from idle_shimmer.core.animation.timing import rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.encoding import Codes, DeepCodes
from idle_shimmer.core.picture.output import Depth
from idle_shimmer.media.sound import Sound, joined, read_sound
from idle_shimmer.media.writer import KINDS, kind_of, output_depth, writing
from idle_shimmer.transition import Transition

_INDEX = "index.json"
_FRAME_NAME = re.compile(r"frame_\d{4,}\.png")
Size = tuple[int, int]
ReadSound = Callable[[Path | None, Fraction, Fraction], Sound]


def write_transition(
    transition: Transition,
    out: Path,
    size: Size,
    rate: Fraction,
    margin: int,
    sound: Sound | None,
    *,
    depth: Depth | None = None,
    is_deep: bool = False,
) -> None:
    """The window and ``margin`` frames around it, into ``out``: a folder or a video file.

    ``depth`` is that of the pictures, by default 8 bits in a folder, and in a file the least that loses
    nothing of sources that are deeper than 8 bits (``is_deep``) where the format can hold it. Nothing appears at ``out`` before everything is written.
    """
    if out.suffix.lower() in KINDS:
        _require_folder(out.parent)
        depth = depth or output_depth(out, source_is_deep=is_deep)
        parts = None if sound is None else [sound]
        with writing(out, size, rate, depth=depth, sound=parts) as writer:
            for _, picture in transition.outputs(margin, depth):
                writer.write(picture)
    elif out.suffix and not out.is_dir():
        kind_of(out)
    else:
        _write_pictures(transition, out, size, rate, margin, depth or 8)


def _require_folder(folder: Path) -> None:
    if not folder.is_dir():
        raise InvalidValue(f"there is no folder {folder}: create it first", field="out")


def _write_pictures(
    transition: Transition, out: Path, size: Size, rate: Fraction, margin: int, depth: Depth
) -> None:
    _require_folder(out.parent)
    if out.exists() and not out.is_dir():
        raise InvalidValue(
            f"{out} is a file: give a folder, or a name that ends in .mp4, .mov, .mkv or .webm",
            field="out",
        )
    # Before the work as well as after it.
    _require_own_files(out)
    with tempfile.TemporaryDirectory(prefix=".unfinished-", dir=out.parent) as name:
        folder, listed = Path(name), []
        for number, (offset, picture) in enumerate(transition.outputs(margin, depth)):
            file = f"frame_{number:04}.png"
            _write_png(folder / file, picture)
            listed.append({"file": file, "offset": offset})
        index = {"rate": rate_text(rate), "size": list(size), "frames": listed}
        (folder / _INDEX).write_text(json.dumps(index, indent=1) + "\n", encoding="utf-8")
        _require_own_files(out)
        out.mkdir(exist_ok=True)
        # The index first: while files change, none says that they belong together.
        for old in sorted(out.iterdir(), key=lambda each: each.name != _INDEX):
            old.unlink()
        for made in sorted(folder.iterdir(), key=lambda each: each.name == _INDEX):
            shutil.move(made, out / made.name)


def _write_png(file: Path, picture: Codes | DeepCodes) -> None:
    """Write one picture. Raises OSError, as on a full disk."""
    done, data = cv2.imencode(".png", cv2.cvtColor(picture, cv2.COLOR_RGB2BGR))
    if not done:
        raise OSError(errno.EIO, "the picture could not be coded", str(file))
    file.write_bytes(data.tobytes())


def _require_own_files(folder: Path) -> None:
    """Raise InvalidValue where a folder holds anything but an earlier render, all of it listed."""
    found = {each.name for each in folder.iterdir()} if folder.is_dir() else set()
    if foreign := sorted(found - _listed_in(folder)):
        raise InvalidValue(
            f"{folder} holds {foreign[0]}, which is not part of an earlier render: choose an empty"
            " folder or a new name",
            field="out",
        )


def _listed_in(folder: Path) -> set[str]:
    """Return the names of the files of a render in ``folder``, its index included."""
    try:
        index = json.loads((folder / _INDEX).read_text(encoding="utf-8"))
        names = {str(each["file"]) for each in index["frames"]}
    except (OSError, ValueError, TypeError, KeyError):
        return set()
    return {name for name in names if _FRAME_NAME.fullmatch(name)} | {_INDEX}


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
