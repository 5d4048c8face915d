"""Round trips: an edit as a timeline in which every treated window is a rendered clip.

The ZIP has the rendered clips, an OpenTimelineIO timeline and a CMX 3600 list. Original clips are
referred to by their names, trimmed around the windows; where the timeline cannot say what the edit shows
of a clip (its framing, or another frame size or rate), that part is rendered as well. Rendered clips
count their frames from their timecode, which is that of the edit.
"""

import zipfile
from collections.abc import Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import opentimelineio as otio

from idle_shimmer.core import checks  # noqa: F401  (importing the package registers the checks)
from idle_shimmer.core.animation.timing import drops_frames
from idle_shimmer.core.checks.base import registered
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.sound.samples import sample_at
from idle_shimmer.interchange.accent_tracks import AccentClip, accent_tracks, sample_range
from idle_shimmer.interchange.decision_lists import timeline_as_edl
from idle_shimmer.interchange.schema import KEY, range_of
from idle_shimmer.media.sound.wave_files import wave_bytes
from idle_shimmer.output.names import distinct, named, window_name
from idle_shimmer.output.opened_edit import OpenedEdit
from idle_shimmer.output.plan import EditPlan, OutputSettings, Run
from idle_shimmer.output.written_files import (
    Advance,
    Sequence,
    add_video,
    archive_at,
    sequence_of_window,
)

MEDIA_FOLDER = "media"


@dataclass(frozen=True)
class Piece:
    """A part of the timeline: frames ``first`` … ``end`` (exclusive) of a clip, as the clip counts them.

    ``available_first`` and ``available_end`` are all the frames that it has; None for a still.
    ``label`` is what it shows.
    """

    url: str
    label: str
    first: int
    end: int
    available_first: int
    available_end: int | None
    is_heard: bool


def write_round_trip(
    path: Path, edit: OpenedEdit, settings: OutputSettings, advance: Advance
) -> None:
    """Write the ZIP. Raises InvalidValue where the format is not a video."""
    if settings.output.video is None:
        raise InvalidValue(
            "a round trip needs a video format: choose ProRes or lossless", field="format"
        )
    pieces: list[Piece] = []
    with archive_at(path) as archive:
        # The music and the accents are tracks of their own.
        for name, part in _parts(edit.hearing("clips"), settings):
            if isinstance(part, Piece):
                pieces.append(part)
                continue
            url = f"{MEDIA_FOLDER}/{name}{settings.output.suffix}"
            add_video(archive, url, path, part.sequence, settings, advance)
            pieces.append(part.piece(url, name))
        plan = edit.plan
        stem = named("{edit}", {"edit": plan.name})
        accents = _write_accents(archive, edit, settings) if settings.sound else []
        timeline = timeline_of(plan, edit.size, pieces, accents)
        text = str(otio.adapters.write_to_string(timeline, "otio_json"))
        archive.writestr(f"{stem}.otio", text)
        listed = timeline_of(plan, edit.size, pieces, [], is_list=True)
        drop = drops_frames(plan.rate)
        archive.writestr(f"{stem}.edl", timeline_as_edl(listed, plan.rate, drop_frame=drop))
        archive.writestr("Contents.txt", _contents(stem, pieces, accents, plan))


@dataclass(frozen=True)
class _Rendered:
    """A sequence that becomes a clip of its own; the timeline shows ``used`` of it, from its start."""

    sequence: Sequence
    used: range

    def piece(self, url: str, label: str) -> Piece:
        first = max(0, self.sequence.first)
        return Piece(
            url,
            label,
            first + self.used.start,
            first + self.used.stop,
            first,
            first + self.sequence.count,
            self.sequence.sound is not None,
        )


def _parts(edit: OpenedEdit, settings: OutputSettings) -> Iterator[tuple[str, Piece | _Rendered]]:
    """Yield what the timeline consists of, in order, each with its name."""
    plan = edit.plan
    treated = plan.treated()
    names = iter(
        distinct(
            [window_name(settings.window_name, plan, place) for place in treated]
            + [plan.placed[run.place].name for run in plan.runs()]
        )
    )
    window_names = {place: next(names) for place in treated}
    run_names = dict(zip((run.place for run in plan.runs()), names, strict=True))
    runs = {run.place: run for run in plan.runs()}
    for place in range(len(plan.placed)):
        if (run := runs.get(place)) is not None:
            yield run_names[place], _run_part(edit, run, settings)
        if place in window_names:
            sequence = sequence_of_window(edit, place, settings)
            window = plan.cuts[place].window
            start = -window.before - sequence.first_offset
            used = range(start, start + window.before + window.after)
            yield window_names[place], _Rendered(sequence, used)
        edit.close_before(place)


def _run_part(edit: OpenedEdit, run: Run, settings: OutputSettings) -> Piece | _Rendered:
    plan, placed = edit.plan, edit.plan.placed[run.place]
    if not edit.is_conformed(run.place):
        settings = replace(settings, handles=0)
        depth = settings.output.depth(source_is_deep=edit.is_deep([run.place]))
        count = run.end - run.first
        heard = settings.sound and edit.sound.has_any([run.place])
        sequence = Sequence(
            edit.source_pictures(run.place, run.first, run.end),
            edit.sound.run(run) if heard else None,
            edit.size,
            plan.rate,
            depth,
            count,
            run.first_frame,
            edit.colour([run.place]),
        )
        return _Rendered(sequence, range(count))
    return Piece(
        placed.file_name,
        placed.name,
        run.first,
        run.end,
        0,
        edit.frame_count(run.place),
        settings.sound and edit.sound.has_any([run.place]),
    )


def _write_accents(
    archive: zipfile.ZipFile, edit: OpenedEdit, settings: OutputSettings
) -> list[AccentClip]:
    """Write the accent of each cut as a WAV file of its own."""
    plan, found = edit.plan, []
    end = sample_at(plan.first_frame + plan.frame_count, plan.rate)
    names = distinct(
        [window_name(settings.window_name, plan, place) for place in range(len(plan.cuts))]
    )
    for name, accent in zip(names, edit.sound.accents(), strict=True):
        if accent is None:
            continue
        first, last = max(0, accent.first), min(end, accent.end)
        if last > first:
            url = f"{MEDIA_FOLDER}/{name} accent.wav"
            archive.writestr(url, wave_bytes(accent.part(first, last)))
            media = otio.schema.ExternalReference(
                target_url=url, available_range=sample_range(0, last - first)
            )
            found.append(AccentClip(f"{name} accent", first, last, media))
    return found


def timeline_of(
    plan: EditPlan,
    size: tuple[int, int],
    pieces: list[Piece],
    accents: list[AccentClip],
    *,
    is_list: bool = False,
) -> Any:
    """Return the OpenTimelineIO timeline of the pieces: a video track and, unless ``is_list``, sound tracks."""
    rate = plan.rate
    if is_list and not drops_frames(rate):
        # Non-drop timecode counts at the next whole rate.
        rate = Fraction(round(rate))
    timeline = otio.schema.Timeline(plan.name)
    timeline.metadata[KEY] = {"version": 1, "rate": str(plan.rate), "size": list(size)}
    kinds = otio.schema.TrackKind
    tracks = [otio.schema.Track("V1", kind=kinds.Video)]
    if not is_list and any(piece.is_heard for piece in pieces):
        tracks.append(otio.schema.Track("A1", kind=kinds.Audio))
    for track in tracks:
        for piece in pieces:
            shown = range_of(piece.first, piece.end, rate)
            if track.kind == kinds.Audio and not piece.is_heard:
                track.append(otio.schema.Gap(duration=shown.duration))
                continue
            track.append(_clip(piece, shown, rate))
        timeline.tracks.append(track)
    if not is_list and plan.music is not None:
        timeline.tracks.append(plan.music.soundtrack().track(plan.frame_count, rate))
    timeline.tracks.extend(accent_tracks(accents))
    return timeline


def _clip(piece: Piece, shown: Any, rate: Fraction) -> Any:
    end = piece.available_end
    available = None if end is None else range_of(piece.available_first, end, rate)
    media = otio.schema.ExternalReference(target_url=piece.url, available_range=available)
    return otio.schema.Clip(name=piece.label, media_reference=media, source_range=shown)


def _accepted(plan: EditPlan) -> list[str]:
    """Return the findings that were accepted, with their reasons: a line for each."""
    return [
        f"  Cut {place + 1}, {registered()[check].title.lower()}: {reason}"
        for place, cut in enumerate(plan.cuts)
        for check, reason in cut.recipe.accepted.items()
        if check in registered()
    ]


def _contents(stem: str, pieces: list[Piece], accents: list[AccentClip], plan: EditPlan) -> str:
    rendered = [piece.url for piece in pieces if piece.url.startswith(f"{MEDIA_FOLDER}/")]
    originals = sorted({piece.url for piece in pieces} - set(rendered))
    lines = [
        f"{stem}.otio and {stem}.edl show the edit with each transition as a rendered clip.",
        "",
        "Rendered clips:",
        *(f"  {each}" for each in rendered),
        "",
        "Original clips that the timeline refers to by name:",
        *(f"  {each}" for each in originals),
        "",
        "The EDL has the pictures alone; the OpenTimelineIO file has the sound as well.",
    ]
    if accents:
        lines += ["", "Accents, on tracks of their own:"]
        lines += [f"  {each.media.target_url}" for each in accents]
    if (music := plan.music) is not None:
        lines += [
            "",
            f"Music, a track of its own, at {music.gain_db:g} dB:",
            f"  {music.file_name}",
        ]
    if accepted := _accepted(plan):
        lines += ["", "Findings of the checks that were accepted:", *accepted]
    return "\n".join(lines) + "\n"
