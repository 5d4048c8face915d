"""Renders: create, list, read, cancel, retry, download."""

import mimetypes
import uuid
from typing import Annotated, get_args

from fastapi import APIRouter, Query, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel

from idle_shimmer.api.renders.render_answers import RenderOut
from idle_shimmer.api.renders.render_requests import NewRender, Prepared, RenderChoice
from idle_shimmer.api.server.paging import MAX_LISTED, Limit, Offset
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.files.file_store import file_store
from idle_shimmer.jobs.defer import defer_render
from idle_shimmer.media.local_copies import at_hand
from idle_shimmer.media.write.output_formats import FORMATS
from idle_shimmer.output.plan import SizeChoice, scaled_size
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.renders import renders
from idle_shimmer.store.renders.render_choices import last_choice, remember_choice

router = APIRouter(prefix="/api/renders", tags=["renders"])
mimetypes.add_type("video/x-matroska", ".mkv")
mimetypes.add_type("video/webm", ".webm")
Side = Annotated[int, Query(ge=1, le=16_384)]


class FormatOut(BaseModel):
    """A format that can be chosen. ``qualities`` is empty where it has only one."""

    id: str
    name: str
    suffix: str
    is_video: bool
    holds_sound_tracks: bool
    qualities: list[str]


class SizeOut(BaseModel):
    """A size of the pictures of a render."""

    choice: SizeChoice
    width: int
    height: int


class ChoicesOut(BaseModel):
    """The formats, the sizes for the frame size that was asked for, and what was chosen last."""

    formats: list[FormatOut]
    sizes: list[SizeOut]
    last: RenderChoice


class EstimateOut(BaseModel):
    """What a render would be: its file, frames, and about how many bytes and seconds it takes."""

    file_name: str
    width: int
    height: int
    frames: int
    bytes: int
    seconds: float


@router.get("")
def list_renders(limit: Limit = MAX_LISTED, offset: Offset = 0) -> list[RenderOut]:
    """Return renders, newest first: ``limit`` of them after the first ``offset``."""
    with session_scope() as session:
        return RenderOut.listed(session, renders.listed_renders(session, limit, offset))


@router.post("", status_code=201)
def create_render(new: NewRender) -> RenderOut:
    """Queue a render, and remember what was chosen."""
    with session_scope() as session:
        prepared = Prepared(session, new)
        prepared.require_frames()
        render = prepared.render()
        session.add(render)
        remember_choice(session, prepared.choice.model_dump(mode="json"))
        session.flush()
        session.refresh(render)
        defer_render(session, str(render.id))
        return RenderOut.of(render)


@router.get("/choices")
def render_choices(width: Side = 1920, height: Side = 1080) -> ChoicesOut:
    """Return what can be chosen for a render of an edit of ``width``×``height``, and the last choice."""
    with session_scope() as session:
        last = RenderChoice.model_validate(last_choice(session))
    formats = [
        FormatOut(
            id=each.id,
            name=each.name,
            suffix=each.suffix,
            is_video=each.video is not None,
            holds_sound_tracks=each.holds_sound_tracks,
            qualities=list(each.qualities),
        )
        for each in FORMATS.values()
    ]
    sizes = [(choice, scaled_size((width, height), choice)) for choice in get_args(SizeChoice)]
    return ChoicesOut(
        formats=formats,
        sizes=[SizeOut(choice=choice, width=w, height=h) for choice, (w, h) in sizes],
        last=last,
    )


@router.post("/estimate")
def estimate_render(new: NewRender) -> EstimateOut:
    """Return what a render would be, without queueing it. Refuses what a render refuses."""
    with session_scope() as session:
        prepared = Prepared(session, new)
        prepared.require_frames()
        rates, pixels = prepared.rates(), prepared.megapixels()
        width, height = prepared.settings.size_of(prepared.plan.size)
        return EstimateOut(
            file_name=prepared.file_name(),
            width=width,
            height=height,
            frames=prepared.total_frames(),
            bytes=round(rates.bytes_per_megapixel * pixels),
            seconds=rates.seconds_per_megapixel * pixels,
        )


@router.get("/{render_id}")
def get_render(render_id: uuid.UUID) -> RenderOut:
    """Return one render."""
    with session_scope() as session:
        return RenderOut.listed(session, [renders.render_by_id(session, render_id)])[0]


@router.post("/{render_id}/cancel")
def cancel_render(render_id: uuid.UUID) -> RenderOut:
    """Stop a render that is queued or running; a finished one is unchanged."""
    with session_scope() as session:
        render = renders.render_by_id(session, render_id)
        render.cancel_asked = True
        if render.state == "waiting":
            render.state, render.message = "cancelled", "Cancelled."
        return RenderOut.of(render)


@router.post("/{render_id}/retry")
def retry_render(render_id: uuid.UUID) -> RenderOut:
    """Queue a failed or cancelled render again, unchanged; also one whose file is gone."""
    with session_scope() as session:
        render = renders.render_by_id(session, render_id)
        lost = render.state == "done" and not file_store().has(renders.file_of(render))
        if render.state not in ("failed", "cancelled") and not lost:
            raise InvalidValue(
                f"this render is {render.state}: only a failed or cancelled one can be retried",
                field="state",
            )
        render.file = ""
        render.state, render.cancel_asked, render.message = "waiting", False, ""
        render.done_frames = render.starts = 0
        defer_render(session, str(render_id))
        return RenderOut.of(render)


@router.delete("/{render_id}", status_code=204, response_class=Response)
def delete_render(render_id: uuid.UUID) -> None:
    """Delete a render that has ended, with its file."""
    with session_scope() as session:
        renders.delete_render(session, renders.render_by_id(session, render_id))


@router.get("/{render_id}/file", response_class=FileResponse)
def render_file(render_id: uuid.UUID) -> FileResponse:
    """Return the finished file."""
    with session_scope() as session:
        render = renders.render_by_id(session, render_id)
        path = renders.file_of(render)
        name = render.settings.get("file_name") or f"{render.title}{path.suffix}"
    if not render.file or not at_hand(path).is_file():
        raise NotFound("this render has no file: render it again", field="render")
    kind = mimetypes.guess_type(path.name)[0] or "application/octet-stream"
    return FileResponse(path, media_type=kind, filename=name)
