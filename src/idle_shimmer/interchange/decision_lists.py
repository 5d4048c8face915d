"""Edits as CMX 3600 edit decision lists: cuts, dissolves, and wipes by their SMPTE codes.

OpenTimelineIO's adapter reads and writes the events. What it leaves out is done here: the frame
code mode of the head, and wipe codes, which it reads but writes as dissolves.
Source: CMX 3600 as the adapter documents it; drop-frame counting is SMPTE ST 12-1.
"""

import re
from collections.abc import Iterator
from dataclasses import replace
from fractions import Fraction
from typing import Any

import opentimelineio as otio

from idle_shimmer.core.animation.timing import drops_frames
from idle_shimmer.core.errors import InvalidValue
from idle_shimmer.core.mixes.wipe_shapes.base import shapes
from idle_shimmer.core.recipe import Recipe
from idle_shimmer.interchange.list_rates import mismatched_events
from idle_shimmer.interchange.timelines import DISSOLVE, EditDocument, from_timeline, to_timeline

_TRANSITION_EVENT = re.compile(r"^(\d{3}  \S+ +V +)D( \d{3} )", re.MULTILINE)
_WIPE_CODE = re.compile(r"W(\d{3})")
_MOST_CODE = 999
_NAMED = 8
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


def read_edl(text: str, name: str, rate: Fraction) -> EditDocument:
    """Return the edit in the text of a list at ``rate``; drop-frame where the list says so.

    Raises InvalidValue where the text is not a list.
    """
    try:
        timeline = otio.adapters.read_from_string(
            text, "cmx_3600", rate=float(rate), ignore_timecode_mismatch=True
        )
    except Exception as error:
        raise InvalidValue(
            f"{name} cannot be read at {float(rate):g} fps: {error}", field="file"
        ) from error
    document = from_timeline(timeline, mix_of=_mix_of)
    return replace(document, notes=[*document.notes, *_mismatch_notes(text, rate)])


def _mismatch_notes(text: str, rate: Fraction) -> list[str]:
    """Return what does not add up at ``rate``: an event is then as long as its source."""
    numbers = mismatched_events(text, rate)
    if not numbers:
        return []
    more = len(numbers) - _NAMED
    listed = _listed(numbers[:_NAMED]) + (f" and {more} more" if more > 0 else "")
    sentence = (
        f"Source and record of events {listed} are not equally long at {float(rate):g} fps: the length"
        " of the source is used."
    )
    return [sentence]


def _mix_of(transition: Any) -> dict[str, Any]:
    """Return the mix of an event's transition, without its span."""
    name = transition.metadata.get("cmx_3600", {}).get("transition", "")
    wipe = _WIPE_CODE.match(str(name))
    if wipe is None:
        return {"kind": "dissolve"}
    code = int(wipe[1])
    shape = next((each for each in shapes().values() if each.code == code), None)
    if shape is None:
        return {"kind": "wipe"}
    return {"kind": "wipe", "matte": {"type": shape.type, "subtype": shape.subtype}}
