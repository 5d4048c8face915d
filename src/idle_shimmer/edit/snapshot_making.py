"""Takes the snapshot of a stored edit: everything that is rendered or heard of it, as it is now."""

from collections.abc import Callable

from sqlalchemy.orm import Session

from idle_shimmer.edit.played import played_of
from idle_shimmer.edit.snapshot import MusicSnapshot, PlacedSnapshot, Snapshot, SubjectSnapshot
from idle_shimmer.store.clips import subject_mattes
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.cuts.cuts import CutDocument
from idle_shimmer.store.database import session_of
from idle_shimmer.store.edits import edits, placed_clips
from idle_shimmer.store.errors import Unreadable
from idle_shimmer.store.tables import Cut, Edit, PlacedClip


def document_at(cut: Cut, number: int) -> CutDocument:
    """Return the document of the ``number``-th cut of an edit. Raises Unreadable, which names it."""
    try:
        return cuts.document_of(cut)
    except Unreadable as error:
        raise Unreadable(f"cut {number}: {error.message}", field=error.field) from error


def played_at(cut: Cut, number: int) -> CutDocument:
    """Return the document of a cut as the player shows and plays it: a hard cut where it cannot be read."""
    del number
    return cuts.readable_document(cut)


def snapshot_of(
    session: Session,
    edit: Edit,
    place: int | None = None,
    document_of: Callable[[Cut, int], CutDocument] = document_at,
) -> Snapshot:
    """Return the snapshot of an edit, or of what lies around its cut ``place``.

    ``document_of`` answers for a cut and its number. How it is written is left at what is usual. Raises
    Unreadable, which names the cut.
    """
    first, last = (0, len(edit.placed)) if place is None else (max(0, place - 1), place + 3)
    numbered = list(enumerate(edits.cuts_of(edit)))[first : last - 1]
    played = played_of(session, edit)
    return Snapshot(
        width=edit.width,
        height=edit.height,
        rate=edit.rate,
        placed=[_placed(each) for each in edit.placed[first:last]],
        cuts=[document_of(cut, n + 1) for n, cut in numbered],
        edit_name=edit.name,
        place=None if place is None else place - first,
        first_number=first + 1,
        first_frame=sum(each.frames for each in played[:first]),
        music=_music(edit),
    )


def _music(edit: Edit) -> MusicSnapshot | None:
    if edit.music is None:
        return None
    return MusicSnapshot(
        file=edit.music.file,
        offset_s=edit.music_offset_s,
        gain_db=edit.music_gain_db,
        duration_s=edit.music.duration_s,
        name=edit.music.name,
    )


def _placed(placed: PlacedClip) -> PlacedSnapshot:
    return PlacedSnapshot(
        name=placed.clip.name,
        file=placed.clip.file,
        in_frame=placed.in_frame,
        out_frame=placed.out_frame,
        framing=placed_clips.framing_of(placed),
        muted=placed.muted,
        gain_db=placed.gain_db,
        crossfade=placed.crossfade,
        deinterlaced=placed.deinterlaced,
        shot=placed_clips.shot_of(placed),
        subject=_subject(placed),
    )


def _subject(placed: PlacedClip) -> SubjectSnapshot | None:
    if not placed.strokes:
        return None
    found = SubjectSnapshot(strokes=subject_mattes.strokes_of(placed))
    matte = subject_mattes.matte_of(session_of(placed), placed)
    if matte is None or matte.state != "done":
        return found
    return found.model_copy(update={"file": matte.file, "first": matte.first, "last": matte.last})
