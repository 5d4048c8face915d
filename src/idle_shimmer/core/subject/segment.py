"""Divides one frame into subject and background: GrabCut, then a soft edge.

GrabCut by OpenCV (Rother, Kolmogorov and Blake 2004, "GrabCut: interactive foreground extraction using
iterated graph cuts"); the edge by a guided filter (He, Sun and Tang 2010, "Guided image filtering").
"""

from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Codes
from idle_shimmer.core.subject.strokes import (
    BACKGROUND,
    MAYBE_BACKGROUND,
    MAYBE_SUBJECT,
    SUBJECT,
    Labels,
)

Alpha = NDArray[np.float32]
_MODEL = 65
_SIGMA_NOISE = 1e-4
# The soft edge is looked for within this share of the height on both sides of the cut edge.
_EDGE = 0.012
# The main colours of what strokes mark, and how far from all of them, in CIE L*a*b*, a colour is another.
_CLUSTERS, _MOST_SAMPLES, _UNLIKE = 8, 20_000, 30.0


@dataclass
class ColourModels:
    """What subject and background look like: Gaussian mixtures, as GrabCut keeps them."""

    background: NDArray[np.float64] = field(default_factory=lambda: np.zeros((1, _MODEL)))
    subject: NDArray[np.float64] = field(default_factory=lambda: np.zeros((1, _MODEL)))

    @property
    def is_empty(self) -> bool:
        """Whether nothing has been seen yet."""
        return not self.subject.any()

    def copy(self) -> "ColourModels":
        """Return the same models, to be changed on their own."""
        return ColourModels(self.background.copy(), self.subject.copy())


def divide(picture: Codes, labels: Labels, models: ColourModels, rounds: int) -> NDArray[np.bool_]:
    """Return where the subject is, bool (H, W). ``models`` that are empty learn from the frame.

    ``labels`` are what is known, certainly or perhaps; both kinds must be there.
    """
    labels = labels.copy()
    cv2.setRNGSeed(0)
    if not _has_both(labels):
        return (labels == SUBJECT) | (labels == MAYBE_SUBJECT)
    # Models that learned from every frame would forget by and by what was drawn.
    mode = cv2.GC_INIT_WITH_MASK if models.is_empty else cv2.GC_EVAL_FREEZE_MODEL
    cv2.grabCut(picture, labels, None, models.background, models.subject, rounds, mode)
    return (labels == SUBJECT) | (labels == MAYBE_SUBJECT)


def likely(picture: Codes, labels: Labels) -> Labels:
    """Return ``labels`` with what is not certain put to the side that it is likelier on, by its colour.

    Colours as those that strokes keep are the subject's, and so are those that are unlike everything that is
    certainly background. Without strokes ``labels`` stay as they are.
    """
    unsure = np.isin(labels, (MAYBE_SUBJECT, MAYBE_BACKGROUND))
    kept, behind = labels == SUBJECT, labels == BACKGROUND
    if min(kept.sum(), behind.sum(), unsure.sum()) < _CLUSTERS:
        return labels
    colours = cv2.cvtColor(picture.astype(np.float32) / np.float32(255), cv2.COLOR_RGB2LAB)
    wanted = colours[unsure]
    to_subject, to_background = (_distance(wanted, colours[each]) for each in (kept, behind))
    is_subject = (to_subject < to_background) | (to_background > _UNLIKE)
    made = labels.copy()
    made[unsure] = np.where(is_subject, MAYBE_SUBJECT, MAYBE_BACKGROUND)
    return made


def _distance(colours: NDArray[np.float32], known: NDArray[np.float32]) -> NDArray[np.float32]:
    """Return how far each of ``colours`` (n, 3) lies from the nearest of the main ones of ``known``."""
    cv2.setRNGSeed(0)
    step = max(1, len(known) // _MOST_SAMPLES)
    stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5)
    samples = np.ascontiguousarray(known[::step], np.float32)
    middles = cv2.kmeans(samples, _CLUSTERS, None, stop, 2, cv2.KMEANS_PP_CENTERS)[2]
    apart = [np.linalg.norm(colours - middle, axis=1) for middle in middles]
    return np.asarray(np.min(apart, axis=0), np.float32)


def _has_both(labels: Labels) -> bool:
    subject = int(np.isin(labels, (SUBJECT, MAYBE_SUBJECT)).sum())
    return 0 < subject < labels.size


def soft_edge(picture: Codes, mask: NDArray[np.bool_]) -> Alpha:
    """Return the alpha of a mask, float32 (H, W), 0…1: soft where the picture is soft at its edge."""
    radius = max(2, round(_EDGE * mask.shape[0]))
    alpha = mask.astype(np.float32)
    rows, columns = _bounds(mask, 4 * radius)
    shown, part = picture[rows, columns], alpha[rows, columns]
    band = _near_the_edge(part, radius)
    if not band.any():
        return alpha
    around = _near_the_edge(part, 2 * radius)
    guided = _guided(shown.astype(np.float32) / np.float32(255), part, radius, around)
    alpha[rows, columns] = np.where(band, guided.clip(0, 1), part)
    return alpha


def _bounds(mask: NDArray[np.bool_], margin: int) -> tuple[slice, slice]:
    """Return the rows and columns around a mask."""
    found = []
    for axis in (1, 0):
        places = np.flatnonzero(mask.any(axis=axis))
        if not len(places):
            return slice(0, 0), slice(0, 0)
        found.append(slice(max(0, places[0] - margin), places[-1] + 1 + margin))
    return found[0], found[1]


def _near_the_edge(alpha: Alpha, radius: int) -> NDArray[np.bool_]:
    size = (2 * radius + 1, 2 * radius + 1)
    if not alpha.size:
        return np.zeros(alpha.shape, bool)
    kernel = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, size)
    return np.asarray(cv2.dilate(alpha, kernel) > cv2.erode(alpha, kernel))


def _guided(
    guide: NDArray[np.float32], wanted: Alpha, radius: int, where: NDArray[np.bool_]
) -> Alpha:
    """Return ``wanted`` as a local linear function of the colours of ``guide``, (H, W, 3).

    Only what lies a radius inside ``where`` is right.
    """
    size = (2 * radius + 1, 2 * radius + 1)

    def mean(picture: NDArray[np.float32]) -> NDArray[np.float32]:
        return np.asarray(cv2.blur(picture, size), np.float32)

    colour, alpha = mean(guide), mean(wanted)
    shared = (mean(guide * wanted[..., None]) - colour * alpha[..., None])[where]
    covariance = np.empty((len(shared), 3, 3), np.float32)
    for one in range(3):
        for other in range(one, 3):
            both = mean(guide[..., one] * guide[..., other])[where]
            both -= colour[..., one][where] * colour[..., other][where]
            covariance[:, one, other] = covariance[:, other, one] = both
    covariance += _SIGMA_NOISE * np.eye(3, dtype=np.float32)
    slope, offset = np.zeros_like(guide), alpha.copy()
    slope[where] = np.linalg.solve(covariance, shared[..., None])[..., 0]
    offset -= (slope * colour).sum(axis=2)
    return np.asarray((mean(slope) * guide).sum(axis=2) + mean(offset), np.float32)
