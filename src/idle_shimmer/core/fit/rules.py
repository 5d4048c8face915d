"""The rules by which recipes are sorted by fit. All of them stand here, with their points.

Every rule looks at the measures of a cut and at what a recipe does, and gives points with the reason in
words, or says nothing. A recipe's fit is the sum; equals keep the order of the book. The points and
the limits are common practice: they have no published source.
"""

import math
from collections.abc import Callable
from dataclasses import dataclass

from idle_shimmer.core.fit.camera import CameraMotion
from idle_shimmer.core.fit.measures import CutMeasures
from idle_shimmer.core.fit.traits import Traits

# Below these, a frame, the camera stands still: frame heights, ln of scale, degrees.
STILL_SHIFT, STILL_ZOOM, STILL_TURN_DEG = 0.002, 0.003, 0.2
# From this speed on, in frame heights a frame, nobody overlooks a movement.
FULL_SPEED = 0.02
# Directions agree within this angle, and are opposite beyond its counterpart.
SAME_DIRECTION_DEG = 50.0
OPPOSITE_DIRECTION_DEG = 130.0
BRIGHTNESS_STEP = 0.12
ALIKE, UNLIKE = 0.6, 0.35
SOFT = 0.6


@dataclass(frozen=True, slots=True)
class Reason:
    """Points for or against a recipe, and why, as a sentence without full stop."""

    points: float
    text: str


@dataclass(frozen=True, slots=True)
class Fit:
    """How well a recipe suits a cut; reasons with the most weight come first."""

    points: float
    reasons: tuple[Reason, ...]


Rule = Callable[[CutMeasures, Traits], Reason | None]


def fit(measures: CutMeasures, traits: Traits, missing_frames: int = 0) -> Fit:
    """Return how a recipe suits a cut on which ``missing_frames`` of its spare frames are missing."""
    found = [reason for rule in RULES if (reason := rule(measures, traits)) is not None]
    if missing_frames:
        plural = "" if missing_frames == 1 else "s"
        found.append(Reason(-4.0, f"{missing_frames} spare frame{plural} missing"))
    found.sort(key=lambda each: -abs(each.points))
    return Fit(sum(each.points for each in found), tuple(found))


def common_motion(measures: CutMeasures) -> CameraMotion | None:
    """Return the motion that both sides share, or that of the side that moves; None where they clash."""
    one, other = measures.outgoing.camera, measures.incoming.camera
    moving = [each for each in (one, other) if each.speed >= STILL_SHIFT]
    if len(moving) == 2 and _apart_deg(_angle_deg(one), _angle_deg(other)) > 90:
        return None
    if not moving:
        moving = [one, other]
    parts = zip(*((each.right, each.down) for each in moving), strict=True)
    right, down = (sum(part) / len(moving) for part in parts)
    return CameraMotion(
        right, down, _shared(one.zoom, other.zoom), _shared(one.turn_deg, other.turn_deg)
    )


def describe_motion(motion: CameraMotion) -> str:
    """Return what the camera does, in words and numbers: it moves against the picture."""
    parts = []
    if motion.speed >= STILL_SHIFT:
        parts.append(
            f"moves {_direction(_angle_deg(motion) + 180)} at {percent(motion.speed, 1)} a frame"
        )
    if abs(motion.zoom) >= STILL_ZOOM:
        parts.append(
            f"{_closer(motion.zoom)} at {percent(math.expm1(abs(motion.zoom)), 1)} a frame"
        )
    if abs(motion.turn_deg) >= STILL_TURN_DEG:
        parts.append(f"turns {abs(motion.turn_deg):.1f}° a frame")
    return "The camera " + (" and ".join(parts) if parts else "stands still")


def percent(share: float, decimals: int = 0) -> str:
    """Return a share as the interface writes it."""
    return f"{share * 100:.{decimals}f} %"


def _goes_on(measures: CutMeasures, traits: Traits) -> Reason | None:
    """A recipe that moves the picture on as it moves already suits; against it, it does not."""
    motion = common_motion(measures)
    if motion is None or motion.speed < STILL_SHIFT:
        return None
    angle = _angle_deg(motion)
    said = describe_motion(CameraMotion(motion.right, motion.down))
    if traits.angle_deg is not None:
        apart = _apart_deg(angle, traits.angle_deg)
        if apart <= SAME_DIRECTION_DEG:
            points = _by_speed(motion.speed) * math.cos(math.radians(apart))
            return Reason(points, f"{said}: this goes on")
        if apart >= OPPOSITE_DIRECTION_DEG:
            # A rebound is meant to come back against the movement.
            rebounds = "shift" in traits.rebounds
            return None if rebounds else Reason(-2.0, f"{said}: this goes against it")
        return Reason(-1.0, f"{said}: this goes across it")
    if traits.axis_deg is not None:
        apart = _apart_deg(2 * angle, 2 * traits.axis_deg) / 2
        if apart <= SAME_DIRECTION_DEG / 2:
            return Reason(2.0 * math.cos(math.radians(apart)), f"{said}: the streak lies along it")
        return Reason(-1.0, f"{said}: the streak lies across it")
    return None


def _zooms_on(measures: CutMeasures, traits: Traits) -> Reason | None:
    zoom = 0.0 if (motion := common_motion(measures)) is None else motion.zoom
    if abs(zoom) < STILL_ZOOM:
        return None
    return _same_way("zoom", traits, zoom * traits.zoom, CameraMotion(zoom=zoom))


def _turns_on(measures: CutMeasures, traits: Traits) -> Reason | None:
    turn_deg = 0.0 if (motion := common_motion(measures)) is None else motion.turn_deg
    if abs(turn_deg) < STILL_TURN_DEG:
        return None
    return _same_way("turn", traits, turn_deg * traits.turn, CameraMotion(turn_deg=turn_deg))


def _same_way(what: str, traits: Traits, product: float, motion: CameraMotion) -> Reason | None:
    """Return whether a recipe zooms or turns as the camera does: ``product`` of their rates says it by its sign.

    A rebound is meant to come back against the movement.
    """
    if product == 0 or (product < 0 and what in traits.rebounds):
        return None
    if product > 0:
        return Reason(3.0, f"{describe_motion(motion)}: this {what} goes on")
    return Reason(-2.0, f"{describe_motion(motion)}: this {what} goes the other way")


def _hides_a_clash(measures: CutMeasures, traits: Traits) -> Reason | None:
    """Clips that move against each other need something that hides the change."""
    if common_motion(measures) is not None:
        return None
    if traits.tags & {"bright", "glitch"} and not traits.moves:
        return Reason(2.0, "The clips move against each other: this hides the change of direction")
    if traits.moves:
        return Reason(-0.5, "The clips move against each other: this goes on with one of them only")
    return None


def _keeps_calm(measures: CutMeasures, traits: Traits) -> Reason | None:
    cameras = (measures.outgoing.camera, measures.incoming.camera)
    if any(_moves(each) for each in cameras):
        return None
    if "soft" in traits.tags and not traits.moves:
        return Reason(1.5, "Both cameras stand still: this is a soft change")
    return None


def _bridges_brightness(measures: CutMeasures, traits: Traits) -> Reason | None:
    step = measures.incoming.brightness - measures.outgoing.brightness
    if abs(step) < BRIGHTNESS_STEP or "bright" not in traits.tags:
        return None
    word = "brighter" if step > 0 else "darker"
    return Reason(
        2.0, f"The incoming shot is {percent(abs(step))} {word}: the light hides the step"
    )


def _joins_one_shot(measures: CutMeasures, traits: Traits) -> Reason | None:
    """A morph and an accent belong inside one shot; anything else between two."""
    likeness = measures.likeness
    if traits.joins_one_shot:
        if likeness >= ALIKE:
            return Reason(
                4.0, f"The frames at the cut are {percent(likeness)} alike: one shot is joined"
            )
        if likeness < UNLIKE:
            return Reason(
                -3.0, f"The frames at the cut are only {percent(likeness)} alike: a morph smears"
            )
    if "accent" in traits.tags:
        if likeness >= ALIKE:
            return Reason(
                2.5,
                f"The frames at the cut are {percent(likeness)} alike: an accent inside one shot",
            )
        return Reason(-1.5, "Two different shots: this accent is made for one")
    return None


def _starts_soft(measures: CutMeasures, traits: Traits) -> Reason | None:
    for clip, name in ((measures.outgoing, "outgoing"), (measures.incoming, "incoming")):
        if clip.softness >= SOFT and "soft" in traits.tags:
            return Reason(1.0, f"The {name} shot is soft already: this blurs on from it")
    return None


RULES: tuple[Rule, ...] = (
    _goes_on,
    _zooms_on,
    _turns_on,
    _hides_a_clash,
    _keeps_calm,
    _bridges_brightness,
    _joins_one_shot,
    _starts_soft,
)


def _moves(motion: CameraMotion) -> bool:
    return (
        motion.speed >= STILL_SHIFT
        or abs(motion.zoom) >= STILL_ZOOM
        or abs(motion.turn_deg) >= STILL_TURN_DEG
    )


def _by_speed(speed: float) -> float:
    """Return the points for going on with a movement: it must be seen to count in full."""
    return 1.5 + 1.5 * min(1.0, speed / FULL_SPEED)


def _shared(one: float, other: float) -> float:
    """Return the mean of two rates that do not oppose each other, else 0."""
    return (one + other) / 2 if one * other >= 0 else 0.0


def _angle_deg(motion: CameraMotion) -> float:
    return math.degrees(math.atan2(-motion.down, motion.right)) % 360


def _apart_deg(one: float, other: float) -> float:
    return abs((one - other + 180) % 360 - 180)


def _direction(angle_deg: float) -> str:
    names = (
        "right",
        "up and right",
        "up",
        "up and left",
        "left",
        "down and left",
        "down",
        "down and right",
    )
    return names[round(angle_deg / 45) % 8]


def _closer(zoom: float) -> str:
    return "goes closer" if zoom > 0 else "goes back"
