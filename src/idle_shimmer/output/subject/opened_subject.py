"""The subjects of opened clips: mattes that are made already, or from strokes when they are needed."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryDirectory

from idle_shimmer.core.subject.strokes import Strokes
from idle_shimmer.media.local_copies import at_hand
from idle_shimmer.media.matte_video import Alpha, MatteVideo
from idle_shimmer.media.read.rate_conversion import RateConvertedClip
from idle_shimmer.media.read.reader import Reader, Size, VideoReader
from idle_shimmer.output.subject.matte_making import make_mattes


@dataclass(frozen=True)
class MarkedSubject:
    """Strokes on a clip, and the file of the mattes of ``pictures``, where it is made."""

    strokes: tuple[Strokes, ...]
    file: Path | None = None
    pictures: range = range(0)


class OpenedSubject:
    """The mattes of ``frames`` of a clip at the edit's rate, at the clip's frame size."""

    def __init__(
        self,
        clip: RateConvertedClip,
        marked: MarkedSubject,
        frames: range,
        open_reader: Callable[[Path, Size], Reader] = VideoReader,
    ) -> None:
        self._clip, self._marked, self._frames = clip, marked, frames
        self._open_reader = open_reader
        self._video: MatteVideo | None = None
        self._folder: TemporaryDirectory[str] | None = None

    def alpha(self, number: int) -> Alpha:
        """Return the matte of frame ``number``: float32 (H, W), 0…1."""
        if self._video is None:
            self._video = self._opened()
        return self._video.alpha(self._clip.picture_number(number))

    def close(self) -> None:
        """Close the file; one that was made here is deleted."""
        if self._video is not None:
            self._video.close()
        if self._folder is not None:
            self._folder.cleanup()
        self._video = self._folder = None

    def _opened(self) -> MatteVideo:
        wanted = [self._clip.picture_number(number) for number in self._frames]
        first, last = min(wanted), max(wanted)
        made, size = self._marked, self._clip.reader.size
        has_all = first in made.pictures and last in made.pictures
        if made.file is not None and has_all and at_hand(made.file).is_file():
            return MatteVideo(made.file, made.pictures[0], size)
        self._folder = TemporaryDirectory(prefix="subject-")
        file = Path(self._folder.name) / "mattes.mkv"
        path, strokes = self._clip.reader.path, list(made.strokes)
        make_mattes(path, strokes, first, last, file, lambda _: None, self._open_reader)
        return MatteVideo(file, first, size)
