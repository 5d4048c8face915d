"""Sounds of the user's: none is cut off silently."""

import wave
from pathlib import Path

import pytest

from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND
from idle_shimmer.media.sound.accent_files import whole_sound, whole_sound_parts

RATE = 1000


def silent_file(path: Path, length_s: int) -> Path:
    with wave.open(str(path), "wb") as file:
        file.setparams((1, 2, RATE, 0, "NONE", ""))
        file.writeframes(bytes(2 * RATE * length_s))
    return path


def test_a_sound_too_long_for_an_accent_is_refused_and_music_is_read_to_its_end(
    tmp_path: Path,
) -> None:
    file = silent_file(tmp_path / "tide.wav", 660)
    with pytest.raises(InvalidValue, match=r"tide\.wav lasts 11 minutes, but an accent at most 10"):
        whole_sound(file)
    read = sum(len(part) for part in whole_sound_parts(file, "FILE"))
    assert read == 660 * SAMPLES_PER_SECOND
