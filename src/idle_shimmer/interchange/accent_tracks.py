"""Accents as sound tracks of an OpenTimelineIO timeline, placed to the sample.

A sound that is made by a program is a ``GeneratorReference`` with its parameters; one that lies in a file
an ``ExternalReference``. Sounds that overlap are on tracks of their own.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import opentimelineio as otio

from idle_shimmer.core.sound.accent import Accent
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND
from idle_shimmer.core.sound.sounds.base import registered


@dataclass(frozen=True)
class AccentClip:
    """An accent from sample ``first`` of the edit up to ``end``, exclusive, with its media reference.

    The media begins with sample ``first``.
    """

    name: str
    first: int
    end: int
    media: Any


def described(accent: Accent) -> tuple[str, Any]:
    """Return the name of a synthesised accent, and its media: how it is made."""
    name = registered()[str(accent.sound)].title
    parameters = accent.model_dump(mode="json")
    media = otio.schema.GeneratorReference(
        name=name, generator_kind="idle_shimmer.accent", parameters=parameters
    )
    return name, media


def sample_range(first: int, end: int) -> Any:
    """Return samples ``first`` … ``end`` (exclusive) as an OpenTimelineIO range."""
    return otio.opentime.TimeRange(_samples(first), _samples(end - first))


def accent_tracks(accents: Sequence[AccentClip]) -> list[Any]:
    """Return the sound tracks of accents in order: as few as keep them from overlapping."""
    tracks: list[Any] = []
    ends: list[int] = []
    for accent in accents:
        free = next((n for n, end in enumerate(ends) if end <= accent.first), None)
        if free is None:
            free = len(tracks)
            name = f"Accents {free + 1}" if free else "Accents"
            tracks.append(otio.schema.Track(name, kind=otio.schema.TrackKind.Audio))
            ends.append(0)
        if accent.first > ends[free]:
            tracks[free].append(otio.schema.Gap(duration=_samples(accent.first - ends[free])))
        tracks[free].append(
            otio.schema.Clip(
                name=accent.name,
                media_reference=accent.media,
                source_range=sample_range(0, accent.end - accent.first),
            )
        )
        ends[free] = accent.end
    return tracks


def _samples(count: int) -> Any:
    return otio.opentime.RationalTime(count, SAMPLES_PER_SECOND)
