"""What a render renders, as it was when it was asked for: stored as JSON, turned into a plan."""

from typing import Any

from pydantic import BaseModel, ConfigDict, ValidationError, model_validator

from idle_shimmer.core.animation.shot import WHOLE, Shot
from idle_shimmer.core.animation.timing import Window, parse_rate
from idle_shimmer.core.errors import RecipeError
from idle_shimmer.core.framing import UNFRAMED, Framing
from idle_shimmer.core.recipe import problems_of
from idle_shimmer.core.subject.strokes import Strokes
from idle_shimmer.media.write.output_formats import Quality, output_format
from idle_shimmer.output.plan import (
    EditPlan,
    OutputSettings,
    PlannedClip,
    PlannedCut,
    SizeChoice,
    What,
)
from idle_shimmer.output.sound.laid_music import Music
from idle_shimmer.output.subject.opened_subject import MarkedSubject
from idle_shimmer.settings import settings
from idle_shimmer.store.clips.clips import path_of
from idle_shimmer.store.cuts.cuts import CutDocument


class PlacedSnapshot(BaseModel):
    """A placed clip."""

    name: str
    file: str
    in_frame: int
    out_frame: int
    framing: Framing = UNFRAMED
    muted: bool = False
    gain_db: float = 0.0
    crossfade: int = 0
    deinterlaced: bool = True
    shot: Shot = WHOLE
    subject: "SubjectSnapshot | None" = None


class SubjectSnapshot(BaseModel):
    """The strokes that mark a subject, and the file of its mattes, from picture ``first`` on, if it is made."""

    strokes: list[Strokes]
    file: str = ""
    first: int = 0
    last: int = -1

    def marked(self) -> MarkedSubject:
        """Return it; its file lies in the folder of mattes."""
        file = settings().mattes / self.file if self.file else None
        return MarkedSubject(tuple(self.strokes), file, range(self.first, self.last + 1))


class MusicSnapshot(BaseModel):
    """The music of an edit."""

    file: str
    offset_s: float
    gain_db: float
    duration_s: float
    name: str = "music"

    def music(self) -> Music:
        """Return it; its file lies in the store."""
        file = path_of(self.file)
        return Music(file, self.offset_s, self.gain_db, self.duration_s, self.name)


class Snapshot(BaseModel):
    """Everything that is rendered. ``cuts[i]`` is between ``placed[i]`` and ``placed[i + 1]``.

    Of a single window only the clips and cuts around it are stored: ``place`` is that of its cut,
    ``first_number`` the number of the first cut in the edit, ``first_frame`` the edit frame at which the
    first clip begins.
    """

    model_config = ConfigDict(extra="ignore")

    width: int
    height: int
    rate: str
    placed: list[PlacedSnapshot]
    cuts: list[CutDocument]
    edit_name: str = "Edit"
    what: What = "edit"
    place: int | None = None
    first_number: int = 1
    first_frame: int = 0
    format: str = "h264"
    quality: Quality = "standard"
    size: SizeChoice = "full"
    handles: int = 0
    sound: bool = True
    accents_apart: bool = False
    music: MusicSnapshot | None = None
    name: str = "render"
    window_name: str = "{edit} cut {cut} {recipe}"

    @model_validator(mode="before")
    @classmethod
    def _from_former_form(cls, document: Any) -> Any:
        """Read snapshots that say by their ``margin`` what they are."""
        if not isinstance(document, dict) or "what" in document or document.get("margin") is None:
            return document
        return {**document, "what": "window", "place": 0, "handles": document["margin"]}

    @classmethod
    def read(cls, document: dict[str, Any]) -> "Snapshot":
        """Return a stored snapshot. Raises RecipeError that names what cannot be read."""
        try:
            return cls.model_validate(document)
        except ValidationError as error:
            raise RecipeError(problems_of(error.errors())) from error

    def plan(self) -> EditPlan:
        """Return the plan; files lie in the store."""
        return EditPlan(
            self.edit_name,
            (self.width, self.height),
            parse_rate(self.rate),
            tuple(
                PlannedClip(
                    each.name,
                    path_of(each.file),
                    each.in_frame,
                    each.out_frame,
                    each.framing,
                    each.muted,
                    each.gain_db,
                    each.crossfade,
                    None if each.subject is None else each.subject.marked(),
                    each.deinterlaced,
                    each.shot,
                )
                for each in self.placed
            ),
            tuple(
                PlannedCut(Window(each.before, each.after), each.recipe, self.first_number + n)
                for n, each in enumerate(self.cuts)
            ),
            self.first_frame,
            None if self.music is None else self.music.music(),
        )

    def settings(self) -> OutputSettings:
        """Return how it is written."""
        return OutputSettings(
            output_format(self.format),
            self.quality,
            self.size,
            self.handles,
            self.sound,
            self.accents_apart,
            self.name,
            self.window_name,
        )

    @property
    def suffix(self) -> str:
        """The suffix of the file: of several clips it is a ZIP."""
        return suffix_of(self.what, self.format)


def suffix_of(what: What, output: str) -> str:
    """Return the suffix of a file with ``what`` in a format."""
    return output_format(output).suffix if what in ("window", "edit") else ".zip"


def snapshot_suffix(document: dict[str, Any]) -> str:
    """Return the suffix of a stored snapshot's file, whatever else can be read of it."""
    what, output = document.get("what", "edit"), document.get("format", "h264")
    return suffix_of(what, output)
