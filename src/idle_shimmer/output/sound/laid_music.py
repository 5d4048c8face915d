"""The music of an edit: a file that begins at a time of the edit, at a level."""

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from idle_shimmer.core.sound.levels import gain_of_db
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.interchange.timelines import Soundtrack
from idle_shimmer.media.sound.played_sound import ReadParts


@dataclass(frozen=True)
class Music:
    """``file`` is heard from ``offset_s`` seconds of the edit, which may be negative, for ``duration_s``."""

    file: Path
    offset_s: float
    gain_db: float
    duration_s: float
    name: str = "music"

    @property
    def file_name(self) -> str:
        """The name by which other programs know the file: the clip's, with the file's suffix."""
        return f"{self.name}{self.file.suffix}"

    def soundtrack(self) -> Soundtrack:
        """Return it as other programs take it."""
        return Soundtrack(self.file_name, self.offset_s, self.duration_s)

    def laid(self, read: ReadParts) -> "LaidMusic":
        """Return it as sound of the edit; ``read`` reads the file."""
        return LaidMusic(self, read)


@dataclass(frozen=True)
class LaidMusic:
    """Music at its samples of the edit, read as it is needed."""

    music: Music
    read: ReadParts

    @property
    def first(self) -> int:
        """Its first sample in the edit."""
        return round(self.music.offset_s * SAMPLES_PER_SECOND)

    @property
    def end(self) -> int:
        """The sample after its last one."""
        return self.first + round(self.music.duration_s * SAMPLES_PER_SECOND)

    def part(self, start: int, stop: int) -> Sound:
        """Return its samples ``start`` … ``stop`` of the edit, exclusive."""
        times = (Fraction(each, SAMPLES_PER_SECOND) for each in (start - self.first, stop - start))
        parts = [np.zeros((0, 2), np.float32), *self.read(self.music.file, *times)]
        return np.concatenate(parts) * np.float32(gain_of_db(self.music.gain_db))
