"""The live preview of a cut over a WebSocket: shown frame first, then the strip, then the rest.

The page sends ``PreviewRequest`` as JSON. Each has an id that grows with every change; the answers
carry it, so that the page can tell a stale one. A newer request makes the server drop what it had
not begun. Answers: JSON text for ``curves``, ``problem`` and ``done``; for pictures a binary
message, 4 bytes with the length of a JSON head (big-endian), the head, then a JPEG.
"""

import asyncio
import itertools
import json
import uuid
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from dataclasses import asdict, dataclass
from functools import cached_property, lru_cache, partial
from typing import Annotated, Any, Literal

import cv2
import numpy as np
from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import BaseModel, ConfigDict, Field, ValidationError

from idle_shimmer.api.clips import jpeg
from idle_shimmer.api.errors import Problem, problems_in
from idle_shimmer.checking import check_transition, frame_or_none
from idle_shimmer.core.animation.retime import extra_source_frames
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.checks.base import ids_on_frames
from idle_shimmer.core.errors import RecipeError, ShimmerError
from idle_shimmer.core.framing import UNFRAMED, Framing
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.recipe import Recipe, SideFrames, problems_of
from idle_shimmer.curves import curves_of
from idle_shimmer.media.picture_cache import PREVIEW_BOX, CachedClip, fitted, picture_cache
from idle_shimmer.media.reframed import ReframedClip
from idle_shimmer.store import cuts, edits, placed_clips
from idle_shimmer.store.clips import matte_of_clip, path_of
from idle_shimmer.store.cuts import CutDocument
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.models import PlacedClip
from idle_shimmer.transition import Transition

router = APIRouter()
THUMB_BOX = (160, 90)
Pair = tuple[ReframedClip, ReframedClip]
_KEPT_FRAMES = 160
_FETCHED_AHEAD = 24
_QUIET_S = 0.25
_ahead = ThreadPoolExecutor(max_workers=1, thread_name_prefix="ahead")
_FRAME_QUALITY, _THUMB_QUALITY = 90, 82

Kind = Literal["frame", "thumb", "source"]


class Framings(BaseModel):
    """How the two clips stand in the frame."""

    model_config = ConfigDict(extra="forbid", frozen=True)

    outgoing: Framing = UNFRAMED
    incoming: Framing = UNFRAMED


class PreviewRequest(BaseModel):
    """A state of the bench to be shown; ``sources`` are the frames wanted untreated as well.

    Without ``framing`` the clips stand as they are saved.
    """

    model_config = ConfigDict(extra="forbid")

    id: int
    before: SideFrames
    after: SideFrames
    recipe: Recipe
    shown: int
    run_up: Annotated[int, Field(ge=0, le=500)] = 0
    sources: Annotated[tuple[int, ...], Field(max_length=4)] = ()
    rest: bool = True
    framing: Framings | None = None


class Focus(BaseModel):
    """Another frame to show of the same state, and untreated sources to compare it with."""

    model_config = ConfigDict(extra="forbid")

    id: int
    shown: int
    sources: Annotated[tuple[int, ...], Field(max_length=4)] = ()


@dataclass(frozen=True)
class Task:
    """One picture to make."""

    kind: Kind
    offset: int


@dataclass(frozen=True)
class Neighbour:
    """A transition next to the cut, and where its cut lies, in frames from this one."""

    transition: Transition
    distance: int


class Scene:
    """The two clips of a cut at the sizes of the preview."""

    def __init__(self, cut_id: uuid.UUID) -> None:
        with session_scope() as session:
            cut = cuts.cut_by_id(session, cut_id)
            outgoing, incoming = edits.sides_of(cut)
            edit, saved = outgoing.edit, cuts.document_of(cut)
            around = [
                (edits.sides_of(each), cuts.document_of(each))
                for each in edits.cuts_of(edit)
                if each.id != cut_id and {outgoing, incoming} & set(edits.sides_of(each))
            ]
        self.sides, self.rate = (outgoing, incoming), parse_rate(edit.rate)
        self.edit_size = (edit.width, edit.height)
        # How many frame pixels a source pixel covers, of the clip that is enlarged most.
        self.source_scale = max(
            max(edit.width / side.clip.width, edit.height / side.clip.height) for side in self.sides
        )
        self.frame_size = fitted((edit.width, edit.height), PREVIEW_BOX)
        self.thumb_size = fitted((edit.width, edit.height), THUMB_BOX)
        self.saved_framing = _framings_of(self.sides)
        self.left = False
        self._saved, self._around = saved, around

    @cached_property
    def neighbours(self) -> list[Neighbour]:
        """The transitions next to this cut; their clips are opened only when they are asked for."""
        return [self._neighbour(sides, document) for sides, document in self._around]

    def fetches(self) -> Iterator[Callable[[], None]]:
        """What to do while nobody waits: read the pictures of the neighbouring cuts, nearest first.

        Whoever goes on to one of them finds its pictures decoded.
        """
        for neighbour in self.neighbours:
            window = neighbour.transition.window
            for offset in sorted(window.offsets, key=abs)[:_FETCHED_AHEAD]:
                yield partial(neighbour.transition.fetch, offset)

    def _neighbour(self, sides: tuple[PlacedClip, PlacedClip], document: CutDocument) -> Neighbour:
        """A transition next to this cut, whose window begins within reach of its checks."""
        ahead = sides[1] is self.sides[0]
        between = sides[1] if ahead else sides[0]
        length = between.out_frame - between.in_frame
        made = Transition(
            *self._framed(sides, self.thumb_size, _framings_of(sides)),
            sides[0].out_frame,
            sides[1].in_frame,
            Window(document.before, document.after),
            document.recipe,
            hold=True,
            rate=self.rate,
            matte_of=matte_of_clip(self.thumb_size),
        )
        return Neighbour(made, -length if ahead else length)

    def _clips(
        self, sides: tuple[PlacedClip, PlacedClip], small: tuple[int, int] | None
    ) -> tuple[CachedClip, CachedClip]:
        one, other = (
            CachedClip(
                picture_cache(),
                path_of(side.clip.file),
                side.clip.name,
                self.frame_size,
                self.rate,
                small,
            )
            for side in sides
        )
        return one, other

    @lru_cache(maxsize=4)  # noqa: B019  (a scene lives as long as its page's connection)
    def _stood(self, small: tuple[int, int] | None, framing: Framings) -> Pair:
        return self._framed(self.sides, small, framing)

    def _framed(
        self, sides: tuple[PlacedClip, PlacedClip], small: tuple[int, int] | None, framing: Framings
    ) -> Pair:
        outgoing, incoming = self._clips(sides, small)
        return (
            ReframedClip(outgoing, framing.outgoing, _KEPT_FRAMES),
            ReframedClip(incoming, framing.incoming, _KEPT_FRAMES),
        )

    def transition(self, request: PreviewRequest, *, small: bool) -> Transition:
        """What ``request`` asks for; missing spare frames are held."""
        size = self.thumb_size if small else self.frame_size
        clips = self._stood(
            self.thumb_size if small else None, request.framing or self.saved_framing
        )
        return self._between(clips, size, request.recipe, Window(request.before, request.after))

    def small_transition(self, recipe: Recipe, window: Window) -> Transition:
        """Any recipe on the strip's small pictures; missing spare frames are held."""
        clips = self._stood(self.thumb_size, self.saved_framing)
        return self._between(clips, self.thumb_size, recipe, window)

    def cut_frames(self) -> tuple[Codes, Codes]:
        """The two frames that meet at the cut, as they are decoded, at the preview's size."""
        outgoing, incoming = self._clips(self.sides, None)
        return (
            outgoing.frame(self.sides[0].out_frame - 1),
            incoming.frame(self.sides[1].in_frame),
        )

    def fetch_saved(self) -> None:
        """Read the pictures that the saved window shows, the cut's first, until the page has gone."""
        window = Window(self._saved.before, self._saved.after)
        shown = self.small_transition(self._saved.recipe, window)
        for offset in sorted(window.offsets, key=abs):
            if self.left:
                return
            with suppress(ShimmerError):
                shown.fetch(offset)

    def _between(
        self, clips: Pair, size: tuple[int, int], recipe: Recipe, window: Window
    ) -> Transition:
        return Transition(
            *clips,
            self.sides[0].out_frame,
            self.sides[1].in_frame,
            window,
            recipe,
            hold=True,
            rate=self.rate,
            matte_of=matte_of_clip(size),
        )


def _framings_of(sides: tuple[PlacedClip, PlacedClip]) -> Framings:
    outgoing, incoming = (placed_clips.framing_of(each) for each in sides)
    return Framings(outgoing=outgoing, incoming=incoming)


class Dropped(Exception):
    """A newer request has come: what was asked for is not wanted any more."""


class Work:
    """One request, and what of it is still to be made."""

    def __init__(self, scene: Scene, request: PreviewRequest) -> None:
        self.request = request
        self.large = scene.transition(request, small=False)
        self.small = scene.transition(request, small=True)
        self.frame_size = scene.frame_size
        self.edit_size, self.source_scale = scene.edit_size, scene.source_scale
        self._scene = scene
        self.dropped = False
        self.shown, self.sources = request.shown, request.sources
        self._made: set[Task] = set()
        self._thumbs: dict[int, Codes] = {}

    def next_tasks(self, most: int) -> list[Task]:
        """The most wanted pictures that are not made yet, in order."""
        missing = (task for task in self._wanted() if task not in self._made)
        return list(itertools.islice(missing, most))

    def fetch(self, task: Task) -> None:
        """Have the clips' pictures read that ``task`` will need; what fails is told by ``make``."""
        with suppress(ShimmerError):
            if task.kind != "source":
                (self.small if task.kind == "thumb" else self.large).fetch(task.offset)

    def _wanted(self) -> Iterator[Task]:
        request = self.request
        yield from (Task("source", k) for k in self.sources)
        yield Task("frame", self.shown)
        if not request.rest:
            return
        window = range(-request.before, request.after)
        yield from (Task("thumb", k) for k in sorted(window, key=lambda k: abs(k - self.shown)))
        first, end = -request.before - request.run_up, request.after + request.run_up
        start = min(max(self.shown, first), end - 1)
        yield from (Task("frame", k) for k in (*range(start, end), *range(first, start)))

    def make(self, task: Task) -> bytes:
        """The message with the picture of ``task``."""
        self._made.add(task)
        if task.kind == "source":
            clip, number = self._source_of(task.offset)
            return self._message(task, clip.frame(number), _FRAME_QUALITY)
        if task.kind == "thumb":
            picture = self.small.frame(task.offset)
            self._thumbs[task.offset] = picture
            return self._message(task, picture, _THUMB_QUALITY)
        return self._message(task, self.large.frame(task.offset), _FRAME_QUALITY)

    def _source_of(self, offset: int) -> tuple[Any, int]:
        if offset < 0:
            return self.large.outgoing, self.large.outgoing_out + offset
        return self.large.incoming, self.large.incoming_in + offset

    def _message(self, task: Task, picture: Codes, quality: int) -> bytes:
        head = json.dumps(
            {"id": self.request.id, "kind": task.kind, "offset": task.offset}
        ).encode()
        return len(head).to_bytes(4, "big") + head + jpeg(picture, quality)

    def strip_is_whole(self) -> bool:
        """Whether every picture of the strip is made."""
        return len(self._thumbs) == self.request.before + self.request.after

    def changes(self) -> list[float]:
        """How much each frame of the window differs from the one before, once the strip is whole.

        Mean absolute difference of code values, 0…1, on the strip's pictures.
        """
        window = range(-self.request.before, self.request.after)
        ahead = self.small.frame(window[0] - 1)
        pictures = [ahead, *(self._thumbs[k] for k in window)]
        return [
            round(float(np.mean(cv2.absdiff(one, other))) / 255, 5)
            for one, other in itertools.pairwise(pictures)
        ]

    def findings(self, *, on_frames: bool) -> dict[str, Any]:
        """What the cut checks find; those on rendered frames only where told so."""
        frames = self._frame_around if on_frames else None
        # A missing frame is held in the preview, and told by the check as it is.
        found = check_transition(self.large, self.edit_size, frames, source_scale=self.source_scale)
        told = [each.as_json() for each in found]
        pending = [] if on_frames else ids_on_frames()
        return {"id": self.request.id, "kind": "checks", "checks": told, "pending": pending}

    def _frame_around(self, offset: int) -> Codes | None:
        """A small frame of the edit around the cut, neighbouring transitions included."""
        if self.dropped:
            raise Dropped
        if offset in self._thumbs:
            return self._thumbs[offset]
        for neighbour in self._scene.neighbours:
            if offset - neighbour.distance in neighbour.transition.window:
                return frame_or_none(neighbour.transition, offset - neighbour.distance)
        return frame_or_none(self.small, offset)

    def facts(self) -> dict[str, Any]:
        """Curves, and which spare frames are missing with the span that would fit."""
        timeline = self.large.timeline(self.frame_size)
        return {
            "id": self.request.id,
            "kind": "curves",
            "curves": [asdict(curve) for curve in curves_of(timeline)],
            "shortages": [
                {"side": each.side, "missing": each.missing, "message": str(each)}
                for each in self.large.shortages()
            ],
            "span_that_fits": self.large.span_that_fits(),
            "spent": {
                side: round(spent(retime, self.large.window, outgoing=side == "outgoing"), 2)
                for side, retime in self.large.recipe.retime
            },
        }


class Preview:
    """One page's preview: keeps only its latest request."""

    def __init__(self, socket: WebSocket, scene: Scene) -> None:
        self._socket, self._scene = socket, scene
        self._work: Work | None = None
        self._wake = asyncio.Event()
        self._idle = scene.fetches()
        self._checking: asyncio.Task[None] | None = None

    async def receive(self, text: str) -> None:
        """Take in a message of the page."""
        try:
            document = json.loads(text)
            if "recipe" in document:
                work = Work(self._scene, PreviewRequest.model_validate_json(text))
                if self._work is not None:
                    self._work.dropped = True
                self._work = work
            else:
                self._focus(Focus.model_validate(document))
        except ValidationError as error:
            await self._refuse(text, problems_in(RecipeError(problems_of(error.errors()))))
        except (ValueError, TypeError):
            await self._refuse(text, [Problem(field=None, message="the request is no JSON object")])
        self._wake.set()

    def leave(self) -> None:
        """The page has gone: what is still being read or checked for it is dropped."""
        self._scene.left = True
        if self._work is not None:
            self._work.dropped = True

    def _focus(self, focus: Focus) -> None:
        if self._work is not None and self._work.request.id == focus.id:
            self._work.shown, self._work.sources = focus.shown, focus.sources

    async def _refuse(self, text: str, problems: list[Problem]) -> None:
        number = None
        with suppress(ValueError, TypeError, AttributeError):
            number = json.loads(text).get("id")
        told = [problem.model_dump() for problem in problems]
        await self._socket.send_json({"id": number, "kind": "problem", "problems": told})

    async def _is_quiet(self) -> bool:
        """Whether nothing new is asked for a moment."""
        self._wake.clear()
        with suppress(TimeoutError):
            await asyncio.wait_for(self._wake.wait(), _QUIET_S)
            return False
        return True

    async def _check(self, work: Work, before: "asyncio.Task[None] | None") -> None:
        """Tell what the checks on rendered frames find; newer requests need not wait for them."""
        if before is not None:
            await asyncio.wait({before})
        if work.dropped:
            return
        with suppress(Dropped, WebSocketDisconnect, RuntimeError):
            whole = await asyncio.to_thread(work.findings, on_frames=True)
            if work is self._work:
                await self._socket.send_json(whole)

    def _fetch_one(self) -> bool:
        """Read a picture that may be wanted later; False where there is none left."""
        fetch = next(self._idle, None)
        if fetch is not None:
            with suppress(ShimmerError):
                fetch()
        return fetch is not None

    async def serve(self) -> None:
        """Make and send pictures, always of the latest request, until cancelled."""
        told: Work | None = None
        checked: Work | None = None
        while True:
            work = self._work
            wanted = work.next_tasks(2) if work else []
            task = wanted[0] if wanted else None
            if work is not None and task is None and work.request.rest and checked is not work:
                # These checks take long: while values are dragged nobody waits for them.
                if not await self._is_quiet():
                    continue
                checked = work
                self._checking = asyncio.create_task(self._check(work, self._checking))
                continue
            if work is None or task is None:
                self._wake.clear()
                idle = work is not None and checked is work
                if not (idle and await asyncio.to_thread(self._fetch_one)):
                    await self._wake.wait()
                continue
            try:
                # Decoding is done by other processes: the next picture's may run meanwhile.
                for each in wanted[1:]:
                    _ahead.submit(work.fetch, each)
                message = await asyncio.to_thread(work.make, task)
                if work is self._work:
                    await self._socket.send_bytes(message)
                if told is not work:
                    told = work
                    await self._socket.send_json(await asyncio.to_thread(work.facts))
                if task.kind == "thumb" and work.strip_is_whole():
                    changes = await asyncio.to_thread(work.changes)
                    await self._socket.send_json(
                        {"id": work.request.id, "kind": "changes", "changes": changes}
                    )
                    # Only once the strip is whole: while values are dragged nothing waits for it.
                    await self._socket.send_json(
                        await asyncio.to_thread(work.findings, on_frames=False)
                    )
            except ShimmerError as error:
                told_problems = [problem.model_dump() for problem in problems_in(error)]
                await self._socket.send_json(
                    {"id": work.request.id, "kind": "problem", "problems": told_problems}
                )


@router.websocket("/api/cuts/{cut_id}/preview")
async def preview(socket: WebSocket, cut_id: uuid.UUID) -> None:
    """The live preview of a cut, until the page goes."""
    await socket.accept()
    try:
        scene = await asyncio.to_thread(Scene, cut_id)
    except ShimmerError as error:
        await socket.send_json(
            {
                "id": None,
                "kind": "problem",
                "problems": [each.model_dump() for each in problems_in(error)],
            }
        )
        await socket.close()
        return
    # It is most likely what the page is about to ask for.
    _ahead.submit(scene.fetch_saved)
    shown = Preview(socket, scene)
    maker = asyncio.create_task(shown.serve())
    try:
        while True:
            await shown.receive(await socket.receive_text())
    except WebSocketDisconnect:
        pass
    finally:
        shown.leave()
        maker.cancel()
        with suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError):
            await maker
