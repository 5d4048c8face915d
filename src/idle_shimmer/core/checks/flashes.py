"""Flashes: the limits of WCAG 2.2, success criterion 2.3.1, on the rendered frames.

Source (from memory): a general flash is a pair of opposing changes of relative luminance by 10 % or
more of the full range, the darker state below 0.80; a red flash is a pair of opposing changes to or
from a saturated red, R / (R + G + B) >= 0.8, by more than 20 of (R - G - B) · 320 (negative values
count as 0). More than three of either in any one second fail, where they fill more than a quarter
of some 341 x 256 block of a 1024 x 768 view at once.
"""

from dataclasses import dataclass
from fractions import Fraction

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.checks.base import Check, CheckContext, Finding
from idle_shimmer.core.picture.encoding import Codes, linear_from_codes, luma

MOST_A_SECOND = 3
LEAST_CHANGE, DARKER_BELOW = 0.10, 0.80
LEAST_RED_CHANGE, SATURATED = 20.0, 0.8
AREA_SHARE = 0.25
_VIEW_W, _VIEW_H, _BLOCK_W, _BLOCK_H = 1024, 768, 341, 256
_CELL = 16
_AT_ONCE_S = Fraction(2, 25)
Plane = NDArray[np.float32]
Flags = NDArray[np.bool_]


@dataclass(frozen=True)
class Flashing:
    """The most flashes in any second, and the picture (index in the sequence) that ends them."""

    count: int
    frame: int
    red: bool


class Flashes(Check):
    """No more than three flashes in any second."""

    id = "flashes"
    title = "Flashes"
    order = 110
    on_frames = True

    def run(self, context: CheckContext) -> Finding:
        """Return the most flashes in any one second that touches the window."""
        assert context.frames is not None
        window, rate = context.timeline.window, context.timeline.rate
        around = int(rate)
        offsets, pictures = [], []
        for k in range(-window.before - around, window.after + around):
            picture = context.frames(k)
            if picture is not None:
                offsets.append(k)
                pictures.append(picture)
        found = flashing(pictures, rate)
        frame = offsets[found.frame] if found.count else None
        kind = "red flashes" if found.red else "flashes"
        if found.count > MOST_A_SECOND:
            return self.found(
                "failed",
                found.count,
                "per second",
                f"{found.count} {kind} in one second. More than three can cause seizures (WCAG 2.3.1):"
                " make them fewer, slower or weaker.",
                frame,
            )
        message = "Within the limits for flashes (WCAG 2.3.1)."
        if found.count == MOST_A_SECOND:
            message = f"Three {kind} in one second, as many as the limit allows."
        return self.ok(found.count, "per second", message, frame)


def flashing(pictures: list[Codes], rate: Fraction) -> Flashing:
    """Return the most general or red flashes in one second of ``pictures`` (uint8 RGB, one size)."""
    if len(pictures) < 2:
        return Flashing(0, 0, red=False)
    states = [_state(each) for each in pictures]
    light = [state[0] for state in states]
    reds = [state[1] for state in states]
    saturated = [state[2] for state in states]
    general = _most(_changes(light, LEAST_CHANGE, [each < DARKER_BELOW for each in light]), rate)
    red = _most(_changes(reds, LEAST_RED_CHANGE, saturated, either=True), rate)
    count, frame, is_red = max((*general, False), (*red, True), key=lambda each: each[0])
    return Flashing(count, frame, is_red)


def _state(picture: Codes) -> tuple[Plane, Plane, Flags]:
    """Return relative luminance, redness and whether it is saturated, in cells of the view."""
    height, width = picture.shape[:2]
    scale = min(_VIEW_W / width, _VIEW_H / height) / _CELL
    size = max(2, round(width * scale)), max(2, round(height * scale))
    cells = cv2.resize(linear_from_codes(picture), size, interpolation=cv2.INTER_AREA)
    red, green, blue = cells[..., 0], cells[..., 1], cells[..., 2]
    redness = np.maximum(red - green - blue, 0) * 320
    saturated = red >= SATURATED * np.maximum(red + green + blue, 1e-6)
    return luma(cells), redness, saturated


def _changes(
    values: list[Plane], least: float, allowed: list[Flags], *, either: bool = False
) -> list[NDArray[np.int8]]:
    """Return where a rise (+1) or fall (-1) of at least ``least`` completes, for each picture.

    A change runs from the last turning point of each cell. ``allowed`` must hold in the lower state,
    or in ``either`` state.
    """
    low, high = values[0].copy(), values[0].copy()
    low_ok, high_ok = allowed[0].copy(), allowed[0].copy()
    last = np.zeros(values[0].shape, np.int8)
    found = [np.zeros(values[0].shape, np.int8)]
    for value, ok in zip(values[1:], allowed[1:], strict=True):
        new_low, new_high = value < low, value > high
        low_ok = np.where(new_low, ok, low_ok)
        high_ok = np.where(new_high, ok, high_ok)
        low, high = np.minimum(low, value), np.maximum(high, value)
        rise_ok = low_ok | ok if either else low_ok
        fall_ok = high_ok | ok if either else ok
        rises = (last != 1) & (value - low >= least - 1e-6) & rise_ok
        falls = (last != -1) & (high - value >= least - 1e-6) & fall_ok & ~rises
        event = rises.astype(np.int8) - falls.astype(np.int8)
        turned = event != 0
        last = np.where(turned, event, last).astype(np.int8)
        # From a turning point on, only the opposite change is looked for.
        low, high = np.where(turned, value, low), np.where(turned, value, high)
        low_ok, high_ok = np.where(turned, ok, low_ok), np.where(turned, ok, high_ok)
        found.append(event)
    return found


def _most(changes: list[NDArray[np.int8]], rate: Fraction) -> tuple[int, int]:
    """Return (the most flashes of any block in a second, the picture that ends them)."""
    rows, columns = changes[0].shape
    block = min(rows, round(_BLOCK_H / _CELL)), min(columns, round(_BLOCK_W / _CELL))
    steps_y = range(0, rows - block[0] + 1, max(1, block[0] // 4))
    steps_x = range(0, columns - block[1] + 1, max(1, block[1] // 4))
    best = (0, 0)
    at_once = max(1, round(_AT_ONCE_S * rate))
    for top in (*steps_y, rows - block[0]):
        for left in (*steps_x, columns - block[1]):
            part = [each[top : top + block[0], left : left + block[1]] for each in changes]
            best = max(
                best, _in_a_second(_block_events(part, at_once), rate), key=lambda each: each[0]
            )
    return best


def _block_events(changes: list[NDArray[np.int8]], at_once: int) -> list[int]:
    """Return the pictures at which more than a quarter of a block has changed direction.

    Changes that complete within ``at_once`` pictures count as one: a flash seldom crosses the
    threshold everywhere in the same picture. Where as much falls as rises, something moves and nothing flashes.
    """
    events, last = [], 0
    for place in range(len(changes)):
        recent = np.array(changes[max(0, place - at_once + 1) : place + 1])
        for sign in (1, -1):
            turned = (recent == sign).any(axis=0).mean() - (recent == -sign).any(axis=0).mean()
            if sign != last and turned > AREA_SHARE:
                events.append(place)
                last = sign
                break
    return events


def _in_a_second(events: list[int], rate: Fraction) -> tuple[int, int]:
    """Return (the most pairs of changes in a second, the picture that ends them)."""
    best = (0, 0)
    for first, start in enumerate(events):
        within = [each for each in events[first:] if each - start < rate]
        if len(within) // 2 > best[0]:
            best = (len(within) // 2, within[-1])
    return best
