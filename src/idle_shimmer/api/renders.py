"""Renders: create, list, read, cancel, retry, download."""

import re
import uuid

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel
from sqlalchemy.orm import Session

from idle_shimmer.api.cut_status import ClipLength
from idle_shimmer.api.errors import REFUSALS
from idle_shimmer.api.paging import MAX_LISTED, Limit, Offset
from idle_shimmer.api.schemas import RenderOut
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.errors import InvalidValue, ShimmerError
from idle_shimmer.jobs.queue import defer_render
from idle_shimmer.jobs.render import PlacedSnapshot, Snapshot
from idle_shimmer.store import cuts, edits, placed_clips, renders
from idle_shimmer.store.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound, Unreadable
from idle_shimmer.store.models import Cut, Edit, PlacedClip, Render
from idle_shimmer.transition import Transition

router = APIRouter(prefix="/api/renders", tags=["renders"], responses=REFUSALS)


class NewRender(BaseModel):
    """A new render: one cut's window with ``margin`` frames around it, or a whole edit."""

    edit: uuid.UUID | None = None
    cut: uuid.UUID | None = None
    margin: int = 12


@router.get("")
def list_renders(limit: Limit = MAX_LISTED, offset: Offset = 0) -> list[RenderOut]:
    """Return renders, newest first: ``limit`` of them after the first ``offset``."""
    with session_scope() as session:
        return [RenderOut.of(render) for render in renders.listed_renders(session, limit, offset)]


@router.post("", status_code=201)
def create_render(new: NewRender) -> RenderOut:
    """Queue a render."""
    with session_scope() as session:
        if new.cut is not None:
            render = _of_cut(session, new.cut, new.margin)
        elif new.edit is not None:
            render = _of_edit(edits.edit_by_id(session, new.edit))
        else:
            raise InvalidValue("choose an edit or a cut to render", field="edit")
        session.add(render)
        session.flush()
        session.refresh(render)
        defer_render(session, str(render.id))
        return RenderOut.of(render)


def _of_cut(session: Session, cut_id: uuid.UUID, margin: int) -> Render:
    cut = cuts.cut_by_id(session, cut_id)
    outgoing, incoming = edits.sides_of(cut)
    edit, document = outgoing.edit, cuts.document_of(cut)
    place = [each.id for each in edits.cuts_of(edit)].index(cut_id) + 1
    room = (
        outgoing.out_frame - outgoing.in_frame - document.before,
        incoming.out_frame - incoming.in_frame - document.after,
    )
    _require_spare_frames(edit, (outgoing, incoming), document, f"cut {place}")
    snapshot = _snapshot(edit, [outgoing, incoming], [document], max(0, min(margin, *room)))
    title = f"{edit.name}, cut {place}: {document.recipe.name}"
    return Render(
        edit_id=edit.id,
        cut_id=cut.id,
        title=title,
        snapshot=snapshot.model_dump(mode="json", by_alias=True, exclude_none=True),
        total_frames=snapshot.total_frames(),
    )


def _of_edit(edit: Edit) -> Render:
    documents = [_readable(cut, n + 1) for n, cut in enumerate(edits.cuts_of(edit))]
    for place, document in enumerate(documents):
        _require_spare_frames(
            edit, (edit.placed[place], edit.placed[place + 1]), document, f"cut {place + 1}"
        )
    snapshot = _snapshot(edit, edit.placed, documents, None)
    return Render(
        edit_id=edit.id,
        title=f"{edit.name}, whole edit",
        snapshot=snapshot.model_dump(mode="json", by_alias=True, exclude_none=True),
        total_frames=snapshot.total_frames(),
    )


def _readable(cut: Cut, number: int) -> CutDocument:
    try:
        return cuts.document_of(cut)
    except Unreadable as error:
        raise Unreadable(f"cut {number}: {error.message}", field=error.field) from error


def _snapshot(
    edit: Edit, placed: list[PlacedClip], documents: list[CutDocument], margin: int | None
) -> Snapshot:
    return Snapshot(
        width=edit.width,
        height=edit.height,
        rate=edit.rate,
        placed=[
            PlacedSnapshot(
                name=each.clip.name,
                file=each.clip.file,
                in_frame=each.in_frame,
                out_frame=each.out_frame,
                framing=placed_clips.framing_of(each),
                muted=each.muted,
            )
            for each in placed
        ],
        cuts=documents,
        margin=margin,
    )


def _require_spare_frames(
    edit: Edit, sides: tuple[PlacedClip, PlacedClip], document: CutDocument, which: str
) -> None:
    rate = parse_rate(edit.rate)
    clips = [ClipLength(each.clip.name, edits.conformed_count(each.clip, rate)) for each in sides]
    transition = Transition(
        clips[0],  # type: ignore[arg-type]
        clips[1],  # type: ignore[arg-type]
        sides[0].out_frame,
        sides[1].in_frame,
        Window(document.before, document.after),
        document.recipe,
        rate=rate,
    )
    try:
        transition.require_frames()
    except ShimmerError as error:
        raise InvalidValue(f"{which}: {error.message}", field=error.field) from error


@router.get("/{render_id}")
def get_render(render_id: uuid.UUID) -> RenderOut:
    """Return one render."""
    with session_scope() as session:
        return RenderOut.of(renders.render_by_id(session, render_id))


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
        lost = render.state == "done" and not renders.file_of(render).is_file()
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
    if not render.file or not path.is_file():
        raise NotFound("this render has no file: render it again", field="render")
    plain = re.sub(r"[^A-Za-z0-9 .,_-]+", "_", render.title).strip() or "render"
    return FileResponse(path, media_type="video/mp4", filename=f"{plain}{path.suffix}")
