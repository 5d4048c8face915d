"""The work of one request: which pictures are wanted next, and everything else that is answered."""

import itertools
import time
from collections.abc import Iterator
from contextlib import suppress
from typing import Any

import cv2
import numpy as np

from idle_shimmer.api.preview.protocol import Focus, PreviewRequest, Task, picture_message
from idle_shimmer.core.animation.curves import curves_of
from idle_shimmer.core.animation.retime import CLIP_SIDES
from idle_shimmer.core.checks.base import ids_on_frames
from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.core.frame.render import picture_of
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.sound.heard_around import HeardAround
from idle_shimmer.edit.scene import PictureSize, Scene
from idle_shimmer.transition.checking import check_transition, frame_or_none
from idle_shimmer.transition.missing_frames import shortages, span_that_fits
from idle_shimmer.transition.transition import Transition

# A picture is made sharp once nothing has changed for so long.
REST_S = 0.06


class Dropped(Exception):
    """A newer request has arrived: this one is obsolete."""


class Work:
    """One request, and what of it is still to be made."""

    def __init__(self, scene: Scene, request: PreviewRequest) -> None:
        self.request = request
        self.large = scene.transition(request, "frame")
        self.small = scene.transition(request, "thumb")
        self.dropped = False
        self._scene = scene
        self._shown, self._sources = request.shown, request.sources
        self._area, self._sharp_frames = request.area, request.sharp_frames
        self._since = time.monotonic()
        self._made: set[Task] = set()
        self._thumbs: dict[int, Codes] = {}

    def focus(self, focus: Focus) -> None:
        """Make another frame first."""
        self._shown, self._sources = focus.shown, focus.sources
        was = self._sharp
        self._area, self._sharp_frames = focus.area, focus.sharp_frames
        if self._sharp != was:
            self._made = {each for each in self._made if not each.kind.startswith("sharp")}
        self._since = time.monotonic()

    def next_tasks(self, most: int) -> list[Task]:
        """Return the most wanted pictures that are not made yet, in order."""
        missing = (task for task in self._wanted() if task not in self._made)
        return list(itertools.islice(missing, most))

    def _wanted(self) -> Iterator[Task]:
        request = self.request
        yield from (Task("source", k) for k in self._sources)
        yield Task("frame", self._shown)
        if not request.rest:
            return
        if not self.sharpens_in():
            yield from self._sharpened()
        window = range(-request.before, request.after)
        yield from (Task("thumb", k) for k in sorted(window, key=lambda k: abs(k - self._shown)))
        first, end = -request.before - request.run_up, request.after + request.run_up
        start = min(max(self._shown, first), end - 1)
        loop = (*range(start, end), *range(first, start))
        yield from (Task("frame", k) for k in loop)
        if self._sharp is not None and self._sharp_frames:
            outward = sorted(loop, key=lambda k: abs(k - self._shown))
            sharp = [Task("sharp", k) for k in outward]
            made = sum(each in self._made for each in sharp)
            missing = (each for each in sharp if each not in self._made)
            yield from itertools.islice(missing, max(0, self._sharp_frames - made))

    def _sharpened(self) -> Iterator[Task]:
        """Yield the shown pictures once more, as large as they are seen."""
        if self._sharp is not None:
            yield from (Task("sharp_source", k) for k in self._sources)
            yield Task("sharp", self._shown)

    @property
    def _sharp(self) -> PictureSize | None:
        return None if self._area is None else self._scene.sharp_size(self._area)

    def sharpens_in(self) -> float:
        """Return in how many seconds the shown picture is to be made sharp: 0 where it is due, or was made."""
        if self._sharp is None or not self.request.rest:
            return 0.0
        if all(task in self._made for task in self._sharpened()):
            return 0.0
        return max(0.0, self._since + REST_S - time.monotonic())

    def _at(self, task: Task) -> Transition:
        """Return the transition at the size of a picture."""
        if task.kind == "thumb":
            return self.small
        sharp = self._sharp
        if not task.kind.startswith("sharp") or sharp is None:
            return self.large
        return self._scene.transition(self.request, sharp)

    def fetch(self, task: Task) -> None:
        """Read the clips' pictures that ``task`` needs; ``make`` reports what fails."""
        with suppress(ShimmerError):
            if task.kind in ("source", "sharp_source"):
                self._source(task)
            else:
                self._at(task).fetch(task.offset)

    def begin(self, task: Task) -> None:
        """Count a picture as made: one that fails is not tried again."""
        self._made.add(task)

    def make(self, task: Task) -> bytes:
        """Return the message with the picture of ``task``."""
        return picture_message(self.request.id, task, self._picture(task))

    def _picture(self, task: Task) -> Codes:
        if task.kind in ("source", "sharp_source"):
            return self._source(task)
        picture = self._at(task).frame(task.offset)
        if task.kind == "thumb":
            self._thumbs[task.offset] = picture
        return picture

    def _source(self, task: Task) -> Codes:
        transition, offset = self._at(task), task.offset
        shown = (
            transition.outgoing.frame(transition.outgoing_out + offset)
            if offset < 0
            else transition.incoming.frame(transition.incoming_in + offset)
        )
        return picture_of(shown).to("codes").pixels

    def strip_is_complete(self) -> bool:
        """Whether every picture of the strip is made."""
        return len(self._thumbs) == self.request.before + self.request.after

    def changes(self) -> dict[str, Any]:
        """Return how much each frame of the window differs from the one before it.

        Mean absolute difference of code values, 0…1, on the strip's pictures.
        """
        window = range(-self.request.before, self.request.after)
        before = self.small.frame(window[0] - 1)
        pictures = [before, *(self._thumbs[k] for k in window)]
        changes = [
            round(float(np.mean(cv2.absdiff(one, other))) / 255, 5)
            for one, other in itertools.pairwise(pictures)
        ]
        return {"id": self.request.id, "kind": "changes", "changes": changes}

    def curves(self) -> dict[str, Any]:
        """Return curves, spare frames that are missing or used, and the span that would fit."""
        timeline = self.large.timeline(self._scene.frame_size)
        return {
            "id": self.request.id,
            "kind": "curves",
            "curves": [vars(curve) for curve in curves_of(timeline)],
            "shortages": [
                {"side": each.side, "missing": each.missing, "message": each.sentence}
                for each in shortages(self.large)
            ],
            "span_that_fits": span_that_fits(self.large),
            "spare_frames_used": {
                side: self.large.recipe.retime.ramp(side, self.large.window).extra_frames
                for side in CLIP_SIDES
            },
        }

    def findings(self, *, on_frames: bool) -> dict[str, Any]:
        """Return what the cut checks find; those of rendered frames only if ``on_frames``."""
        frames = self._frame_around if on_frames else None
        # The preview holds a missing frame; the check still reports it.
        found = check_transition(
            self.large,
            self._scene.edit_size,
            frames,
            source_scale=self._scene.source_scale(self.request),
            sound=self._heard if on_frames else None,
            morphs=self.small.morphs if on_frames else None,
        )
        checks = [each.as_json() for each in found]
        pending = [] if on_frames else ids_on_frames()
        return {"id": self.request.id, "kind": "checks", "checks": checks, "pending": pending}

    def _heard(self) -> HeardAround | None:
        if self.dropped:
            raise Dropped
        return self._scene.heard(self.large)

    def _frame_around(self, offset: int) -> Codes | None:
        """Return a small frame of the edit around the cut, neighbouring transitions included."""
        if self.dropped:
            raise Dropped
        if offset in self._thumbs:
            return self._thumbs[offset]
        for neighbour in self._scene.neighbours:
            if offset - neighbour.distance in neighbour.transition.window:
                return frame_or_none(neighbour.transition, offset - neighbour.distance)
        return frame_or_none(self.small, offset)
