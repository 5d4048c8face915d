"""Draws docs/filters.jpg and docs/recipes.jpg: every filter at three strengths, every recipe's frames.

On the demo clips, by the same core as renders. Run it with ``scripts/contact_sheets``.
"""

import json
from collections.abc import Iterator, Mapping
from dataclasses import replace
from typing import Any

import cv2
import numpy as np

from idle_shimmer.book.entries import book
from idle_shimmer.core.animation.retime import ClipSide
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.filters.base import registered
from idle_shimmer.core.frame.needs import missing_subjects
from idle_shimmer.core.frame.warm_up import usual_values
from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.recipe import Recipe, recipe_from_json
from idle_shimmer.core.subject.strokes import strokes_from_json
from idle_shimmer.demo.build import build_clips
from idle_shimmer.demo.demo_subject import STROKES
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.output.subject.opened_subject import MarkedSubject, OpenedSubject
from idle_shimmer.settings import settings as project_settings
from idle_shimmer.transition.transition import Subjects, Transition

SIZE = (320, 180)
STRENGTHS = (0.4, 1.0, 1.8)
RECIPE_FRAMES = 7
_SAIL, _SAIL_PLACE, _SAIL_OUT = "hoisted-sail", 2, 46
_CAPTION_PX = 22
_GROUND, _INK, _QUIET = (38, 38, 38), (228, 233, 236), (157, 164, 168)
_QUALITY = 84
# The clip that shows each family best.
_CLIPS = {
    "blur": ("lantern-rows", "carousel-of-lights"),
    "geometry": ("carousel-of-lights", "hoisted-sail"),
    "light": ("pier-crowd", "lantern-rows"),
    "glitch": ("hoisted-sail", "fireworks"),
}


def captioned(picture: Codes, text: str, more: str = "") -> Codes:
    """Return the picture with a line of text under it."""
    line = np.full((_CAPTION_PX, picture.shape[1], 3), _GROUND, np.uint8)
    cv2.putText(line, text, (6, 15), cv2.FONT_HERSHEY_SIMPLEX, 0.42, _INK, 1, cv2.LINE_AA)
    right = picture.shape[1] - 6 - cv2.getTextSize(more, cv2.FONT_HERSHEY_SIMPLEX, 0.38, 1)[0][0]
    cv2.putText(line, more, (right, 15), cv2.FONT_HERSHEY_SIMPLEX, 0.38, _QUIET, 1, cv2.LINE_AA)
    return np.vstack([picture, line])


def strengths(kind: str, more: Mapping[str, Any]) -> Iterator[tuple[float, dict[str, Any]]]:
    """Yield (factor, the filter as JSON) at each strength, inside the ranges."""
    parameters = registered()[kind].parameters()
    usual = {**usual_values(parameters), **more}
    for factor in STRENGTHS:
        document: dict[str, Any] = {"kind": kind, **usual}
        for name, value in usual.items():
            rest = parameters[name].rest
            if rest is not None and isinstance(value, int | float) and not isinstance(value, bool):
                document[name] = float(parameters[name].clamp(rest + (value - rest) * factor))
        yield factor, document


def filter_sheet(clips: dict[str, RateConvertedClip]) -> Codes:
    """Return three strengths of every filter in a row, two filters side by side."""
    rows = []
    for kind, more, title in _filters_and_examples():
        one, other = (clips[name] for name in _CLIPS[registered()[kind].family])
        pictures = []
        for factor, document in strengths(kind, more):
            recipe = recipe_from_json({"format": 2, "filters": [document]})
            made = Transition(one, other, 60, 40, Window(6, 6), recipe).frame(-1)
            label = title if factor == STRENGTHS[0] else ""
            pictures.append(captioned(made, label, f"{factor:.0%} of usual"))
        rows.append(np.hstack(pictures))
    if len(rows) % 2:
        rows.append(np.full_like(rows[0], _GROUND[0]))
    return np.vstack([np.hstack(rows[n : n + 2]) for n in range(0, len(rows), 2)])


def _filters_and_examples() -> Iterator[tuple[str, Mapping[str, Any], str]]:
    """Yield (kind, settings, title) of every filter, by family, and of its examples."""
    for kind in sorted(registered(), key=_by_family):
        title = registered()[kind].title
        yield kind, {}, title
        for label, settings in registered()[kind].examples.items():
            yield kind, settings, f"{title}, {label}"


def _by_family(kind: str) -> tuple[int, str]:
    return list(_CLIPS).index(registered()[kind].family), kind


def recipe_sheet(clips: dict[str, RateConvertedClip]) -> Codes:
    """Return frames of every recipe across its window."""
    rows = []
    for slug, entry in book().items():
        pictures = list(_recipe_frames(entry.recipe, entry.window, clips))
        rows.append(captioned(np.hstack(pictures), entry.recipe.name, slug))
    if len(rows) % 2:
        rows.append(np.full_like(rows[0], _GROUND[0]))
    return np.vstack([np.hstack(rows[n : n + 2]) for n in range(0, len(rows), 2)])


def _recipe_frames(
    recipe: Recipe, window: Window, clips: dict[str, RateConvertedClip]
) -> Iterator[Codes]:
    made = Transition(clips["lantern-rows"], clips["dusk-water"], 90, 40, window, recipe)
    if marked := missing_subjects(recipe, ()):
        made = _with_sail(made, clips[_SAIL], marked)
    for offset in np.rint(np.linspace(-window.before, window.after - 1, RECIPE_FRAMES)):
        yield cv2.resize(made.frame(int(offset)), (128, 72), interpolation=cv2.INTER_AREA)


def _with_sail(made: Transition, sail: RateConvertedClip, sides: list[ClipSide]) -> Transition:
    """Return the transition with the sail, and what marks it, on ``sides``."""
    strokes = strokes_from_json(json.dumps(STROKES[_SAIL_PLACE]))
    if "outgoing" in sides:
        made = replace(made, outgoing=sail, outgoing_out=_SAIL_OUT)
    if "incoming" in sides:
        made = replace(made, incoming=sail, incoming_in=strokes[0].frame)
    subjects = {}
    for side in sides:
        frames = made.subject_frames(side)
        assert frames is not None
        subjects[side] = OpenedSubject(sail, MarkedSubject(tuple(strokes)), frames).alpha
    return replace(made, subjects=Subjects(**subjects))


def main() -> None:
    """Draw both sheets."""
    paths = build_clips(project_settings().demo)
    clips = {path.stem: RateConvertedClip.open(path, SIZE) for path in paths}
    for name, sheet in (("filters", filter_sheet(clips)), ("recipes", recipe_sheet(clips))):
        picture = cv2.cvtColor(sheet, cv2.COLOR_RGB2BGR)
        cv2.imwrite(f"docs/{name}.jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, _QUALITY])


if __name__ == "__main__":
    main()
