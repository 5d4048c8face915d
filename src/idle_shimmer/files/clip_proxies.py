"""The proxies of clips: small copies for the preview, made by jobs; a clip whose pictures are quick has none."""

from pathlib import Path

from idle_shimmer.files.file_store import file_store
from idle_shimmer.media.previews.proxy_video import SUFFIX
from idle_shimmer.settings import settings

# Grows when the same clip gives another proxy.
_MAKING = 2


def path_of_proxy(sha256: str) -> Path:
    """Return the path of the proxy of a clip of that content."""
    return settings().proxies / f"{sha256}.{_MAKING}{SUFFIX}"


def proxy_of(clip: Path) -> Path | None:
    """Return the path of the proxy of a clip's file; None where there is none, or none yet."""
    found = path_of_proxy(clip.stem)
    return found if file_store().has(found) else None
