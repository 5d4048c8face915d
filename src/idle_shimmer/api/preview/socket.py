"""The WebSocket of the live preview."""

import asyncio
import json
import uuid
from contextlib import suppress
from typing import Any

import structlog
from fastapi import APIRouter, WebSocket, WebSocketDisconnect
from pydantic import ValidationError

from idle_shimmer.api.preview.protocol import Focus, PreviewRequest, problem_message
from idle_shimmer.api.preview.scheduler import Scheduler, fetch_ahead
from idle_shimmer.api.preview.slots import PreviewLoad, in_thread
from idle_shimmer.api.server.error_answers import Problem, problems_in
from idle_shimmer.core.errors import RecipeError, ShimmerError
from idle_shimmer.core.recipe import problems_of
from idle_shimmer.edit.scene import Scene
from idle_shimmer.limits import limits
from idle_shimmer.store.errors import NotFound

router = APIRouter()
_log = structlog.get_logger(__name__)
# Close codes: the cut is not there, so asking again is of no use; too many previews are open; a fault
# of the program (RFC 6455 section 7.4.1).
GONE, TOO_MANY, FAULT = 4404, 4429, 1011


@router.websocket("/api/cuts/{cut_id}/preview")
async def preview(socket: WebSocket, cut_id: uuid.UUID) -> None:
    """Serve the live preview of a cut, until the page goes."""
    await socket.accept()
    load: PreviewLoad = socket.app.state.preview_load
    client = socket.client.host if socket.client else ""
    if (reason := load.enter(client)) is not None:
        await _close(socket, reason, TOO_MANY)
        return
    try:
        await _serve(socket, cut_id, load)
    finally:
        load.leave(client)


async def _serve(socket: WebSocket, cut_id: uuid.UUID, load: PreviewLoad) -> None:
    try:
        scene = await in_thread(Scene, cut_id)
    except ShimmerError as error:
        await _close(socket, error, GONE if isinstance(error, NotFound) else FAULT)
        return
    except Exception:  # noqa: BLE001  (logged; the page shows it)
        _log.exception("a preview cannot be opened", cut=str(cut_id))
        await _close(socket, "the server cannot show this cut: try again in a moment", FAULT)
        return
    # It is most likely what the page is about to ask for.
    fetch_ahead(scene.fetch_saved)
    scheduler = Scheduler(socket, scene, load)
    maker = asyncio.create_task(scheduler.run())
    receiver = asyncio.create_task(_receive_all(socket, scheduler))
    try:
        # Whichever ends first ends the other: a page is never left with a socket that is silent.
        await asyncio.wait({maker, receiver}, return_when=asyncio.FIRST_COMPLETED)
    finally:
        scheduler.leave()
        for task in (maker, receiver):
            task.cancel()
        await asyncio.wait({maker, receiver})
    fault = _fault_of(maker) or _fault_of(receiver)
    if fault is not None:
        _log.error("a preview ended", cut=str(cut_id), exc_info=fault)
        await _close(socket, "the preview stopped because of an error in the program", FAULT)


def _fault_of(task: asyncio.Task[None]) -> BaseException | None:
    """Return what ended a task, where that was not that the page has gone."""
    if task.cancelled():
        return None
    error = task.exception()
    return None if isinstance(error, WebSocketDisconnect | RuntimeError) else error


async def _close(socket: WebSocket, reason: str | ShimmerError, code: int) -> None:
    problems = reason if isinstance(reason, ShimmerError) else _problem(reason)
    with suppress(WebSocketDisconnect, RuntimeError):
        await socket.send_json(problem_message(None, problems))
        await socket.close(code)


async def _receive_all(socket: WebSocket, scheduler: Scheduler) -> None:
    while True:
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            return
        await _take_in(socket, scheduler, message.get("text"))


async def _take_in(socket: WebSocket, scheduler: Scheduler, text: str | None) -> None:
    """Take in a message of the page, and answer one that is wrong."""
    document = _object_in(text)
    try:
        if document is None:
            problems = _problem("the request is not a JSON object")
        elif "recipe" in document:
            scheduler.request(PreviewRequest.model_validate(document))
            return
        else:
            scheduler.focus(Focus.model_validate(document))
            return
    except ValidationError as error:
        problems = problems_in(RecipeError(problems_of(error.errors())))
    number = document.get("id") if document is not None else None
    await socket.send_json(problem_message(number if isinstance(number, int) else None, problems))


def _object_in(text: str | None) -> dict[str, Any] | None:
    """Return the JSON object in a message, or None where there is none."""
    if text is None or len(text) > limits().max_preview_message_bytes:
        return None
    try:
        document = json.loads(text)
    except (ValueError, RecursionError):
        return None
    return document if isinstance(document, dict) else None


def _problem(message: str) -> list[Problem]:
    return [Problem(field=None, message=message)]
