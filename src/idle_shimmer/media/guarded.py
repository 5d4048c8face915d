"""The first look at a file that somebody brings, in a process of its own with limits.

Decoders are large programs fed with whatever arrives. A file that makes one of them crash, run on
or swallow all memory ends this process, and not the server.
"""

import json
import resource
import subprocess
import sys
from dataclasses import asdict
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.media.index import (
    FrameIndex,
    MediaError,
    MediaFacts,
    opened,
    read_facts,
    video_stream,
)

MEMORY_BYTES = 4 << 30
SECONDS = 120
_TRIED_PICTURES = 25


def guarded_facts(
    path: Path, *, memory_bytes: int = MEMORY_BYTES, seconds: float = SECONDS
) -> MediaFacts:
    """The facts of a file, its start, middle and end decoded for a trial.

    Raises MediaError for what is no video, and for what breaks or outruns the decoder.
    """
    command = [sys.executable, "-m", __name__, str(path), str(memory_bytes)]
    try:
        # This interpreter and this module: nothing of the file is part of the command but its name.
        done = subprocess.run(command, capture_output=True, timeout=seconds, check=False)  # noqa: S603
    except subprocess.TimeoutExpired:
        raise MediaError(
            f"{path.name} took longer than {seconds:g} s to look at: convert it to another format"
            " first"
        ) from None
    try:
        told = json.loads(done.stdout)
    except ValueError:
        raise MediaError(
            f"{path.name} made the decoder stop: the file is damaged, or needs more memory than"
            " one file may take; convert it to another format first"
        ) from None
    if "problem" in told:
        raise MediaError(told["problem"])
    return _facts(told)


def _facts(told: dict[str, Any]) -> MediaFacts:
    exact = {name: Fraction(told[name]) for name in ("pixel_aspect", "rate", "duration")}
    return MediaFacts(**{**told, **exact, "notes": tuple(told["notes"])})


def _try_pictures(path: Path, index: FrameIndex) -> None:
    """Decode some pictures at the start, middle and end; damage is found when it is looked at."""
    with opened(path) as container:
        stream = video_stream(container, path)
        for start in sorted({0, index.count // 2, max(0, index.count - _TRIED_PICTURES)}):
            keyframe = index.pts[index.keyframe_before(start)]
            try:
                container.seek(keyframe, stream=stream, backward=True)
                for count, _ in enumerate(container.decode(stream)):
                    if count >= _TRIED_PICTURES:
                        break
            except av.FFmpegError:
                return


def _main(path: Path, memory_bytes: int) -> None:
    resource.setrlimit(resource.RLIMIT_AS, (memory_bytes, memory_bytes))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        facts, index = read_facts(path)
        _try_pictures(path, index)
    except ShimmerError as error:
        print(json.dumps({"problem": error.message}))
        return
    print(json.dumps(asdict(facts), default=str))


if __name__ == "__main__":
    _main(Path(sys.argv[1]), int(sys.argv[2]))
