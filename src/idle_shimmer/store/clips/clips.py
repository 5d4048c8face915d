"""Clips: the files of the media folder, named by their content, and their facts."""

import hashlib
import re
import uuid
from collections.abc import Callable
from fractions import Fraction
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Select, select, text
from sqlalchemy.orm import Session

from idle_shimmer.core.animation.timing import rate_text
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.sound.accent import require_accent_length
from idle_shimmer.core.sound.samples import SAMPLES_PER_SECOND, Sound
from idle_shimmer.files.file_store import file_store
from idle_shimmer.limits import MAX_NAME_LENGTH
from idle_shimmer.media.decode.client import (
    RemoteReader,
    probe_facts,
    probe_sound,
    remote_sound_parts,
)
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.read.wipe_pictures import read_matte
from idle_shimmer.settings import settings
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.errors import NotFound
from idle_shimmer.store.tables import Clip

_BLOCK_BYTES = 1 << 20
_ENDING = re.compile(r"\.[a-z0-9]{1,8}")
# Two imports of the same content wait for each other; the lock ends with the transaction.
_LOCK = text("SELECT pg_advisory_xact_lock(hashtextextended(:name, 0))")


def register_clip(session: Session, file: Path, name: str) -> Clip:
    """Move ``file`` into the media folder, keep it, and return its clip, or the one of the same content.

    ``name`` is that of the user's file. Raises MediaError where it is no video, picture or sound; the file
    then stays where it is.
    """
    facts = _facts_of(file)
    mark = _sha256(file)
    session.execute(_LOCK, {"name": f"clip {mark}"})
    known = session.scalar(select(Clip).where(Clip.sha256 == mark))
    if known is not None and file_store().has(path_of(known.file)):
        file.unlink()
        return known
    place = Path(mark[:2]) / f"{mark}{_ending(name)}"
    target = settings().media / place
    target.parent.mkdir(parents=True, exist_ok=True)
    if target.is_file() and target.stat().st_size == file.stat().st_size:
        # The same content lies there already; processes that read it keep their file.
        file.unlink()
    else:
        file.replace(target)
    file_store().keep(target)
    if known is not None:
        # Its file was lost: this one takes its place.
        known.file = str(place)
        return known
    clip = Clip(name=Path(name).stem[:MAX_NAME_LENGTH], file=str(place), sha256=mark, **facts)
    session.add(clip)
    session.flush()
    return clip


def _facts_of(file: Path) -> dict[str, Any]:
    """Return the columns of a clip that its file decides."""
    try:
        facts = probe_facts(file)
    except MediaError as error:
        try:
            length_s = probe_sound(file)
        except MediaError:
            raise error from None
        return {
            "width": 0,
            "height": 0,
            "rate": "1",
            "frame_count": 0,
            "duration_s": float(length_s),
            "has_sound": True,
            "still": False,
            "constant_rate": True,
            "start_frame": 0,
            "notes": [],
        }
    names = (
        *("width", "height", "frame_count", "has_sound", "still", "constant_rate", "start_frame"),
        "interlaced",
    )
    return {
        **{name: getattr(facts, name) for name in names},
        "rate": rate_text(facts.rate),
        "duration_s": float(facts.duration),
        "notes": list(facts.notes),
    }


def _ending(name: str) -> str:
    """Return the ending of a file name, where it is an ordinary one: formats are recognised by content."""
    ending = Path(name).suffix.lower()
    return ending if _ENDING.fullmatch(ending) else ""


def _sha256(file: Path) -> str:
    mark = hashlib.sha256()
    with file.open("rb") as opened:
        while block := opened.read(_BLOCK_BYTES):
            mark.update(block)
    return mark.hexdigest()


def path_of(file: str) -> Path:
    """Return the path of a clip's ``file``; it may have to be brought: see ``media.local_copies``."""
    return settings().media / file


def matte_of_clip(size: tuple[int, int]) -> Callable[[str], NDArray[np.float32]]:
    """Return a reader of the mattes of wipes by the id of an imported clip, filling ``size`` (W, H)."""

    @lru_cache(maxsize=4)
    def matte(clip_id: str) -> NDArray[np.float32]:
        try:
            number = uuid.UUID(clip_id)
            with session_scope() as session:
                file = clip_by_id(session, number).file
        except (ValueError, NotFound):
            raise InvalidValue(
                f"there is no clip '{clip_id}': choose an imported picture", field="mix.matte.image"
            ) from None
        return _matte_picture(path_of(file), size)

    return matte


def sound_of_clip(clip_id: str) -> Sound:
    """Return the sound of an imported clip by its id, for accents.

    Raises InvalidValue where there is no such clip, or it has no sound or too much.
    """
    try:
        number = uuid.UUID(clip_id)
        with session_scope() as session:
            clip = clip_by_id(session, number)
            file, has_sound, duration_s = clip.file, clip.has_sound, clip.duration_s
    except (ValueError, NotFound):
        raise InvalidValue(
            f"there is no clip '{clip_id}': choose an imported sound", field="accent.sound"
        ) from None
    if not has_sound:
        raise InvalidValue(f"{clip.name} has no sound: choose another clip", field="accent.sound")
    require_accent_length(clip.name, duration_s)
    return _whole_sound(path_of(file), duration_s)


@lru_cache(maxsize=8)
def _whole_sound(path: Path, duration_s: float) -> Sound:
    length = Fraction(duration_s).limit_denominator(SAMPLES_PER_SECOND)
    parts = list(remote_sound_parts(path, Fraction(0), length))
    return np.concatenate([np.zeros((0, 2), np.float32), *parts])


# Files are named by their content, which never changes.
@lru_cache(maxsize=8)
def _matte_picture(path: Path, size: tuple[int, int]) -> NDArray[np.float32]:
    return read_matte(path, size, RemoteReader)


def all_clips(session: Session) -> list[Clip]:
    """Return every clip, newest first."""
    return list(session.scalars(_newest()))


def listed_clips(
    session: Session,
    limit: int,
    offset: int = 0,
    *,
    still: bool | None = None,
    sound: bool = False,
) -> list[Clip]:
    """Return ``limit`` clips after the first ``offset``, newest first; only stills, or only videos.

    Those with pictures, or with ``sound`` those of sound alone.
    """
    wanted = _newest().where(Clip.width == 0 if sound else Clip.width > 0)
    if still is not None:
        wanted = wanted.where(Clip.still.is_(still))
    return list(session.scalars(wanted.limit(limit).offset(offset)))


def _newest() -> Select[Clip]:
    return select(Clip).order_by(Clip.created_at.desc(), Clip.name, Clip.id)


def clip_by_text(session: Session, clip_id: str) -> Clip | None:
    """Return the clip whose id is written so; None where there is none."""
    try:
        return session.get(Clip, uuid.UUID(clip_id))
    except ValueError:
        return None


def clip_by_id(session: Session, clip_id: uuid.UUID) -> Clip:
    """Return the clip. Raises NotFound."""
    clip = session.get(Clip, clip_id)
    if clip is None:
        raise NotFound("there is no such clip: it may have been deleted", field="clip")
    return clip
