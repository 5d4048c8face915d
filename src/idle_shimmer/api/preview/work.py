"""The work of one request: which pictures are wanted next, and everything else that is answered."""

import itertools
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import asdict
from typing import Any

import cv2
import numpy as np

from idle_shimmer.api.preview.protocol import Focus, PreviewRequest, Task, picture_message
from idle_shimmer.api.preview.scene import Scene
from idle_shimmer.checking import check_transition, frame_or_none
from idle_shimmer.core.animation.retime import CLIP_SIDES
from idle_shimmer.core.checks.base import ids_on_frames
from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.render import picture_of
from idle_shimmer.core.sound.heard import HeardAround
from idle_shimmer.curves import curves_of


class Dropped(Exception):
    """A newer request has arrived: this one is obsolete."""


class Work:
    """One request, and what of it is still to be made."""

    def __init__(self, scene: Scene, request: PreviewRequest) -> None:
        self.request = request
        self.large = scene.transition(request, small=False)
        self.small = scene.transition(request, small=True)
        self.dropped = False
        self._scene = scene
        self._shown, self._sources = request.shown, request.sources
        self._made: set[Task] = set()
        self._thumbs: dict[int, Codes] = {}

    def focus(self, focus: Focus) -> None:
        """Make another frame first."""
        self._shown, self._sources = focus.shown, focus.sources

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
        window = range(-request.before, request.after)
        yield from (Task("thumb", k) for k in sorted(window, key=lambda k: abs(k - self._shown)))
        first, end = -request.before - request.run_up, request.after + request.run_up
        start = min(max(self._shown, first), end - 1)
        yield from (Task("frame", k) for k in (*range(start, end), *range(first, start)))

    def fetch(self, task: Task) -> None:
        """Read the clips' pictures that ``task`` needs; ``make`` reports what fails."""
        with suppress(ShimmerError):
            if task.kind == "source":
                self._source(task.offset)
            else:
                (self.small if task.kind == "thumb" else self.large).fetch(task.offset)

    def begin(self, task: Task) -> None:
        """Count a picture as made: one that fails is not tried again."""
        self._made.add(task)

    def make(self, task: Task) -> bytes:
        """Return the message with the picture of ``task``."""
        return picture_message(self.request.id, task, self._picture(task))

    def _picture(self, task: Task) -> Codes:
        if task.kind == "frame":
            return self.large.frame(task.offset)
        if task.kind == "thumb":
            self._thumbs[task.offset] = self.small.frame(task.offset)
            return self._thumbs[task.offset]
        return self._source(task.offset)

    def _source(self, offset: int) -> Codes:
        shown = (
            self.large.outgoing.frame(self.large.outgoing_out + offset)
            if offset < 0
            else self.large.incoming.frame(self.large.incoming_in + offset)
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
            "curves": [asdict(curve) for curve in curves_of(timeline)],
            "shortages": [
                {"side": each.side, "missing": each.missing, "message": each.sentence}
                for each in self.large.shortages()
            ],
            "span_that_fits": self.large.span_that_fits(),
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
