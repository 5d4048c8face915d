"""The WebSocket of the live preview."""

import asyncio
import json
import uuid
from contextlib import suppress

from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from idle_shimmer.api.errors import Problem, problems_in
from idle_shimmer.api.preview.protocol import Focus, PreviewRequest, problem_message
from idle_shimmer.api.preview.scene import Scene
from idle_shimmer.api.preview.scheduler import Scheduler, fetch_ahead
from idle_shimmer.core.errors import RecipeError, ShimmerError
from idle_shimmer.core.recipe import problems_of
from idle_shimmer.store.errors import NotFound

router = APIRouter()
# The close code that says that the cut is not there: asking again is of no use.
GONE = 4404


@router.websocket("/api/cuts/{cut_id}/preview")
async def preview(socket: WebSocket, cut_id: uuid.UUID) -> None:
    """Serve the live preview of a cut, until the page goes."""
    await socket.accept()
    try:
        scene = await asyncio.to_thread(Scene, cut_id)
    except ShimmerError as error:
        await socket.send_json(problem_message(None, error))
        await socket.close(GONE if isinstance(error, NotFound) else 1011)
        return
    # It is most likely what the page is about to ask for.
    fetch_ahead(scene.fetch_saved)
    scheduler = Scheduler(socket, scene)
    maker = asyncio.create_task(scheduler.run())
    try:
        while True:
            await _receive(socket, scheduler, await socket.receive_text())
    except WebSocketDisconnect:
        pass
    finally:
        scheduler.leave()
        maker.cancel()
        with suppress(asyncio.CancelledError, WebSocketDisconnect, RuntimeError):
            await maker


async def _receive(socket: WebSocket, scheduler: Scheduler, text: str) -> None:
    """Take in a message of the page, and answer one that is wrong."""
    try:
        document = json.loads(text)
        if "recipe" in document:
            scheduler.request(PreviewRequest.model_validate_json(text))
        else:
            scheduler.focus(Focus.model_validate(document))
    except ValidationError as error:
        problems = problems_in(RecipeError(problems_of(error.errors())))
        await socket.send_json(problem_message(_id_in(text), problems))
    except (ValueError, TypeError):
        problem = Problem(field=None, message="the request is not a JSON object")
        await socket.send_json(problem_message(_id_in(text), [problem]))
    scheduler.wake()


def _id_in(text: str) -> int | None:
    with suppress(ValueError, TypeError, AttributeError):
        found = json.loads(text).get("id")
        return found if isinstance(found, int) else None
    return None
