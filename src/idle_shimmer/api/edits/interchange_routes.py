"""Export and import of edits in open formats, and export of curves."""

import csv
import io
import uuid
from fractions import Fraction
from pathlib import Path
from typing import Annotated, Literal

import opentimelineio as otio
from fastapi import APIRouter, Query, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel
from sqlalchemy.orm import Session

from idle_shimmer.api.edits.edit_answers import EditOut
from idle_shimmer.api.server.downloads import text_file
from idle_shimmer.core.animation.curves import curves_of
from idle_shimmer.core.animation.edit_timing import PlayedRange
from idle_shimmer.core.animation.shot import WHOLE, Shot
from idle_shimmer.core.animation.timeline import Timeline
from idle_shimmer.core.animation.timing import Window, parse_rate, rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.placed import placed
from idle_shimmer.core.sound.samples import sample_at
from idle_shimmer.edit.heard import music_of
from idle_shimmer.edit.played import played_of
from idle_shimmer.edit.states import edit_state
from idle_shimmer.interchange.accent_tracks import AccentClip
from idle_shimmer.interchange.accent_tracks import described as described_accent
from idle_shimmer.interchange.decision_lists import edl_losses, edl_text
from idle_shimmer.interchange.guarded import MAX_BYTES, read_edit, read_rates
from idle_shimmer.interchange.kept_clips import KeptClip
from idle_shimmer.interchange.placing import placed_range
from idle_shimmer.interchange.timelines import EditDocument, TimelineClip, TimelineCut, otio_text
from idle_shimmer.store.clips import clips, subject_mattes
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits import edits, placed_clips
from idle_shimmer.store.edits.edits import Placement
from idle_shimmer.store.tables import Clip, Edit, PlacedClip

router = APIRouter(prefix="/api", tags=["interchange"])
Format = Literal["otio", "edl"]


class ExportNotes(BaseModel):
    """What a format cannot carry of this edit, in sentences."""

    notes: list[str]


class ImportOut(BaseModel):
    """The edit that was made, or the files that are missing: import them, then try again.

    ``notes`` are sentences about what was read differently from what the file says.
    """

    edit: EditOut | None
    missing: list[str]
    notes: list[str]


class RateOut(BaseModel):
    """A frame rate, and how many of a list's events add up at it."""

    rate: str
    fitting: int
    events: int


class RatesOut(BaseModel):
    """The frame rates that a list can have; the first is proposed."""

    rates: list[RateOut]


@router.get("/edits/{edit_id}/export/{kind}", response_class=Response)
def export_edit(edit_id: uuid.UUID, kind: Format, drop_frame: bool = False) -> Response:
    """Return the edit as OpenTimelineIO JSON, or as a CMX 3600 edit decision list.

    ``drop_frame`` is for lists at 29.97 or 59.94 frames per second.
    """
    document = _document(edit_id)
    text = otio_text(document) if kind == "otio" else edl_text(document, drop_frame=drop_frame)
    return text_file(text, f"edit.{kind}", "application/json" if kind == "otio" else "text/plain")


@router.get("/edits/{edit_id}/export/{kind}/notes")
def export_notes(edit_id: uuid.UUID, kind: Format) -> ExportNotes:
    """Return what the format cannot carry."""
    return ExportNotes(notes=edl_losses(_document(edit_id)) if kind == "edl" else [])


@router.post("/edits/import")
async def import_edit(
    request: Request,
    name: Annotated[str, Query(min_length=1, max_length=255)],
    rate: str = "25",
) -> ImportOut:
    """Create an edit from an .otio or .edl file (the body), whose media must have been imported."""
    text = await _text_of(request, name)
    document = await run_in_threadpool(read_edit, text, name, parse_rate(rate))
    return await run_in_threadpool(_make, document)


@router.post("/edits/import/rates")
async def list_rates(
    request: Request, name: Annotated[str, Query(min_length=1, max_length=255)]
) -> RatesOut:
    """Return the frame rates at which an EDL (the body) can be read, the one that fits best first.

    A list does not say at which rate it counts.
    """
    text = await _text_of(request, name)
    fits = [fit for fit in await run_in_threadpool(read_rates, text, name) if fit.is_possible]
    if not fits or not fits[0].events:
        raise InvalidValue(f"{name} has no events: it is not an EDL", field="file")
    return RatesOut(
        rates=[
            RateOut(rate=rate_text(fit.rate), fitting=fit.fitting, events=fit.events)
            for fit in fits
        ]
    )


async def _text_of(request: Request, name: str) -> str:
    """Return the body. Raises InvalidValue where it is too long."""
    body = bytearray()
    async for block in request.stream():
        body += block
        if len(body) > MAX_BYTES:
            raise InvalidValue(f"{name} is too large: edits have at most 20 MB", field="file")
    return body.decode("utf-8", errors="replace")


@router.get("/cuts/{cut_id}/curves.csv", response_class=Response)
def cut_curves(cut_id: uuid.UUID) -> Response:
    """Return every curve of a cut as CSV: filter, parameter, frame from the cut, value."""
    with session_scope() as session:
        cut = cuts.cut_by_id(session, cut_id)
        document, edit = cuts.document_of(cut), cut.outgoing.edit
        size, rate = (edit.width, edit.height), parse_rate(edit.rate)
    window = Window(document.before, document.after)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["filter", "parameter", "frame", "value"])
    for curve in curves_of(Timeline(document.recipe, window, rate, size)):
        for offset, value in zip(window.offsets, curve.values, strict=True):
            writer.writerow([curve.filter_id, curve.parameter, offset, value])
    return text_file(out.getvalue(), "curves.csv", "text/csv")


def _file_name(clip: Clip) -> str:
    return f"{clip.name}{Path(clip.file).suffix}"


def _document(edit_id: uuid.UUID) -> EditDocument:
    with session_scope() as session:
        edit = edits.edit_by_id(session, edit_id)
        rate, played = parse_rate(edit.rate), played_of(session, edit)
        return EditDocument(
            edit.name,
            rate,
            (edit.width, edit.height),
            [_shot(*each, rate) for each in zip(edit.placed, played, strict=True)],
            [
                TimelineCut(document.before, document.after, document.recipe)
                for document in map(cuts.readable_document, edits.cuts_of(edit))
            ],
            music=None if (music := music_of(edit)) is None else music.soundtrack(),
            accents=_accents(session, edit, played),
        )


def _shot(placed: PlacedClip, played: PlayedRange, rate: Fraction) -> TimelineClip:
    """Return what is shown of a placed clip; with a ramp that ripples, as many frames as the edit has."""
    clip = placed.clip
    frames, shown = (
        (placed.in_frame, placed.out_frame),
        (played.first, played.first + played.frames),
    )
    if played.first < 0:
        # Before the clip's start its first frame is held, which a timeline cannot say.
        shown = (0, played.frames)
    kept = KeptClip(
        placed=frames if frames != shown else None,
        shown=shown if frames != shown else None,
        framing=placed_clips.framing_of(placed),
        muted=placed.muted,
        gain_db=placed.gain_db,
        crossfade=placed.crossfade,
        deinterlaced=placed.deinterlaced,
        shot=placed_clips.shot_of(placed),
        strokes=subject_mattes.strokes_of(placed),
    )
    count, start = edits.conformed_count(clip, rate), edits.start_frame(clip, rate)
    return TimelineClip(_file_name(clip), *shown, count, start, kept=kept)


def _accents(session: Session, edit: Edit, played: list[PlayedRange]) -> list[AccentClip]:
    """Return the accents of all cuts: a synthesised one is described, one of the user's is its file."""
    found, rate = [], parse_rate(edit.rate)
    length = sample_at(sum(each.frames for each in played), rate)
    at_frame = 0
    for cut, shown in zip(edits.cuts_of(edit), played, strict=False):
        at_frame += shown.frames
        document = cuts.readable_document(cut)
        window = Window(document.before, document.after)
        accent = placed(document.recipe, window, rate).accent
        if accent is None:
            continue
        first, end = (sample_at(at_frame, rate) + each for each in accent.span(window, rate))
        if isinstance(accent.sound, str):
            name, media = described_accent(accent)
        elif (clip := clips.clip_by_text(session, accent.sound.clip)) is not None:
            name, media = clip.name, otio.schema.ExternalReference(target_url=_file_name(clip))
        else:
            continue
        first, end = max(0, first), min(length, end)
        if end > first:
            found.append(AccentClip(name, first, end, media))
    return found


def _make(document: EditDocument) -> ImportOut:
    with session_scope() as session:
        known = _clips_by_name(session)
        found = [known.get(_plain(shot.file)) for shot in document.clips]
        missing = sorted(
            {s.file for s, clip in zip(document.clips, found, strict=True) if clip is None}
        )
        if missing:
            return ImportOut(edit=None, missing=missing, notes=[])
        notes = list(document.notes)
        placements = [
            _placement(clip, shot, document.rate, notes)
            for shot, clip in zip(document.clips, found, strict=True)
            if clip is not None
        ]
        first = placements[0].clip
        edit = edits.create_placed_edit(
            session,
            document.name,
            document.size or (first.width, first.height),
            rate_text(document.rate),
            placements,
            [
                CutDocument(before=each.before, after=each.after, recipe=each.recipe)
                for each in document.joins
            ],
        )
        session.refresh(edit)
        return ImportOut(edit=EditOut.of(edit_state(edit)), missing=[], notes=notes)


def _plain(name: str) -> str:
    """Return a file name without its extension, in lower case: an EDL has no extensions."""
    return name.rsplit(".", 1)[0].casefold()


def _clips_by_name(session: Session) -> dict[str, Clip]:
    """Return the clips that have pictures, by their names; of several the newest."""
    found = reversed(clips.all_clips(session))
    return {_plain(_file_name(clip)): clip for clip in found if not clip.is_sound}


def _stored_shot(shot: Shot, count: int | None) -> list[int] | None:
    frames = shot.of(count)
    return (
        None if frames is None or shot == WHOLE or not frames else [frames.start, frames.stop - 1]
    )


def _placement(clip: Clip, shot: TimelineClip, rate: Fraction, notes: list[str]) -> Placement:
    """Return what is shown of a clip; what had to be changed is added to ``notes``."""
    count = edits.conformed_count(clip, rate)
    placed = placed_range(clip.name, shot, count, rate, edits.start_frame(clip, rate))
    notes += placed.notes
    kept = shot.kept
    as_placed = {
        "framing": kept.framing.model_dump(mode="json", exclude_defaults=True),
        "muted": kept.muted,
        "gain_db": kept.gain_db,
        "crossfade": kept.crossfade,
        "deinterlaced": kept.deinterlaced,
        "shot": _stored_shot(kept.shot, count),
        "strokes": [
            each.model_dump(mode="json", exclude_defaults=True)
            for each in kept.strokes
            if each.frame < clip.frame_count
        ],
    }
    return Placement(clip, placed.first, placed.end, as_placed)
