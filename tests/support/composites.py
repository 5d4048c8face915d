"""Composites whose true matte is known: photographs cut out and moved over other photographs."""

import math

import cv2
import numpy as np
from skimage import data

from idle_shimmer.core.subject.strokes import Strokes

SIZE, COUNT = (640, 360), 31


def cut_out(height: int, width: int) -> np.ndarray:
    """Return the alpha of a lobed outline with soft edges."""
    t = np.linspace(0, 2 * np.pi, 400)
    r = 1 + 0.18 * np.sin(3 * t + 1) + 0.1 * np.sin(7 * t)
    points = np.stack(
        [width / 2 + r * np.cos(t) * width * 0.36, height / 2 + r * np.sin(t) * height * 0.36]
    )
    mask = np.zeros((height, width), np.uint8)
    cv2.fillPoly(mask, [points.T.astype(np.int32)], 255)
    return cv2.GaussianBlur(mask, (0, 0), 1.2).astype(np.float32) / 255


def ground(name: str) -> list[np.ndarray]:
    """Return frames of a photograph that moves behind everything."""
    width, height = SIZE
    behind = cv2.resize(getattr(data, name)(), (width + 140, height + 80)).astype(np.float32)
    places = ((20 + n // 3, 30 + n) for n in range(COUNT))
    return [behind[down : down + height, right : right + width] for down, right in places]


def laid(
    subject: str,
    below: list[np.ndarray],
    step: float,
    turn_deg: float,
    grow: float,
    start: float = 0.3,
) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Return frames with a cut-out that moves, turns and grows over ``below``, and its true alpha."""
    width, height = SIZE
    photo = getattr(data, subject)()
    own_height, own_width = photo.shape[:2]
    alpha = cut_out(own_height, own_width)
    frames, truth = [], []
    for n, shown in enumerate(below):
        scale = height * 0.6 / own_height * (1 + grow * n)
        angle = math.radians(turn_deg * n)
        linear = scale * np.array(
            [[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]]
        )
        middle = np.array([width * start + step * n, height * 0.5])
        matrix = np.column_stack([linear, middle - linear @ [own_width / 2, own_height / 2]])
        moved = cv2.warpAffine(photo.astype(np.float32), matrix, SIZE, flags=cv2.INTER_AREA)
        over = cv2.warpAffine(alpha, matrix, SIZE)
        frames.append(moved * over[..., None] + shown * (1 - over[..., None]))
        truth.append(over)
    return frames, truth


def coded(frames: list[np.ndarray]) -> list[np.ndarray]:
    return [np.rint(each.clip(0, 255)).astype(np.uint8) for each in frames]


def composite(
    subject: str, behind: str, step: float, turn_deg: float, grow: float, start: float = 0.3
) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Return frames of a cut-out that moves over a moving photograph, and its true alpha."""
    frames, truth = laid(subject, ground(behind), step, turn_deg, grow, start)
    return coded(frames), truth


def crossing(subject: str, other: str, behind: str) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Return frames of a cut-out that moves in front of another one that comes towards it."""
    below, _ = laid(other, ground(behind), -7, 0.5, 0.0, start=0.75)
    frames, truth = laid(subject, below, 5, -0.5, 0.002, start=0.3)
    return coded(frames), truth


def drawn(truth: np.ndarray, frame: int = 0, remove: tuple = ()) -> Strokes:
    """Return what someone would draw: a loose box, a cross inside, a line around."""
    height, width = truth.shape
    rows, columns = np.nonzero(truth > 0.5)
    left, top = columns.min() / width - 0.02, rows.min() / height - 0.02
    across, down = np.ptp(columns) / width + 0.04, np.ptp(rows) / height + 0.04
    x, y = columns.mean() / width, rows.mean() / height
    keep = (
        ((x - 0.28 * across, y), (x + 0.28 * across, y)),
        ((x, y - 0.28 * down), (x, y + 0.28 * down)),
    )
    corners = ((left, top), (left + across, top), (left + across, top + down), (left, top + down))
    return Strokes(
        frame=frame,
        box=(left, top, across, down),
        keep=keep,
        remove=((*corners, corners[0]), *remove),
    )


def overlap(found: np.ndarray, truth: np.ndarray) -> float:
    one, other = found > 0.5, truth > 0.5
    return float((one & other).sum() / (one | other).sum())
