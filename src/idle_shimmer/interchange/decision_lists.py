"""Edits written as CMX 3600 edit decision lists: cuts, dissolves, and wipes by their SMPTE codes.

OpenTimelineIO's adapter writes the events. What it leaves out is done here: the frame
code mode of the head, and wipe codes, which it writes as dissolves.
Source: CMX 3600 as the adapter documents it; drop-frame counting is SMPTE ST 12-1.
"""

import re
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from idle_shimmer.core.animation.timing import drops_frames
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.mixes.wipe_shapes.base import shapes
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.interchange.schema import DISSOLVE
from idle_shimmer.interchange.timelines import EditDocument, to_timeline

_TRANSITION_EVENT = re.compile(r"^(\d{3}  \S+ +V +)D( \d{3} )", re.MULTILINE)
_MOST_CODE = 999
_NOT_IN_REELS = re.compile(r"[^A-Za-z0-9]")
_REEL_LENGTH = 8
# Names that mean something else in a list.
_RESERVED_REELS = ("BL", "BLACK", "BARS", "AX")


def edl_text(edit: EditDocument, *, drop_frame: bool = False) -> str:
    """Return the edit as a CMX 3600 list; see ``edl_losses``.

    ``drop_frame`` writes drop-frame timecode; raises InvalidValue at a rate that has none.
    """
    if drop_frame and not drops_frames(edit.rate):
        raise InvalidValue(
            f"{edit.rate} fps has no drop-frame timecode: use non-drop",
            field="drop_frame",
        )
    # Non-drop timecode counts at the next whole rate.
    rate = edit.rate if drop_frame else Fraction(round(edit.rate))
    timeline = to_timeline(edit, counted_at=rate)
    track = timeline.tracks[0]
    for clip in track.find_clips():
        clip.name = clip.name.rsplit(".", 1)[0]
    codes = list(_transition_codes(track, edit))
    text = timeline_as_edl(timeline, rate, drop_frame=drop_frame)
    remaining = iter(codes)
    return _TRANSITION_EVENT.sub(lambda event: f"{event[1]}{next(remaining)}{event[2]}", text)


def timeline_as_edl(timeline: Any, rate: Fraction, *, drop_frame: bool) -> str:
    """Return an OpenTimelineIO timeline with one video track as a list whose head says how it counts."""
    rate = rate if drop_frame else Fraction(round(rate))
    _name_reels(timeline)
    text = str(otio.adapters.write_to_string(timeline, "cmx_3600", rate=float(rate)))
    mode = "FCM: DROP FRAME" if drop_frame else "FCM: NON-DROP FRAME"
    title, _, events = text.partition("\n")
    return f"{title}\n{mode}\n{events}"


def _name_reels(timeline: Any) -> None:
    """Give each media file a reel name: up to 8 letters and digits, as the format has them, none twice."""
    reels: dict[str, str] = {}
    for clip in timeline.find_clips():
        url = getattr(clip.media_reference, "target_url", "") or clip.name
        if url not in reels:
            name = url.rsplit("/", 1)[-1].rsplit(".", 1)[0]
            plain = _NOT_IN_REELS.sub("", name).upper() or "REEL"
            taken, number = set(reels.values()), 2
            reels[url] = plain[:_REEL_LENGTH]
            while reels[url] in taken or reels[url] in _RESERVED_REELS:
                tail = str(number)
                reels[url] = plain[: _REEL_LENGTH - len(tail)] + tail
                number += 1
        clip.metadata.setdefault("cmx_3600", {})["reel"] = reels[url]


def _transition_codes(track: Any, edit: EditDocument) -> Iterator[str]:
    """Return the code of each transition that the list can carry; remove the others from ``track``."""
    place = -1
    for item in list(track):
        if isinstance(item, otio.schema.Clip):
            place += 1
            continue
        code = _code(edit.joins[place].recipe)
        if code is None:
            track.remove(item)
            continue
        item.transition_type = DISSOLVE
        yield code


def _code(recipe: Recipe) -> str | None:
    """Return ``D`` for a dissolve, ``W`` and the SMPTE code for a wipe that has one, else None."""
    mix = recipe.mix
    if mix.kind == "dissolve":
        return "D"
    matte = getattr(mix, "matte", None)
    found = shapes().get((getattr(matte, "type", ""), getattr(matte, "subtype", "")))
    if found is None or not 0 < found.code <= _MOST_CODE:
        return None
    return f"W{found.code:03}"


def edl_losses(edit: EditDocument) -> list[str]:
    """Return what a CMX 3600 list cannot carry of this edit, in sentences."""
    losses = []
    recipes = [(n + 1, each.recipe) for n, each in enumerate(edit.joins)]
    filtered = [n for n, recipe in recipes if recipe.filters]
    hard = [n for n, recipe in recipes if recipe.mix.kind != "cut" and _code(recipe) is None]
    wiped = [n for n, recipe in recipes if (_code(recipe) or "").startswith("W")]
    if filtered:
        losses.append(f"The filters of cuts {_listed(filtered)} are left out.")
    if hard:
        losses.append(f"The mixes of cuts {_listed(hard)} become hard cuts.")
    if wiped:
        losses.append(
            f"The wipes of cuts {_listed(wiped)} keep their shape's code, not their softness."
        )
    losses.append("Frame size and spare frames are not part of the format.")
    return losses


def _listed(numbers: list[int]) -> str:
    return ", ".join(map(str, numbers))
