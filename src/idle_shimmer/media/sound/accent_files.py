"""Sounds of the user's as accents, read from files."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from fractions import Fraction
from functools import lru_cache
from pathlib import Path

import av

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.sound.accent import require_accent_length
from idle_shimmer.core.sound.samples import Sound
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.index import opened
from idle_shimmer.media.sound.sound_parts import read_sound, sound_parts

# Files that have sound and no pictures, by their usual endings.
SOUND_SUFFIXES = frozenset(
    {".wav", ".aif", ".aiff", ".mp3", ".aac", ".m4a", ".flac", ".ogg", ".opus"}
)


def sound_reader(folder: Path) -> Callable[[str], Sound]:
    """Return a reader of sounds by file name below ``folder``: float32 (samples, 2).

    The reader raises InvalidValue for a missing file or one without sound.
    """

    @lru_cache(maxsize=4)
    def sound(name: str) -> Sound:
        return whole_sound(folder / name)

    return sound


def whole_sound(path: Path) -> Sound:
    """Return the sound of a file, for an accent. Raises InvalidValue where it has none, or too much."""
    with _unreadable(path, "accent.sound"):
        require_accent_length(path.name, float(length_s(path)))
        return read_sound(path, Fraction(0), length_s(path))


def whole_sound_parts(path: Path, field: str) -> Iterator[Sound]:
    """Yield the sound of a file of any length in parts. Raises InvalidValue where it has none."""
    with _unreadable(path, field):
        yield from sound_parts(path, Fraction(0), length_s(path))


@contextmanager
def _unreadable(path: Path, field: str) -> Iterator[None]:
    try:
        yield
    except (MediaError, OSError) as error:
        raise InvalidValue(
            f"the sound {path.name} cannot be read: choose a file with sound", field=field
        ) from error


def length_s(path: Path) -> Fraction:
    """Return how long a file's sound is. Raises MediaError where it has none."""
    with opened(path) as container:
        if not container.streams.audio:
            raise MediaError(f"{path.name} has no sound")
        stream = container.streams.audio[0]
        if stream.duration is not None and stream.time_base is not None:
            return Fraction(stream.duration * stream.time_base)
        return Fraction(container.duration or 0, av.time_base)


def sound_only_s(path: Path) -> Fraction:
    """Return how long a file of sound alone is. Raises MediaError for any other file."""
    with opened(path) as container:
        pictures = [
            stream
            for stream in container.streams.video
            if not stream.disposition & av.stream.Disposition.attached_pic
        ]
        if pictures or not container.streams.audio:
            raise MediaError(f"{path.name} is not a sound file")
        try:
            next(container.decode(container.streams.audio[0]))
        except (StopIteration, av.FFmpegError) as error:
            raise MediaError(
                f"{path.name} has no sound that can be decoded: it may be damaged. Export it again"
            ) from error
    length = length_s(path)
    if length <= 0:
        raise MediaError(f"{path.name} has a sound of no length: export it again")
    return length
