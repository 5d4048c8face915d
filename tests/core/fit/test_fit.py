"""Fit: known camera movements of photographs are measured, and the stated rules order the book."""

import math
from dataclasses import replace
from fractions import Fraction

import cv2
import numpy as np
import pytest
from skimage import data

from idle_shimmer.book.entries import book
from idle_shimmer.core.animation.timing import Window
from idle_shimmer.core.fit.camera import STILL, CameraMotion, camera_motion
from idle_shimmer.core.fit.measures import ClipMeasures, CutMeasures, measure_cut
from idle_shimmer.core.fit.rules import describe_motion, fit
from idle_shimmer.core.fit.suggest import on_the_beat, with_weight
from idle_shimmer.core.fit.traits import traits_of
from idle_shimmer.core.recipe import recipe_from_json

SIZE = (480, 270)
PHOTOGRAPHS = ("astronaut", "chelsea", "coffee", "rocket")
# The goals: rates within 10 %, directions within 10 degrees; and what counts as none where there is none.
RATE_SHARE, DIRECTION_DEG = 0.10, 10
NO_SHIFT, NO_ZOOM, NO_TURN_DEG = 0.0008, 0.0008, 0.05
PANS = ((0.03, 0.0), (-0.02, 0.02), (0.0, -0.06), (0.006, 0.0), (-0.12, 0.0))


def filmed(name: str, motion: CameraMotion, count: int = 5) -> list[np.ndarray]:
    """Return frames of a photograph that moves by ``motion`` from each to the next."""
    photo = getattr(data, name)()
    height, width = photo.shape[:2]
    base = max(SIZE[0] / width, SIZE[1] / height) * 1.4
    frames = []
    for n in range(count):
        scale, angle = base * math.exp(motion.zoom * n), math.radians(motion.turn_deg * n)
        linear = scale * np.array(
            [[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]]
        )
        middle = np.array([SIZE[0] / 2, SIZE[1] / 2]) - 0.5
        shift = np.array([motion.right, motion.down]) * SIZE[1] * n
        offset = middle - linear @ (np.array([width, height]) / 2 - 0.5) + shift
        matrix = np.column_stack([linear, offset])
        frames.append(
            cv2.warpAffine(
                photo, matrix, SIZE, flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT
            )
        )
    return frames


@pytest.mark.parametrize("name", PHOTOGRAPHS)
@pytest.mark.parametrize("pan", PANS)
def test_a_pan_is_measured(name, pan):
    wanted = CameraMotion(*pan)
    found = camera_motion(filmed(name, wanted))
    assert found.speed == pytest.approx(wanted.speed, rel=RATE_SHARE)
    turned = np.array([found.right, found.down]) @ np.array([wanted.right, wanted.down])
    apart = math.degrees(math.acos(min(1.0, turned / found.speed / wanted.speed)))
    assert apart < DIRECTION_DEG
    assert abs(found.zoom) < NO_ZOOM
    assert abs(found.turn_deg) < NO_TURN_DEG


@pytest.mark.parametrize("name", PHOTOGRAPHS)
@pytest.mark.parametrize(
    ("zoom", "turn_deg"), [(0.02, 0), (-0.03, 0), (0, 2), (0, -1), (0.01, 0.5)]
)
def test_a_zoom_and_a_turn_are_measured(name, zoom, turn_deg):
    found = camera_motion(filmed(name, CameraMotion(zoom=zoom, turn_deg=turn_deg)))
    assert found.zoom == pytest.approx(zoom, rel=RATE_SHARE, abs=NO_ZOOM)
    assert found.turn_deg == pytest.approx(turn_deg, rel=RATE_SHARE, abs=NO_TURN_DEG)
    assert found.speed < NO_SHIFT


def test_a_subject_that_moves_by_itself_is_not_the_camera():
    frames = [each.copy() for each in filmed("coffee", CameraMotion(0.02, 0.0))]
    cat = cv2.resize(data.chelsea(), (150, 110))
    for n, each in enumerate(frames):
        each[80:190, 260 - 12 * n : 410 - 12 * n] = cat
    assert camera_motion(frames).right == pytest.approx(0.02, rel=RATE_SHARE)


def test_nothing_is_read_from_an_empty_picture_or_a_single_one():
    grey = [np.full((90, 160, 3), 120, np.uint8)] * 4
    assert camera_motion(grey) == camera_motion(grey[:1]) == STILL


def test_brightness_sharpness_weight_and_likeness():
    coffee = filmed("coffee", STILL)
    dark = [each // 3 for each in coffee]
    blurred = [cv2.GaussianBlur(each, (0, 0), 6) for each in coffee]
    found = measure_cut(coffee, dark)
    assert found.outgoing.brightness == pytest.approx(3 * found.incoming.brightness, rel=0.02)
    assert measure_cut(coffee, blurred).incoming.softness > found.outgoing.softness + 0.3
    assert measure_cut(coffee, coffee).likeness > 0.95
    assert measure_cut(coffee, filmed("rocket", STILL)).likeness < 0.35
    # A lamp in the dark is where the weight lies.
    night = np.full((270, 480, 3), 20, np.uint8)
    cv2.circle(night, (380, 70), 18, (250, 240, 200), -1)
    assert measure_cut([night], coffee).outgoing.weight == pytest.approx(
        (380 / 480, 70 / 270), abs=0.06
    )


def points(measures: CutMeasures, slug: str, missing: int = 0) -> float:
    return fit(measures, traits_of(book()[slug].recipe), missing).points


def cut(outgoing: CameraMotion, incoming: CameraMotion = STILL, **more) -> CutMeasures:
    return CutMeasures(ClipMeasures(outgoing), ClipMeasures(incoming), **more)


def test_a_recipe_that_goes_on_with_the_camera_comes_first():
    # The picture runs left: the camera pans right.
    measures = cut(CameraMotion(right=-0.03), CameraMotion(right=-0.02))
    order = sorted(
        ("whip-left", "whip-up-left", "whip-up", "whip-right"),
        key=lambda each: -points(measures, each),
    )
    assert order == ["whip-left", "whip-up-left", "whip-up", "whip-right"]
    reasons = fit(measures, traits_of(book()["whip-left"].recipe)).reasons
    assert reasons[0].text == "The camera moves right at 2.5 % a frame: this goes on"
    assert points(measures, "blurred-cut-horizontal") > points(measures, "blurred-cut-vertical")


def test_zooms_and_turns_go_on():
    closer = cut(CameraMotion(zoom=0.02), CameraMotion(zoom=0.01))
    assert points(closer, "zoom-through") > 0 > points(closer, "scale-through")
    clockwise = cut(CameraMotion(turn_deg=-1.0))
    assert (
        points(clockwise, "whole-turn") > 0 > points(cut(CameraMotion(turn_deg=1.0)), "whole-turn")
    )


@pytest.mark.parametrize(
    ("parameter", "camera"),
    [
        ("shift_x", CameraMotion(right=-0.03)),
        ("scale", CameraMotion(zoom=-0.02)),
        ("turns", CameraMotion(turn_deg=-1.0)),
    ],
)
def test_a_rebound_is_meant_to_go_against_the_movement(parameter: str, camera: CameraMotion):
    """It draws back a little, then goes on the other way; what only goes that way is a fault."""
    rest, back = {"scale": (1, 0.8)}.get(parameter, (0, -0.2))

    def judged(first: float) -> tuple[set[str], float]:
        keys = [(-1, rest), (0, first), (1, rest + 1)]
        curve = {"kind": "keyframes", "keyframes": [{"at": u, "value": v} for u, v in keys]}
        recipe = recipe_from_json({"filters": [{"kind": "transform", parameter: curve}]})
        traits = traits_of(recipe)
        return set(traits.rebounds), fit(cut(camera, camera), traits).points

    assert judged(rest) == (set(), -2.0)
    what = {"shift_x": "shift", "scale": "zoom", "turns": "turn"}[parameter]
    assert judged(back) == ({what}, 0.0)


def test_a_morph_needs_two_frames_that_are_alike():
    assert points(cut(STILL, likeness=0.8), "morph-over-a-jump") > points(
        cut(STILL, likeness=0.8), "hidden-dissolve"
    )
    assert points(cut(STILL, likeness=0.1), "morph-over-a-jump") < 0


def test_still_cameras_steps_of_light_clashes_and_missing_frames_count():
    assert points(cut(STILL), "hidden-dissolve") > points(cut(STILL), "whip-left")
    step = cut(STILL)
    step = replace(step, incoming=replace(step.incoming, brightness=0.8))
    assert points(step, "bloom-flash") > points(cut(STILL), "bloom-flash")
    clash = cut(CameraMotion(right=0.03), CameraMotion(right=-0.03))
    assert points(clash, "bloom-flash") > points(clash, "whip-left")
    assert points(cut(STILL), "hidden-dissolve", missing=2) < 0


def test_motion_is_described_as_the_camera_sees_it():
    assert describe_motion(STILL) == "The camera stands still"
    said = describe_motion(CameraMotion(right=0.03, zoom=0.02, turn_deg=-0.6))
    assert (
        said
        == "The camera moves left at 3.0 % a frame and goes closer at 2.0 % a frame and turns 0.6° a frame"
    )


def test_centres_go_to_the_weight_of_their_clip():
    measures = CutMeasures(ClipMeasures(weight=(0.2, 0.5)), ClipMeasures(weight=(0.6, 0.3)))
    for entry in book().values():
        for had, has in zip(
            entry.recipe.filters, with_weight(entry.recipe, measures).filters, strict=True
        ):
            name = had.point_parameter()
            if name is None or getattr(had, name) != (0.5, 0.5):
                assert has == had
                continue
            side = had.side
            if side == "subject":
                # It is the clip's whose subject is shown.
                assert entry.recipe.subject_layer is not None
                side = entry.recipe.subject_layer.of
            wanted = {"outgoing": (0.2, 0.5), "incoming": (0.6, 0.3), "across": (0.4, 0.4)}
            assert getattr(has, name) == pytest.approx(wanted[side])


@pytest.mark.parametrize(
    ("window", "bpm", "wanted", "beats"),
    [
        (Window(5, 5), 120, Window(6, 6), 1),
        (Window(3, 4), 100, Window(3, 5), Fraction(1, 2)),
        (Window(35, 35), 60, Window(25, 25), 2),
        (Window(25, 25), 240, Window(13, 12), 4),
    ],
)
def test_windows_take_the_nearest_number_of_beats(window, bpm, wanted, beats):
    found, taken = on_the_beat(window, Fraction(25), bpm)
    assert taken == beats
    assert found.before + found.after == round(60 * 25 / bpm * beats)
    assert abs(found.before - wanted.before) <= 1
