"""Edits written as OpenTimelineIO timelines.

Source: OpenTimelineIO's schema (clips with source ranges, transitions with offsets around the cut).
Windows and recipes, which the schema does not have, are stored under our own metadata key, so that a
round trip through OpenTimelineIO loses nothing.
"""

from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from idle_shimmer.core.animation.times import u_of
from idle_shimmer.core.animation.timing import Window, rate_text
from idle_shimmer.core.mixes.base import SpannedMix
from idle_shimmer.core.placed import placed
from idle_shimmer.core.recipe import Recipe, recipe_to_json
from idle_shimmer.interchange.accent_tracks import AccentClip, accent_tracks
from idle_shimmer.interchange.kept_clips import AS_PLACED, KeptClip
from idle_shimmer.interchange.schema import DISSOLVE, KEY, range_of, time_of


@dataclass(frozen=True)
class TimelineClip:
    """A placed clip: its media's file name, and the frames shown (``out_frame`` is exclusive).

    Frames count from the media's first one; its own timecode calls that ``start``. Where the file does not
    say where its media begins, they count as the timecode does (``is_timecode``).
    """

    file: str
    in_frame: int
    out_frame: int
    count: int | None = None
    start: int = 0
    is_timecode: bool = field(default=False, compare=False)
    kept: KeptClip = AS_PLACED


@dataclass(frozen=True)
class TimelineCut:
    """A cut's window and recipe."""

    before: int
    after: int
    recipe: Recipe = field(default_factory=Recipe)


@dataclass(frozen=True)
class Soundtrack:
    """Music by its file's name: it begins ``offset_s`` after the edit, or before it."""

    file: str
    offset_s: float
    duration_s: float

    def track(self, frames: int, rate: Fraction) -> Any:
        """Return it as a sound track of an edit of so many frames."""
        track = otio.schema.Track("Music", kind=otio.schema.TrackKind.Audio)
        at, end = (
            round(Fraction(each) * rate)
            for each in (self.offset_s, self.offset_s + self.duration_s)
        )
        first, last = max(0, at), min(frames, end)
        if last <= first:
            return track
        if first:
            track.append(otio.schema.Gap(duration=time_of(first, rate)))
        media = otio.schema.ExternalReference(
            target_url=self.file, available_range=range_of(0, end - at, rate)
        )
        shown = range_of(first - at, last - at, rate)
        track.append(otio.schema.Clip(name=self.file, media_reference=media, source_range=shown))
        return track


@dataclass(frozen=True)
class EditDocument:
    """An edit for exchange; ``joins[i]`` is between ``shots[i]`` and ``shots[i + 1]``.

    ``notes`` are sentences about what was read differently from what the file says.
    """

    name: str
    rate: Fraction
    size: tuple[int, int] | None
    clips: list[TimelineClip]
    joins: list[TimelineCut]
    notes: list[str] = field(default_factory=list)
    music: Soundtrack | None = None
    accents: list[AccentClip] = field(default_factory=list)


def to_timeline(edit: EditDocument, *, counted_at: Fraction | None = None) -> Any:
    """Return the edit as an OpenTimelineIO timeline with one video track.

    ``counted_at`` is another rate for the same frame numbers, as timecode may need it.
    """
    rate = counted_at or edit.rate
    timeline = otio.schema.Timeline(edit.name)
    facts = {"version": 1, "rate": rate_text(edit.rate)}
    if edit.size is not None:
        facts["size"] = list(edit.size)
    timeline.metadata[KEY] = facts
    track = otio.schema.Track("V1", kind=otio.schema.TrackKind.Video)
    timeline.tracks.append(track)
    for place, shot in enumerate(edit.clips):
        clip = _clip(shot, rate)
        track.append(clip)
        kept: dict[str, Any] = {"placed": shot.kept.as_json()}
        clip.metadata[KEY] = kept
        if place == len(edit.joins):
            break
        join = edit.joins[place]
        clip.metadata[KEY] = {**kept, "cut": _join_json(join)}
        if (transition := _transition(join, edit.rate, rate)) is not None:
            track.append(transition)
    return timeline


def _clip(shot: TimelineClip, rate: Fraction) -> Any:
    start = shot.start
    available = None if shot.count is None else range_of(start, start + shot.count, rate)
    media = otio.schema.ExternalReference(target_url=shot.file, available_range=available)
    return otio.schema.Clip(
        name=shot.file,
        media_reference=media,
        source_range=range_of(start + shot.in_frame, start + shot.out_frame, rate),
    )


def _join_json(join: TimelineCut) -> dict[str, Any]:
    return {"before": join.before, "after": join.after, "recipe": recipe_to_json(join.recipe)}


def _transition(join: TimelineCut, rate: Fraction, counted_at: Fraction) -> Any:
    """Return the mix as a standard transition: a dissolve by its own name, others as custom ones."""
    mix = placed(join.recipe, Window(join.before, join.after), rate).mix
    if not isinstance(mix, SpannedMix):
        return None
    span = [u_of(each) for each in mix.span]
    ahead = round(max(0.0, -span[0]) * join.before)
    behind = round(max(0.0, span[1]) * join.after)
    if ahead + behind == 0:
        return None
    kind = DISSOLVE if mix.kind == "dissolve" else "Custom_Transition"
    return otio.schema.Transition(
        name=mix.kind,
        transition_type=kind,
        in_offset=time_of(ahead, counted_at),
        out_offset=time_of(behind, counted_at),
    )


def otio_text(edit: EditDocument) -> str:
    """Return the edit as OpenTimelineIO JSON, its music and its accents as tracks of their own."""
    timeline = to_timeline(edit)
    if edit.music is not None:
        frames = sum(each.out_frame - each.in_frame for each in edit.clips)
        timeline.tracks.append(edit.music.track(frames, edit.rate))
    timeline.tracks.extend(accent_tracks(edit.accents))
    return str(otio.adapters.write_to_string(timeline, "otio_json"))
