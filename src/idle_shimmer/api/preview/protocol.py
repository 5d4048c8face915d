"""The messages of the live preview.

The page sends ``PreviewRequest`` as JSON. Each has an id that grows with every change; the answers
carry it, so that the page recognises a stale one. Answers are JSON text of the kinds ``curves``,
``changes``, ``checks`` and ``problem``; pictures are binary messages: 4 bytes with the length of a
JSON head (big-endian), the head, then a JPEG.
"""

import json
import uuid
from dataclasses import dataclass
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from idle_shimmer.api.server.error_answers import Problem, problems_in
from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.recipe import Recipe, SideFrames
from idle_shimmer.edit.scene import Framings
from idle_shimmer.media.previews.jpeg import jpeg

Kind = Literal["frame", "thumb", "source", "sharp", "sharp_source"]
# As far as a number of the page is exact in JavaScript, and as far from the cut as a frame can lie.
RequestId = Annotated[int, Field(ge=0, le=2**53)]
Offset = Annotated[int, Field(ge=-20_000, le=20_000)]
# The area of the page that shows the picture, in its own pixels.
Area = tuple[Annotated[int, Field(ge=1, le=20_000)], Annotated[int, Field(ge=1, le=20_000)]]
SharpFrames = Annotated[int, Field(ge=0, le=10_000)]
_QUALITY: dict[Kind, int] = {
    "frame": 90,
    "thumb": 82,
    "source": 90,
    "sharp": 92,
    "sharp_source": 92,
}


class PreviewRequest(BaseModel):
    """A state of the bench to be shown; ``sources`` are frames whose original is requested as well.

    Once nothing changes for a moment the shown frame comes again, as large as ``area``. Where the
    page keeps more such pictures, ``sharp_frames``, so do as many of the loop, from the shown one outward.

    Without ``framing`` the clips have the framing that is saved. ``subjects`` are the mattes, outgoing and incoming,
    that the page knows of; without them those of the strokes as they were when the preview was opened.
    """

    model_config = ConfigDict(extra="forbid")

    id: RequestId
    before: SideFrames
    after: SideFrames
    recipe: Recipe
    shown: Offset
    run_up: Annotated[int, Field(ge=0, le=500)] = 0
    sources: Annotated[tuple[Offset, ...], Field(max_length=4)] = ()
    rest: bool = True
    area: Area | None = None
    sharp_frames: SharpFrames = 0
    framing: Framings | None = None
    subjects: tuple[uuid.UUID | None, uuid.UUID | None] | None = None


class Focus(BaseModel):
    """Another frame of the same state to show, and the originals to compare it with."""

    model_config = ConfigDict(extra="forbid")

    id: RequestId
    shown: Offset
    sources: Annotated[tuple[Offset, ...], Field(max_length=4)] = ()
    area: Area | None = None
    sharp_frames: SharpFrames = 0


@dataclass(frozen=True)
class Task:
    """One picture to make."""

    kind: Kind
    offset: int


def picture_message(request_id: int, task: Task, picture: Codes) -> bytes:
    """Return the message with a picture."""
    head = json.dumps({"id": request_id, "kind": task.kind, "offset": task.offset}).encode()
    return len(head).to_bytes(4, "big") + head + jpeg(picture, _QUALITY[task.kind])


def problem_message(
    request_id: int | None, problems: list[Problem] | ShimmerError
) -> dict[str, Any]:
    """Return the message that says what went wrong."""
    listed = problems_in(problems) if isinstance(problems, ShimmerError) else problems
    found = [problem.model_dump() for problem in listed]
    return {"id": request_id, "kind": "problem", "problems": found}
