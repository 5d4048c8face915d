"""The application: every resource, the preview, and the built pages."""

import math
import os
from collections.abc import Sequence
from contextlib import suppress
from ipaddress import ip_address
from pathlib import Path
from typing import Any

import uvicorn
from fastapi import FastAPI
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles

import idle_shimmer
from idle_shimmer.api.clips import clip_routes as clips
from idle_shimmer.api.clips import storage_routes as storage
from idle_shimmer.api.clips.proxy_requests import Proxies
from idle_shimmer.api.cuts import cut_routes as cuts
from idle_shimmer.api.cuts import matching_routes as matching
from idle_shimmer.api.cuts import sound_routes as sound
from idle_shimmer.api.cuts import subject_routes as subject
from idle_shimmer.api.cuts import variant_routes as variants
from idle_shimmer.api.edits import accent_routes as accents
from idle_shimmer.api.edits import adjust_routes as edit_adjust
from idle_shimmer.api.edits import beat_routes as edit_beats
from idle_shimmer.api.edits import detection_routes as cut_detections
from idle_shimmer.api.edits import edit_cut_routes as edit_cuts
from idle_shimmer.api.edits import edit_history_routes as edit_steps
from idle_shimmer.api.edits import edit_routes as edits
from idle_shimmer.api.edits import interchange_routes as interchange
from idle_shimmer.api.edits import music_routes as music
from idle_shimmer.api.edits import placed_clip_routes as edit_clips
from idle_shimmer.api.preview import film_routes as film
from idle_shimmer.api.preview import socket
from idle_shimmer.api.preview.slots import PreviewLoad
from idle_shimmer.api.recipes import catalogue_routes as catalogue
from idle_shimmer.api.recipes import curve_routes as curves
from idle_shimmer.api.recipes import fit_routes as fit
from idle_shimmer.api.recipes import preset_routes as presets
from idle_shimmer.api.recipes import recipe_routes as recipes
from idle_shimmer.api.renders import activity_routes as activity
from idle_shimmer.api.renders import render_routes as renders
from idle_shimmer.api.server import description, faults
from idle_shimmer.api.server import error_answers as errors
from idle_shimmer.api.server import health_routes as health
from idle_shimmer.api.server import session_routes as session
from idle_shimmer.api.server.error_answers import refusal
from idle_shimmer.api.server.protection import LOOPBACK_HOSTS, Protection, page_policy
from idle_shimmer.api.server.request_log import RequestLog
from idle_shimmer.api.server.sign_in import Gate, SignInRequired
from idle_shimmer.core.compute.allocator import keep_freed_memory
from idle_shimmer.core.compute.collector import resume_collection
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.frame.warm_up import warm_up
from idle_shimmer.files.store_mark import StoreUnreachable
from idle_shimmer.limits import limits
from idle_shimmer.logs import configure_logs
from idle_shimmer.media.decode.forked import prepare
from idle_shimmer.media.previews.picture_cache import picture_cache
from idle_shimmer.settings import settings
from idle_shimmer.store.accounts.accounts import accounts_exist
from idle_shimmer.store.database import session_scope, wait_for_database
from idle_shimmer.store.installation import guard_store
from idle_shimmer.store.sweeping import sweep

LOOPBACK = "127.0.0.1"
_HOSTS, _PROCESSES = "IDLE_SHIMMER_SERVED_HOSTS", "IDLE_SHIMMER_SERVER_PROCESSES"
# A process that does not answer for so long is replaced.
_PATIENCE_S = 60

_RESOURCES: tuple[Any, ...] = (
    activity,
    health,
    session,
    catalogue,
    clips,
    accents,
    cut_detections,
    interchange,
    edits,
    edit_clips,
    edit_adjust,
    edit_beats,
    edit_cuts,
    edit_steps,
    film,
    curves,
    cuts,
    variants,
    fit,
    matching,
    music,
    sound,
    storage,
    subject,
    presets,
    recipes,
    renders,
    socket,
)


def create_app(
    pages: Path | None = None,
    hosts: Sequence[str] = LOOPBACK_HOSTS,
    slots: int | None = None,
    *,
    is_public: bool = False,
) -> FastAPI:
    """The application; ``pages`` is the folder of the built front end.

    ``hosts`` are the names under which it may be addressed; ``slots`` pictures of previews are computed at
    once, by default as many as there are processors. ``is_public`` is True for a server that listens beyond
    this machine: without accounts it answers nothing.
    """
    app = FastAPI(
        title="Idle Shimmer",
        version=idle_shimmer.__version__,
        docs_url=None,
        redoc_url=None,
        responses=errors.REFUSALS,
    )
    guard_store()
    app.state.preview_load = PreviewLoad(slots)
    errors.install(app)
    faults.install(app)
    app.state.gate = Gate(is_public=is_public)
    picture_cache().proxy_of = Proxies()
    # The last that is added is the first to see a request.
    app.add_middleware(SignInRequired, gate=app.state.gate)
    app.add_middleware(RequestLog)
    app.add_middleware(Protection, hosts=hosts)
    for resource in _RESOURCES:
        app.include_router(resource.router)

    description.describe(app)

    if pages is not None:
        _serve_pages(app, pages)
    return app


def _serve_pages(app: FastAPI, pages: Path) -> None:
    index = pages / "index.html"
    headers = {
        "Cache-Control": "no-cache",
        "Content-Security-Policy": page_policy(index.read_text(encoding="utf-8")),
    }
    app.mount("/_app", StaticFiles(directory=pages / "_app"), name="app")

    @app.get("/{path:path}", include_in_schema=False, response_model=None)
    def page(path: str) -> FileResponse | JSONResponse:
        """Return the single page, for every address that is not the API's."""
        if path.startswith("api/"):
            return refusal(404, "there is nothing at this address")
        if (file := _file_below(pages, path)) is not None:
            return FileResponse(file)
        return FileResponse(index, headers=headers)


def _file_below(folder: Path, path: str) -> Path | None:
    """Return the file at a path below ``folder``, where there is one."""
    try:
        file = (folder / path).resolve()
        inside = bool(path) and file.is_relative_to(folder.resolve()) and file.is_file()
    except (OSError, ValueError):
        # A name that no file system takes.
        return None
    return file if inside else None


def serve(port: int, host: str = LOOPBACK, names: Sequence[str] = (), workers: int = 1) -> None:
    """Serve until stopped; by default on this machine only.

    ``host`` is the address to listen at, ``names`` the host names to answer to besides those of
    loopback, ``workers`` the number of processes. Beyond loopback there must be an account: raises
    InvalidValue.
    """
    pages = settings().idle_shimmer_web.resolve()
    if not (pages / "index.html").is_file():
        raise FileNotFoundError(2, "the pages are not built: run ./start", str(pages))
    wait_for_database()
    # Each process makes its own application: it finds what it needs in the environment.
    os.environ[_HOSTS] = " ".join(_hosts(host, names))
    os.environ[_PROCESSES] = str(workers)
    guard_store()
    with suppress(StoreUnreachable), session_scope() as database:
        sweep(database)
    if workers > 1 and settings().idle_shimmer_warm_up:
        # Compiled once, before every process loads it.
        warm_up()
    uvicorn.run(
        "idle_shimmer.api.app:served_app",
        factory=True,
        host=host,
        port=port,
        workers=workers,
        timeout_worker_healthcheck=_PATIENCE_S,
        log_config=None,
        access_log=False,
        server_header=False,
        # Whose word on the visitor's address and scheme is taken.
        forwarded_allow_ips=settings().idle_shimmer_proxies,
        ws_max_size=limits().max_preview_message_bytes,
        # What is large here are JPEGs, which do not become smaller.
        ws_per_message_deflate=False,
    )


def served_app() -> FastAPI:
    """Return the application of one server process."""
    configure_logs()
    keep_freed_memory()
    prepare()
    if settings().idle_shimmer_warm_up:
        warm_up()
    slots = math.ceil((os.cpu_count() or 1) / int(os.environ[_PROCESSES]))

    hosts = os.environ[_HOSTS].split(" ")
    is_public = hosts != list(LOOPBACK_HOSTS)
    app = create_app(settings().idle_shimmer_web.resolve(), hosts, slots, is_public=is_public)
    resume_collection()
    return app


def _hosts(host: str, names: Sequence[str]) -> list[str]:
    """Return the host names to answer to. Raises InvalidValue where strangers could come in."""
    try:
        address = ip_address(LOOPBACK if host == "localhost" else host)
    except ValueError:
        raise InvalidValue(
            f"{host} is not an address to listen at: give one such as 0.0.0.0", field="--host"
        ) from None
    is_loopback = address.is_loopback
    if is_loopback and not names:
        return list(LOOPBACK_HOSTS)
    with session_scope() as database:
        if not accounts_exist(database):
            raise InvalidValue(
                "whoever reaches this machine could change every edit: add an account first with"
                " idle-shimmer user add NAME",
                field="--host",
            )
    if address.is_unspecified and not names:
        raise InvalidValue(
            "give the name under which browsers address this server, such as --name edit.example",
            field="--name",
        )
    return [*LOOPBACK_HOSTS, f"[{host}]" if ":" in host else host, *names]
