"""Pictures, references and paths that several tests share."""

import os
from pathlib import Path

import cv2
import numpy as np
import pytest
import skimage.data
import structlog
from numpy.typing import NDArray

from idle_shimmer.core.compute.parallel import set_threads
from tests.support.accuracy_report import write_report

ROOT = Path(__file__).parent.parent


def stand_beside_others(process: str) -> None:
    """Take one thread, and a data folder of this process of the tests alone."""
    set_threads(1)
    data = os.environ.get("IDLE_SHIMMER_DATA")
    if data is not None:
        own = Path(f"{data}-{process}")
        own.mkdir(exist_ok=True)
        if not (own / "demo").exists():
            (own / "demo").symlink_to(Path(data, "demo").resolve())
        os.environ["IDLE_SHIMMER_DATA"] = str(own)


if "PYTEST_XDIST_WORKER" in os.environ:
    stand_beside_others(os.environ["PYTEST_XDIST_WORKER"])


# By default every variable of every call is written out with an error, which takes half a minute.
structlog.configure(
    processors=[
        *structlog.get_config()["processors"][:-1],
        structlog.dev.ConsoleRenderer(exception_formatter=structlog.dev.plain_traceback),
    ]
)


def pytest_terminal_summary(terminalreporter: pytest.TerminalReporter) -> None:
    reports = [*terminalreporter.getreports("passed"), *terminalreporter.getreports("failed")]
    write_report(ROOT / "docs" / "accuracy.md", terminalreporter.config, reports)


def psnr(one: NDArray, other: NDArray) -> float:
    """Peak signal-to-noise ratio in dB of two pictures in 0…1, clipped as 8-bit output would be."""
    error = np.mean((np.clip(one, 0, 1).astype(np.float64) - np.clip(other, 0, 1)) ** 2)
    return float("inf") if error == 0 else float(-10 * np.log10(error))


def code_psnr(one: NDArray, other: NDArray) -> float:
    """Peak signal-to-noise ratio in dB of two uint8 pictures."""
    return psnr(one / 255, other / 255)


@pytest.fixture(scope="session")
def photo() -> NDArray[np.float32]:
    """A photograph, float32 (300, 420, 3) in 0…1."""
    return (skimage.data.astronaut()[60:360, 40:460] / 255).astype(np.float32)


@pytest.fixture(scope="session")
def codes_pair() -> tuple[NDArray[np.uint8], NDArray[np.uint8]]:
    """Two photographs as uint8 codes, (360, 640, 3)."""
    return tuple(
        cv2.resize(picture, (640, 360), interpolation=cv2.INTER_AREA)
        for picture in (skimage.data.astronaut(), skimage.data.coffee())
    )
