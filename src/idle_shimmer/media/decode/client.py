"""Decodes users' files in separate processes, with limits.

Decoders are large programs, and the files are not trusted. A file that makes a decoder crash, hang
or use too much memory ends that process, not the server. Nor are its answers trusted: each must have
the form, the type and the size that was asked for.
"""

from collections.abc import Iterator
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from idle_shimmer.core.picture.encoding import Codes, DeepCodes
from idle_shimmer.core.picture.yuv import YUV_FORMS, flat_length
from idle_shimmer.media.decode.answers import (
    Form,
    checked_facts,
    checked_index,
    checked_sound_length,
    require_size,
)
from idle_shimmer.media.decode.forked import DecoderLimits, DecoderProcess
from idle_shimmer.media.errors import MediaError
from idle_shimmer.media.local_copies import at_hand
from idle_shimmer.media.read.demuxers import stated_size
from idle_shimmer.media.read.index import FrameIndex, MediaFacts
from idle_shimmer.media.read.reader import Size, fills, is_read_deep, layout_of
from idle_shimmer.media.sound.sound_parts import (
    LONGEST_PART_S,
    Sound,
    samples_in,
    silence,
    sound_parts,
)

_PEAKS = Form("float32", (None,))
_SOUND_PART = Form("float32", (None, 2), samples_in(LONGEST_PART_S) + 1)


class Decoder:
    """A connection to a process about one file. Not safe for two threads at once."""

    def __init__(self, path: Path, limits: DecoderLimits | None = None) -> None:
        self.path = path.absolute()
        self._limits = limits or DecoderLimits.usual()
        self._process: DecoderProcess | None = None

    def __enter__(self) -> "Decoder":
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """End the process; the next request starts another."""
        self._end(kill=False)

    def ask(
        self, do: str, form: Form | None = None, **request: Any
    ) -> tuple[dict[str, Any], NDArray[Any] | None]:
        """Return (answer, array or None); an array must be of ``form``.

        Raises MediaError for problems of the file, and where the process crashes or takes too long.
        """
        if self._process is None:
            at_hand(self.path)
        try:
            answer, array = self._running().ask(self._limits.seconds, form, do=do, **request)
        except TimeoutError:
            self._end(kill=True)
            raise MediaError(
                f"{self.path.name} took longer than {self._limits.seconds:g} s to read: convert it to"
                " another format first"
            ) from None
        except (EOFError, OSError, ValueError):
            self._end(kill=True)
            raise MediaError(
                f"{self.path.name} made the decoder stop: the file is damaged, or needs more memory"
                " than one file may take; convert it to another format first"
            ) from None
        if "problem" in answer:
            raise MediaError(str(answer["problem"]))
        return answer, array

    def _running(self) -> DecoderProcess:
        if self._process is None:
            self._process = DecoderProcess()
            self._process.ask(
                self._limits.seconds,
                do="confine",
                path=str(self.path),
                memory_bytes=self._limits.memory_bytes,
            )
            self._begin(self._process)
        return self._process

    def _begin(self, process: DecoderProcess) -> None:
        """Return the requests that a new process needs first."""

    def _end(self, *, kill: bool) -> None:
        process, self._process = self._process, None
        if process is not None:
            with suppress(OSError):
                process.end(kill=kill)


class RemoteReader(Decoder):
    """Like ``VideoReader``, but decodes in a separate process, which caches pictures."""

    def __init__(
        self,
        path: Path,
        size: Size | None = None,
        known: tuple[MediaFacts, FrameIndex] | None = None,
        limits: DecoderLimits | None = None,
        *,
        deep: bool = False,
    ) -> None:
        super().__init__(path, limits)
        self._deep = deep
        self.facts, self.index = known or probe_index(path, limits)
        self.size = size or (self.facts.width, self.facts.height)

    def __enter__(self) -> "RemoteReader":
        return self

    def read(self, number: int, *, whole: bool = False) -> Codes | DeepCodes:
        """Return picture ``number`` (0-based), (H, W, 3); see ``Reader``."""
        is_deep = is_read_deep(self.facts, deep=self._deep)
        width, height = (self.facts.width, self.facts.height) if whole else self.size
        form = Form("uint16" if is_deep else "uint8", (height, width, 3))
        _, picture = self.ask("read", form, number=number, whole=whole)
        return _required(picture, self.path)

    def planes(self, number: int, pixels: str, colour: str) -> NDArray[Any] | None:
        """Return the very planes of picture ``number``; see ``Reader``."""
        form = YUV_FORMS.get(pixels)
        facts = self.facts
        if form is None or (layout_of(facts.pixel_format), facts.colour) != (pixels, colour):
            return None
        if not fills(facts, self.size):
            return None
        wanted = Form("uint8" if form.bits == 8 else "uint16", (flat_length(form, self.size),))
        _, flat = self.ask("planes", wanted, number=number, pixels=pixels, colour=colour)
        return flat

    def _begin(self, process: DecoderProcess) -> None:
        process.ask(
            self._limits.seconds,
            do="open",
            path=str(self.path),
            size=self.size,
            facts=vars(self.facts),
            index=vars(self.index),
            deep=self._deep,
        )


def probe_facts(path: Path, limits: DecoderLimits | None = None) -> MediaFacts:
    """Return the facts of a file after decoding its start, middle and end as a trial.

    Raises MediaError where it is not a video, or its decoder crashes or takes too long.
    """
    with Decoder(path, limits) as decoder:
        facts, _ = _probed(decoder)
        decoder.ask("try_pictures", path=str(decoder.path))
    return facts


def probe_sound(path: Path, limits: DecoderLimits | None = None) -> Fraction:
    """Return how many seconds a file of sound alone has. Raises MediaError where it is none."""
    with Decoder(path, limits) as decoder:
        answer, _ = decoder.ask("sound_facts", path=str(decoder.path))
    return checked_sound_length(answer.get("duration_s"), path.name)


def probe_index(path: Path, limits: DecoderLimits | None = None) -> tuple[MediaFacts, FrameIndex]:
    """``read_facts`` in a separate process."""
    with Decoder(path, limits) as decoder:
        return _probed(decoder)


def _probed(decoder: Decoder) -> tuple[MediaFacts, FrameIndex]:
    # Unpacking a few megabytes of it may take a minute.
    if (size := stated_size(decoder.path)) is not None:
        require_size(size, decoder.path.name)
    answer, _ = decoder.ask("facts", path=str(decoder.path))
    index = checked_index(answer.get("index"), decoder.path.name)
    return checked_facts(answer.get("facts"), index, decoder.path.name), index


def _required(array: NDArray[Any] | None, path: Path) -> NDArray[Any]:
    if array is None:
        raise MediaError(f"{path.name} made the decoder answer wrongly: convert it first")
    return array


def remote_peaks(path: Path) -> list[float]:
    """``waveform.peaks`` in a separate process."""
    with Decoder(path) as decoder:
        _, found = decoder.ask("peaks", _PEAKS, path=str(decoder.path))
    return [round(float(each), 3) for each in _required(found, path)]


def remote_sound(path: Path | None, start_s: Fraction, duration_s: Fraction) -> Sound:
    """``sound.read_sound`` in a separate process."""
    parts = remote_sound_parts(path, start_s, duration_s)
    return np.concatenate([silence(Fraction(0)), *parts])


def remote_sound_parts(
    path: Path | None, start_s: Fraction, duration_s: Fraction
) -> Iterator[Sound]:
    """``sound.sound_parts`` in a separate process."""
    if path is None:
        yield from sound_parts(None, start_s, duration_s)
        return
    with Decoder(path) as decoder:
        decoder.ask(
            "sound", path=str(decoder.path), start_s=str(start_s), duration_s=str(duration_s)
        )
        while True:
            _, part = decoder.ask("sound_part", _SOUND_PART)
            if part is None:
                return
            yield part
