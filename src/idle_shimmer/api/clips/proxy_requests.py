"""Proxies for previews: used where they are made, and asked for where a clip turns out to be slow."""

from pathlib import Path

from sqlalchemy import select

from idle_shimmer.files.clip_proxies import proxy_of
from idle_shimmer.jobs.defer import defer_proxy
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import Clip


class Proxies:
    """The proxies of clips, as one server process knows of them. Safe for several threads."""

    def __init__(self) -> None:
        self._asked_for: set[Path] = set()

    def __call__(self, clip: Path) -> Path | None:
        """Return the proxy of a clip's file; where there is none, queue its making, once."""
        found = proxy_of(clip)
        if found is None and clip not in self._asked_for:
            self._asked_for.add(clip)
            with session_scope() as session:
                known = session.scalar(select(Clip.id).where(Clip.sha256 == clip.stem))
                if known is not None:
                    defer_proxy(session, str(known))
        return found
