"""Lays the clips of an edit out so that its cuts lie on beats."""

import uuid

from sqlalchemy.orm import Session

from idle_shimmer.core.animation.beat_grid import Beats, cut_frames
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.edit.played import played_of
from idle_shimmer.store.edits.edits import conformed_count, touch
from idle_shimmer.store.edits.windows import windows_on
from idle_shimmer.store.tables import Edit


def beats_of(edit: Edit) -> Beats:
    """Return the beats of an edit. Raises InvalidValue where it has none."""
    if edit.beats_per_minute is None:
        raise InvalidValue(
            "this edit has no beats: detect those of its music, or type the tempo", field="every"
        )
    return Beats(edit.beats_per_minute, edit.beat_offset_s, tuple(edit.beat_times_s or ()))


def beat_frames(session: Session, edit: Edit) -> list[int]:
    """Return the frames of the edit that lie nearest to its beats: see ``Beats.until``."""
    if edit.beats_per_minute is None:
        return []
    rate = parse_rate(edit.rate)
    frames = sum(each.frames for each in played_of(session, edit))
    return [round(beat_s * rate) for beat_s in beats_of(edit).until(float(frames / rate))]


def off_beat(session: Session, edit: Edit) -> dict[uuid.UUID, int]:
    """Return by how many frames each cut that is not on a beat must move to be on the nearest."""
    beats, rate, at = beats_of(edit), parse_rate(edit.rate), 0
    found = {}
    for placed, shown in zip(edit.placed[:-1], played_of(session, edit), strict=False):
        at += shown.frames
        by = beats.nearest_frame(at, rate) - at
        if by and placed.cut is not None:
            found[placed.cut.id] = by
    return found


def cut_every(session: Session, edit: Edit, every: int) -> list[str]:
    """Trim the end of every clip but the last so that the cuts lie on every ``every``-th beat.

    Return sentences about the cuts that do not: their clips are too short.
    """
    beats, rate = beats_of(edit), parse_rate(edit.rate)
    played = played_of(session, edit)
    lengths: list[tuple[int, int | None]] = []
    for placed, shown in zip(edit.placed[:-1], played, strict=False):
        # A ramp that ripples takes as many frames, whatever the clip's length.
        ripple = shown.frames - (placed.out_frame - placed.in_frame)
        count = conformed_count(placed.clip, rate)
        fewest = max(1, sum(windows_on(edit, placed)) + ripple)
        lengths.append((fewest, None if count is None else count - placed.in_frame + ripple))
    frames = cut_frames(beats, rate, every, lengths)
    notes, at = [], 0
    for n, (placed, shown, frame) in enumerate(zip(edit.placed[:-1], played, frames, strict=False)):
        placed.out_frame += frame - at - shown.frames
        at = frame
        nearest = round(beats.beat_s(beats.first_from(float((frame - 1) / rate))) * rate)
        if nearest != frame:
            notes.append(f"Cut {n + 1} is not on a beat: {placed.clip.name} has no more frames.")
    touch(session, edit)
    return notes
