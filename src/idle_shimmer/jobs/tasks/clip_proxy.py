"""Makes the small copy of a clip whose pictures are slow to decode."""

import uuid
from pathlib import Path

import procrastinate
import structlog

from idle_shimmer.core.errors import ShimmerError
from idle_shimmer.files.clip_proxies import path_of_proxy
from idle_shimmer.files.file_store import file_store
from idle_shimmer.files.store_mark import StoreUnreachable
from idle_shimmer.jobs.blueprint import AGAIN, Interrupted, tasks
from idle_shimmer.jobs.patience import patiently
from idle_shimmer.media.previews.picture_cache import PREVIEW_BOX, fitted
from idle_shimmer.media.previews.proxy_video import write_proxy
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import Clip

_log = structlog.get_logger(__name__)


@tasks.task(name="make_proxy", pass_context=True, retry=AGAIN)
def make_proxy(context: procrastinate.JobContext, proxy_of: str) -> None:
    """Make the small copy of a clip whose pictures are slow to decode; nothing waits for it."""
    found = patiently(lambda: _clip_files(uuid.UUID(proxy_of)))
    if found is None or file_store().has(found[1]):
        return
    clip, out = found
    out.parent.mkdir(parents=True, exist_ok=True)

    def go_on(_: int) -> None:
        if context.should_abort():
            raise Interrupted

    try:
        if write_proxy(clip, out, lambda size: fitted(size, PREVIEW_BOX), go_on):
            file_store().keep(out)
    except StoreUnreachable:
        raise
    except (ShimmerError, OSError) as error:
        _log.warning("no proxy was made", clip=proxy_of, reason=str(error))


def _clip_files(clip_id: uuid.UUID) -> tuple[Path, Path] | None:
    """Return the file of a clip and that of its proxy; None for one that was deleted."""
    with session_scope() as session:
        clip = session.get(Clip, clip_id)
        return None if clip is None else (path_of(clip.file), path_of_proxy(clip.sha256))
