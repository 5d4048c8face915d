"""The mattes of the subjects at a cut, as far as they are made, at the sizes of the preview."""

import uuid

import numpy as np
from cachetools import LRUCache

from idle_shimmer.core.animation.retime import CLIP_SIDES
from idle_shimmer.media.matte_video import Alpha, MatteVideo
from idle_shimmer.media.previews.picture_cache import CachedClip
from idle_shimmer.media.read.reader import Size
from idle_shimmer.store.clips import subject_mattes
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.edits.windows import sides_of
from idle_shimmer.transition.transition import SubjectOf, Subjects

_KEPT = 8
# (matte, or None) of outgoing and incoming.
Ids = tuple[uuid.UUID | None, uuid.UUID | None]


class PreviewSubjects:
    """The mattes at one cut. ``ids`` name those that the page knows of; of unfinished ones nothing is seen."""

    def __init__(self, cut_id: uuid.UUID) -> None:
        self._cut_id = cut_id
        self._videos: LRUCache[tuple[uuid.UUID, Size], MatteVideo] = LRUCache(_KEPT)
        self._now: Ids | None = None

    def of(self, clips: tuple[CachedClip, CachedClip], size: Size, ids: Ids | None) -> Subjects:
        """Return the subjects of both clips at ``size``; without ``ids`` the ones of the strokes now."""
        wanted = self._found_now() if ids is None else ids
        found = {}
        for side, clip, each in zip(CLIP_SIDES, clips, wanted, strict=True):
            if each is not None:
                video = self._video(each, size)
                found[side] = _nothing(size) if video is None else _subject(clip, video)
        return Subjects(**found)

    def _found_now(self) -> Ids:
        if self._now is None:
            with session_scope() as session:
                cut = cuts.cut_by_id(session, self._cut_id)
                one, other = (subject_mattes.matte_of(session, each) for each in sides_of(cut))
                self._now = None if one is None else one.id, None if other is None else other.id
        return self._now

    def _video(self, matte_id: uuid.UUID, size: Size) -> MatteVideo | None:
        if (matte_id, size) not in self._videos:
            with session_scope() as session:
                matte = subject_mattes.done_matte(session, matte_id)
                if matte is None:
                    return None
                file, first = subject_mattes.path_of(matte), matte.first
            self._videos[matte_id, size] = MatteVideo(file, first, size)
        return self._videos[matte_id, size]


def _nothing(size: Size) -> SubjectOf:
    """Return the subject whose mattes are still being made: nothing of it is seen yet."""
    empty = np.zeros((size[1], size[0]), np.float32)
    return lambda _number: empty


def _subject(clip: CachedClip, video: MatteVideo) -> SubjectOf:
    def alpha(number: int) -> Alpha:
        return video.alpha(clip.picture_number(number))

    return alpha
