"""Match frames: a clip that is cut against a shifted copy of itself, and a walk, are found again."""

import cv2
import numpy as np
import pytest
import skimage.data
from numpy.typing import NDArray

from idle_shimmer.core.fit.frame_pairs import best_pairs, similarity_map

COUNT = 14


def seen_by(camera: list[tuple[float, float, float]]) -> list[NDArray[np.uint8]]:
    """Frames of a photograph, (x, y, zoom) of each: the upper left corner, in its pixels."""
    photo = skimage.data.astronaut()
    return [
        cv2.warpAffine(photo, np.array([[z, 0, -x * z], [0, z, -y * z]]), (320, 180))
        for x, y, z in camera
    ]


def pan() -> list[tuple[float, float, float]]:
    """A pan that changes its pace and rises, so that no two frames are alike."""
    return [(20 + 5 * k + 0.25 * k * k, 120 - 3 * k, 1.0) for k in range(COUNT + 8)]


@pytest.mark.parametrize("shift", [0, 3, 7])
def test_a_clip_cut_against_a_shifted_copy_of_itself_finds_the_shift(shift: int) -> None:
    frames = seen_by(pan())
    found = best_pairs(similarity_map(frames[shift : shift + COUNT], frames[:COUNT]))
    assert len(found) == 3
    for each in found:
        assert each.incoming - each.outgoing == shift
        assert each.similarity > 0.95


def test_a_framing_of_the_other_clip_does_not_hide_the_match() -> None:
    frames = seen_by(pan())
    closer = seen_by([(x + 12, y + 8, 1.15) for x, y, _ in pan()])
    best = best_pairs(similarity_map(frames[4 : 4 + COUNT], closer[:COUNT]))[0]
    assert abs(best.incoming - best.outgoing - 4) <= 1


def walk(phases: list[float]) -> list[NDArray[np.uint8]]:
    """A figure whose two legs swing, against a wall; ``phases`` in turns."""
    wall = cv2.resize(skimage.data.brick(), (320, 180))
    frames = []
    for phase in phases:
        frame = np.repeat(wall[..., None], 3, axis=2)
        swing = 35 * np.sin(2 * np.pi * phase)
        for sign, tone in ((1, 250), (-1, 20)):
            foot = (int(160 + sign * swing), int(170 - 8 * abs(np.cos(2 * np.pi * phase))))
            cv2.line(frame, (160, 90), foot, (tone, tone, tone), 14, cv2.LINE_AA)
        cv2.circle(frame, (160, 55), 22, (200, 120, 60), -1, cv2.LINE_AA)
        frames.append(frame)
    return frames


def test_two_walks_meet_in_their_phase() -> None:
    step = 1 / 16
    outgoing = walk([0.11 + step * k for k in range(COUNT)])
    incoming = walk([0.40 + step * k for k in range(COUNT)])
    for each in best_pairs(similarity_map(outgoing, incoming), count=2):
        apart = (0.11 + step * each.outgoing - 0.40 - step * each.incoming) % 1
        # Not half a turn: there the picture is nearly the same, but the legs swing the other way.
        assert min(apart, 1 - apart) <= step


def test_the_best_pairs_are_apart_and_no_more_than_there_are() -> None:
    similarity = np.zeros((3, 3), np.float32)
    similarity[1, 1] = 1
    assert [(each.outgoing, each.incoming) for each in best_pairs(similarity)] == [(1, 1)]
    wide = np.zeros((9, 9), np.float32)
    wide[0, 0], wide[1, 1], wide[8, 4] = 0.9, 0.8, 0.7
    pairs = [(each.outgoing, each.incoming) for each in best_pairs(wide, count=2)]
    assert pairs == [(0, 0), (8, 4)]
