"""The subject of a clip at a cut: its strokes, its mattes, and ways to look at them."""

import uuid
from fractions import Fraction
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from idle_shimmer.core.animation.retime import CLIP_SIDES, ClipSide
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.subject.doubtful import doubtful_frames
from idle_shimmer.core.subject.propagate import mattes
from idle_shimmer.core.subject.regions import Weight
from idle_shimmer.core.subject.strokes import Strokes, sorted_strokes
from idle_shimmer.core.subject.views import View, seen
from idle_shimmer.edit.described import described
from idle_shimmer.edit.played import played_of, slip_rooms
from idle_shimmer.files.file_store import file_store
from idle_shimmer.jobs.defer import defer_matte
from idle_shimmer.media.matte_video import MatteVideo
from idle_shimmer.media.previews.jpeg import jpeg
from idle_shimmer.media.previews.picture_cache import PREVIEW_BOX, Source, fitted, picture_cache
from idle_shimmer.store.clips import clips, subject_mattes
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.database import session_of, session_scope
from idle_shimmer.store.edits import edits
from idle_shimmer.store.edits.windows import sides_of
from idle_shimmer.store.tables import Cut, PlacedClip, SubjectMatte

router = APIRouter(prefix="/api/cuts/{cut_id}/subject", tags=["subject"])
_QUALITY = 92
_MOST_FRAMES = 200
StrokeList = Annotated[list[Strokes], Field(max_length=_MOST_FRAMES)]


class MatteOut(BaseModel):
    """The mattes of pictures ``first`` … ``last`` of the clip, and how far they are.

    ``doubtful`` are those that change most from the one before, worst first, once they are done.
    """

    id: uuid.UUID
    state: str
    first: int
    last: int
    done_frames: int
    total_frames: int
    message: str
    doubtful: list[int]

    @classmethod
    def of(cls, matte: SubjectMatte) -> "MatteOut":
        """Return the answer for a row."""
        facts = {name: getattr(matte, name) for name in cls.model_fields if name != "doubtful"}
        found = doubtful_frames(matte.changes, matte.first) if matte.state == "done" else []
        return cls(**facts, doubtful=[frame for frame in found if frame <= matte.last])


class SubjectOut(BaseModel):
    """The subject of a clip, by the clip's pictures: ``at_cut`` is the one that meets the cut.

    The window shows pictures ``first_shown`` … ``last_shown``. ``matte`` is null where nothing is marked.
    ``version`` names the strokes: saving others names those that the editor saw.
    """

    version: str
    strokes: list[Strokes]
    matte: MatteOut | None
    at_cut: int
    first_shown: int
    last_shown: int
    picture_count: int
    still: bool

    @classmethod
    def of(cls, cut: Cut, side: ClipSide) -> "SubjectOut":
        """Return the answer for one side of a cut."""
        placed = _placed(cut, side)
        session = session_of(placed)
        pictures = _pictures(cut, side)
        matte = subject_mattes.matte_of(session, placed)
        return cls(
            version=subject_mattes.mark_of(placed.clip, placed.strokes),
            strokes=subject_mattes.strokes_of(placed),
            matte=None if matte is None else MatteOut.of(matte),
            at_cut=_at_cut(cut, side),
            first_shown=pictures[0],
            last_shown=pictures[-1],
            picture_count=placed.clip.frame_count,
            still=placed.clip.still,
        )


class SubjectSet(BaseModel):
    """The strokes that mark a subject; none unmark it.

    Refused with 409 where the strokes have another ``version``; without one they are not compared.
    """

    version: str | None = None
    strokes: StrokeList


class Looked(BaseModel):
    """A picture of the clip with the matte that strokes give, and how it is shown."""

    picture: Annotated[int, Field(ge=0)]
    strokes: StrokeList
    view: View = "overlay"


@router.get("/{side}")
def subject(cut_id: uuid.UUID, side: ClipSide) -> SubjectOut:
    """Return the subject of one clip at a cut."""
    with session_scope() as session:
        return SubjectOut.of(cuts.cut_by_id(session, cut_id), side)


@router.put("/{side}")
def mark_subject(cut_id: uuid.UUID, side: ClipSide, wanted: SubjectSet) -> SubjectOut:
    """Set the strokes of a clip, and begin to make its mattes."""
    with session_scope() as session:
        cut = cuts.cut_by_id(session, cut_id)
        edits.edit_for_change(session, cut.outgoing.edit_id, None)
        placed = _placed(cut, side)
        subject_mattes.require_seen(placed, wanted.version)
        strokes = sorted_strokes(wanted.strokes, "strokes") if wanted.strokes else []
        beyond = next((each for each in strokes if each.frame >= placed.clip.frame_count), None)
        if beyond is not None:
            raise InvalidValue(
                f"{placed.clip.name} has pictures 0 to {placed.clip.frame_count - 1}, but there are"
                f" strokes on picture {beyond.frame}",
                field="strokes",
            )
        placed.strokes = [each.model_dump(mode="json", exclude_defaults=True) for each in strokes]
        session.flush()
        subject_mattes.stop_others(session, placed)
        _make(cut, side)
        edits.touch(session, placed.edit)
        session.flush()
        return SubjectOut.of(cut, side)


@router.post("/{side}/mattes", status_code=202)
def make_mattes(cut_id: uuid.UUID, side: ClipSide) -> SubjectOut:
    """Make the mattes that the window needs, where they are missing: after it has grown, or again."""
    with session_scope() as session:
        cut = cuts.cut_by_id(session, cut_id)
        _make(cut, side)
        return SubjectOut.of(cut, side)


@router.post("/{side}/mattes/cancel")
def cancel_mattes(cut_id: uuid.UUID, side: ClipSide) -> SubjectOut:
    """Stop the making of mattes."""
    with session_scope() as session:
        cut = cuts.cut_by_id(session, cut_id)
        matte = subject_mattes.matte_of(session, _placed(cut, side))
        if matte is not None:
            subject_mattes.cancel(session, matte.id)
        session.flush()
        return SubjectOut.of(cut, side)


@router.post(
    "/{side}/look",
    response_class=Response,
    responses={200: {"content": {"image/jpeg": {}}, "description": "The picture."}},
)
def look(cut_id: uuid.UUID, side: ClipSide, wanted: Looked) -> Response:
    """Return a picture with its matte: the one that is made, or the one of its own strokes, or none."""
    with session_scope() as session:
        placed = _placed(cuts.cut_by_id(session, cut_id), side)
        clip = placed.clip
        size = fitted((clip.width, clip.height), PREVIEW_BOX)
        if wanted.picture >= clip.frame_count:
            raise InvalidValue(
                f"{clip.name} has pictures 0 to {clip.frame_count - 1}", field="picture"
            )
        strokes = sorted_strokes(wanted.strokes, "strokes") if wanted.strokes else []
        path = clips.path_of(clip.file)
        made = _made(placed, strokes, wanted.picture, size)
    picture = picture_cache().picture(Source(path), size, wanted.picture)
    alpha = made if made is not None else _tried(picture, strokes, wanted.picture)
    shown = picture if alpha is None else seen(picture, alpha, wanted.view)
    return Response(jpeg(shown, _QUALITY), media_type="image/jpeg")


def _placed(cut: Cut, side: ClipSide) -> PlacedClip:
    return sides_of(cut)[CLIP_SIDES.index(side)]


def _make(cut: Cut, side: ClipSide) -> None:
    """Request the mattes of a marked subject, and queue them where they have to be made."""
    placed = _placed(cut, side)
    if not placed.strokes:
        return
    session = session_of(placed)
    matte, is_new = subject_mattes.request(session, placed, _pictures(cut, side))
    if is_new:
        defer_matte(session, str(matte.id))


def _pictures(cut: Cut, side: ClipSide) -> range:
    """Return the pictures of the clip that the window shows or may read, the one at the cut where it reads none."""
    edit = cut.outgoing.edit
    place = [each.id for each in edits.cuts_of(edit)].index(cut.id)
    session = session_of(edit)
    transition = described(
        edit,
        place,
        cuts.readable_document(cut),
        played_of(session, edit),
        slip_rooms(edit)[place],
    )
    at = _at_cut(cut, side)
    frames = transition.subject_frames(side)
    clip = _placed(cut, side).clip
    if frames is None:
        return range(at, at + 1)
    factor = parse_rate(clip.rate) / transition.rate
    # A frame shows the picture at the middle of its time.
    first, last = (int((each + Fraction(1, 2)) * factor) for each in (frames[0], frames[-1]))
    most = max(0, clip.frame_count - 1)
    return range(min(first, most), min(last, most) + 1)


def _at_cut(cut: Cut, side: ClipSide) -> int:
    edit = cut.outgoing.edit
    place = [each.id for each in edits.cuts_of(edit)].index(cut.id)
    played = played_of(session_of(edit), edit)
    frame = played[place].end - 1 if side == "outgoing" else played[place + 1].first
    clip = _placed(cut, side).clip
    factor = parse_rate(clip.rate) / parse_rate(edit.rate)
    return min(max(0, int((frame + Fraction(1, 2)) * factor)), max(0, clip.frame_count - 1))


def _made(
    placed: PlacedClip, strokes: list[Strokes], picture: int, size: tuple[int, int]
) -> Weight | None:
    """Return the matte of a picture where it is made of exactly these strokes."""
    matte = subject_mattes.matte_of(session_of(placed), placed)
    if matte is None or matte.state != "done" or subject_mattes.strokes_of(placed) != strokes:
        return None
    file = subject_mattes.path_of(matte)
    if not matte.first <= picture <= matte.last or not file_store().has(file):
        return None
    video = MatteVideo(file, matte.first, size)
    try:
        return video.alpha(picture)
    finally:
        video.close()


def _tried(picture: Codes, strokes: list[Strokes], number: int) -> Weight | None:
    """Return the matte of a picture from the strokes on itself, None without any."""
    own = [each for each in strokes if each.frame == number]
    if not own or not (own[0].keep or own[0].box):
        return None
    return next(iter(mattes(lambda _: picture, own, number, number)))[1]
