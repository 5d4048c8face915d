"""Edits as OpenTimelineIO timelines.

Source: OpenTimelineIO's schema (clips with source ranges, transitions with offsets around the cut).
Windows and recipes, which the schema does not have, are stored under our own metadata key, so that a
round trip through OpenTimelineIO loses nothing.
"""

import json
from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from idle_shimmer.core.animation.timing import parse_rate, rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.recipe import Recipe, recipe_from_json, recipe_to_json
from idle_shimmer.interchange.accent_tracks import AccentClip, accent_tracks
from idle_shimmer.interchange.kept_clips import AS_PLACED, KeptClip, kept_clip
from idle_shimmer.interchange.timeline_notes import timeline_notes

KEY = "idle_shimmer"
DISSOLVE = "SMPTE_Dissolve"


@dataclass(frozen=True)
class Shot:
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
class Join:
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
    shots: list[Shot]
    joins: list[Join]
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
    for place, shot in enumerate(edit.shots):
        clip = _clip(shot, rate)
        track.append(clip)
        kept: dict[str, Any] = {"placed": shot.kept.as_json()}
        clip.metadata[KEY] = kept
        if place == len(edit.joins):
            break
        join = edit.joins[place]
        clip.metadata[KEY] = {**kept, "cut": _join_json(join)}
        if (transition := _transition(join, rate)) is not None:
            track.append(transition)
    return timeline


def time_of(frames: float, rate: Fraction) -> Any:
    """Return ``frames`` frames at ``rate`` as an OpenTimelineIO time."""
    return otio.opentime.RationalTime(frames, float(rate))


def range_of(first: int, end: int, rate: Fraction) -> Any:
    """Return frames ``first`` … ``end`` (exclusive) as an OpenTimelineIO range."""
    return otio.opentime.TimeRange(time_of(first, rate), time_of(end - first, rate))


def _clip(shot: Shot, rate: Fraction) -> Any:
    start = shot.start
    available = None if shot.count is None else range_of(start, start + shot.count, rate)
    media = otio.schema.ExternalReference(target_url=shot.file, available_range=available)
    return otio.schema.Clip(
        name=shot.file,
        media_reference=media,
        source_range=range_of(start + shot.in_frame, start + shot.out_frame, rate),
    )


def _join_json(join: Join) -> dict[str, Any]:
    return {"before": join.before, "after": join.after, "recipe": recipe_to_json(join.recipe)}


def _transition(join: Join, rate: Fraction) -> Any:
    """Return the mix as a standard transition: a dissolve by its own name, others as custom ones."""
    span = getattr(join.recipe.mix, "span", None)
    if span is None:
        return None
    ahead = round(max(0.0, -span[0]) * join.before)
    behind = round(max(0.0, span[1]) * join.after)
    if ahead + behind == 0:
        return None
    kind = DISSOLVE if join.recipe.mix.kind == "dissolve" else "Custom_Transition"
    return otio.schema.Transition(
        name=join.recipe.mix.kind,
        transition_type=kind,
        in_offset=time_of(ahead, rate),
        out_offset=time_of(behind, rate),
    )


def _dissolve(_transition: Any) -> dict[str, Any]:
    return {"kind": "dissolve"}


def from_timeline(
    timeline: Any, mix_of: Callable[[Any], dict[str, Any]] = _dissolve
) -> EditDocument:
    """Return the edit of a timeline's first video track. Raises InvalidValue where there is none.

    Without our metadata a standard transition becomes a mix over its own frames: a dissolve, or
    what ``mix_of`` returns.
    """
    tracks = [each for each in timeline.tracks if each.kind == otio.schema.TrackKind.Video]
    clips = [item for item in (tracks[0] if tracks else []) if isinstance(item, otio.schema.Clip)]
    if not clips:
        raise InvalidValue(
            "the file has no video track with clips: export one that has", field="file"
        )
    facts = timeline.metadata.get(KEY, {})
    rate = parse_rate(facts["rate"]) if "rate" in facts else _rate_of(clips[0])
    size = tuple(facts["size"]) if "size" in facts else None
    items = [item for item in tracks[0] if not isinstance(item, otio.schema.Gap)]
    joins = []
    for place, item in enumerate(items):
        if isinstance(item, otio.schema.Clip) and item is not clips[-1]:
            following = items[place + 1]
            between = following if isinstance(following, otio.schema.Transition) else None
            joins.append(_join(item, between, rate, mix_of))
    return EditDocument(
        timeline.name or "Imported edit",
        rate,
        size,
        [_shot(each, rate) for each in clips],
        joins,
        timeline_notes(timeline, tracks[0]),
    )


def _rate_of(clip: Any) -> Fraction:
    return parse_rate(f"{clip.trimmed_range().duration.rate:.3f}".rstrip("0").rstrip("."))


def _shot(clip: Any, rate: Fraction) -> Shot:
    shown = clip.trimmed_range()
    url = getattr(clip.media_reference, "target_url", "") or clip.name
    first = round(shown.start_time.rescaled_to(float(rate)).value)
    length = round(shown.duration.rescaled_to(float(rate)).value)
    available = getattr(clip.media_reference, "available_range", None)
    begun = 0
    if available is not None:
        # Media may start at a timecode of its own: our frame numbers start at its first frame.
        begun = round(available.start_time.rescaled_to(float(rate)).value)
    name = str(url).replace("\\", "/").rsplit("/", 1)[-1]
    stored = clip.metadata.get(KEY, {}).get("placed")
    kept = AS_PLACED
    if stored is not None:
        kept = kept_clip(json.loads(otio.core.serialize_json_to_string(stored)), name)
    shown = kept.frames((first - begun, first - begun + length))
    return Shot(name, *shown, is_timecode=available is None, kept=kept)


def _join(
    clip: Any, transition: Any, rate: Fraction, mix_of: Callable[[Any], dict[str, Any]]
) -> Join:
    kept = clip.metadata.get(KEY, {}).get("cut")
    if kept is not None:
        document = otio.core.serialize_json_to_string(kept["recipe"])
        return Join(int(kept["before"]), int(kept["after"]), recipe_from_json(document))
    if transition is None:
        return Join(1, 1)
    ahead, behind = (
        round(each.rescaled_to(float(rate)).value)
        for each in (transition.in_offset, transition.out_offset)
    )
    span = [-1.0 if ahead else 0.0, 1.0 if behind else 0.0]
    mix = mix_of(transition)
    recipe = recipe_from_json({"name": mix["kind"].capitalize(), "mix": {**mix, "span": span}})
    return Join(max(1, ahead), max(1, behind), recipe)


def otio_text(edit: EditDocument) -> str:
    """Return the edit as OpenTimelineIO JSON, its music and its accents as tracks of their own."""
    timeline = to_timeline(edit)
    if edit.music is not None:
        frames = sum(each.out_frame - each.in_frame for each in edit.shots)
        timeline.tracks.append(edit.music.track(frames, edit.rate))
    timeline.tracks.extend(accent_tracks(edit.accents))
    return str(otio.adapters.write_to_string(timeline, "otio_json"))


def read_timeline(text: str, name: str) -> EditDocument:
    """Return the edit of the text of an .otio file called ``name``. Raises InvalidValue."""
    try:
        timeline = otio.adapters.read_from_string(text, "otio_json")
    except Exception as error:
        raise InvalidValue(f"{name} cannot be read: {error}", field="file") from error
    if not isinstance(timeline, otio.schema.Timeline):
        raise InvalidValue(f"{name} does not have exactly one timeline", field="file")
    return from_timeline(timeline)
