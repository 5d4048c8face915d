"""Writes the mattes of a subject: a folder of 8-bit grey PNG files with an index."""

import json
from pathlib import Path

import cv2
import numpy as np

from idle_shimmer.core.animation.timing import rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.subject.propagate import mattes
from idle_shimmer.core.subject.strokes import Strokes
from idle_shimmer.media.read.reader import VideoReader
from idle_shimmer.output.folders import folder_written
from idle_shimmer.output.written_files import INDEX


def write_mattes(clip: Path, strokes: list[Strokes], first: int, last: int, out: Path) -> None:
    """Write the mattes of frames ``first`` … ``last`` of a clip into the folder ``out``.

    Nothing appears there before all are written. Raises InvalidValue for frames that the clip lacks.
    """
    with VideoReader(clip) as reader:
        _require_frames(reader, strokes, first, last)

        def frame(number: int) -> Codes:
            return np.asarray(reader.read(number), np.uint8)

        with folder_written(out) as folder:
            for number, alpha in mattes(frame, strokes, first, last):
                codes = np.rint(alpha * 255).astype(np.uint8)
                (folder / _name(number)).write_bytes(cv2.imencode(".png", codes)[1].tobytes())
            index = {
                "rate": rate_text(reader.facts.rate),
                "size": list(reader.size),
                "frames": [{"file": _name(n), "frame": n} for n in range(first, last + 1)],
            }
            (folder / INDEX).write_text(json.dumps(index, indent=1) + "\n", encoding="utf-8")


def _name(number: int) -> str:
    return f"matte_{number:04}.png"


def _require_frames(reader: VideoReader, strokes: list[Strokes], first: int, last: int) -> None:
    count = reader.facts.frame_count
    if not 0 <= first <= last < count:
        raise InvalidValue(
            f"{reader.path.name} has frames 0 to {count - 1}: {first} to {last} are not among them",
            field="--first, --last",
        )
    for each in strokes:
        if each.frame >= count:
            raise InvalidValue(
                f"{reader.path.name} has frames 0 to {count - 1}, but there are strokes on frame"
                f" {each.frame}",
                field="--strokes",
            )
