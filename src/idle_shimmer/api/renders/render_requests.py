"""What a new render is to be: the request, completed by the last choice, checked, and made a snapshot."""

import uuid

from pydantic import BaseModel, ConfigDict, Field
from sqlalchemy.orm import Session

from idle_shimmer.api.server.fields import Name
from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.errors import InvalidValue, ShimmerError
from idle_shimmer.edit.described import described
from idle_shimmer.edit.played import played_of, slip_rooms
from idle_shimmer.edit.snapshot import (
    Snapshot,
    suffix_of,
)
from idle_shimmer.edit.snapshot_making import snapshot_of
from idle_shimmer.limits import MAX_NAME_LENGTH
from idle_shimmer.media.write.output_formats import Quality, output_format
from idle_shimmer.output.estimates import Rates, megapixels, usual_rates
from idle_shimmer.output.names import edit_name, window_name
from idle_shimmer.output.plan import MAX_HANDLES, EditPlan, OutputSettings, SizeChoice, What
from idle_shimmer.store.cuts import cuts
from idle_shimmer.store.edits import edits, placed_clips
from idle_shimmer.store.renders.render_choices import last_choice, measured_rates
from idle_shimmer.store.tables import Cut, Edit, Render
from idle_shimmer.transition.missing_frames import require_frames

WINDOW_PATTERN, EDIT_PATTERN = "{edit} cut {cut} {recipe}", "{edit}"


class RenderChoice(BaseModel):
    """What is chosen in the Render dialog, and remembered.

    ``window_name`` and ``edit_name`` are patterns of file names, see ``output.names``.
    """

    what: What = "edit"
    format: str = "h264"
    quality: Quality = "standard"
    size: SizeChoice = "full"
    handles: int = Field(12, ge=0, le=MAX_HANDLES)
    sound: bool = True
    accents_apart: bool = False
    window_name: str = Field(WINDOW_PATTERN, max_length=MAX_NAME_LENGTH)
    edit_name: str = Field(EDIT_PATTERN, max_length=MAX_NAME_LENGTH)


class NewRender(BaseModel):
    """A new render, of an edit or of one cut; what is left out is the last choice.

    ``what`` is ``window`` (of ``cut``), ``windows`` (every treated window as a file of its own),
    ``edit`` or ``round_trip``. ``handles`` are the untreated frames on each side of a window, as far as
    the clips have them. With ``accents_apart`` accents are a sound track of their own where the format
    holds several. ``name`` is a pattern: of each window where windows are rendered, else of the file.
    """

    model_config = ConfigDict(extra="forbid")

    edit: uuid.UUID | None = None
    cut: uuid.UUID | None = None
    what: What | None = None
    format: str | None = None
    quality: Quality | None = None
    size: SizeChoice | None = None
    handles: int | None = Field(None, ge=0, le=MAX_HANDLES)
    sound: bool | None = None
    accents_apart: bool | None = None
    name: Name | None = None

    def completed(self, session: Session) -> RenderChoice:
        """Return the choice, completed by the last one. Raises InvalidValue where it has no subject."""
        if (self.edit is None) == (self.cut is None):
            raise InvalidValue("choose an edit or a cut to render", field="edit")
        if self.cut is None and self.what == "window":
            raise InvalidValue("choose the cut whose window is rendered", field="cut")
        given = self.model_dump(exclude_none=True, exclude={"edit", "cut", "name"})
        choice = RenderChoice.model_validate({**last_choice(session), **given})
        if self.what is None and self.cut is not None:
            choice.what = "window"
        elif self.what is None and choice.what == "window":
            choice.what = "edit"
        if self.name is not None:
            choice = choice.model_copy(update={_name_field(choice.what): self.name})
        output_format(choice.format)
        return choice


def _name_field(what: What) -> str:
    return "window_name" if what in ("window", "windows") else "edit_name"


class Prepared:
    """A request together with the edit that it is about."""

    def __init__(self, session: Session, new: NewRender) -> None:
        self._session = session
        self.choice = new.completed(session)
        self.cut = cuts.cut_by_id(session, new.cut) if new.cut is not None else None
        self.edit: Edit = (
            self.cut.outgoing.edit
            if self.cut is not None
            else edits.edit_by_id(session, _given(new.edit), whole=True)
        )
        self._all_cuts = edits.cuts_of(self.edit)
        self.place = (
            [each.id for each in self._all_cuts].index(self.cut.id)
            if self.cut is not None and self.choice.what == "window"
            else None
        )
        self.snapshot = self._snapshot()
        self.plan: EditPlan = self.snapshot.plan()
        self.settings: OutputSettings = self.snapshot.settings()
        if self.choice.what == "round_trip" and self.settings.output.video is None:
            raise InvalidValue(
                "a round trip needs a video format: choose ProRes or lossless", field="format"
            )

    def _snapshot(self) -> Snapshot:
        choice = self.choice
        made = snapshot_of(self._session, self.edit, self.place).model_copy(
            update={
                "what": choice.what,
                "format": choice.format,
                "quality": choice.quality,
                "size": choice.size,
                "handles": 0 if choice.what == "edit" else choice.handles,
                "sound": choice.sound,
                "accents_apart": choice.accents_apart,
                "window_name": choice.window_name,
            }
        )
        return made.model_copy(update={"name": self._name_in(made)})

    def _name_in(self, made: Snapshot) -> str:
        """Return the name of the file. Raises InvalidValue for one that is not possible."""
        choice, plan = self.choice, made.plan()
        if made.place is not None:
            return window_name(choice.window_name, plan, made.place)
        name = edit_name(choice.edit_name, plan)
        if choice.what in ("windows", "round_trip") and plan.cuts:
            # Also the names inside must be possible.
            window_name(choice.window_name, plan, 0)
        return edit_name("{edit} windows", plan) if choice.what == "windows" else name

    def file_name(self) -> str:
        """Return the name of the file as it is downloaded."""
        return self.settings.name + suffix_of(self.choice.what, self.choice.format)

    def require_frames(self) -> None:
        """Raise InvalidValue where a window lacks frames, or nothing is to be rendered."""
        places = range(len(self._all_cuts)) if self.place is None else [self.place]
        rooms, played = slip_rooms(self.edit), played_of(self._session, self.edit)
        for place in places:
            near = place if self.snapshot.place is None else self.snapshot.place
            document = self.snapshot.cuts[near]
            transition = described(self.edit, place, document, played, rooms[place])
            try:
                require_frames(transition)
            except ShimmerError as error:
                message = f"cut {place + 1}: {error.message}"
                raise InvalidValue(message, field=error.field) from error
        if self.choice.what == "windows" and not self.plan.treated():
            raise InvalidValue(
                "no cut of this edit has a filter or a mix: give one a recipe first", field="what"
            )

    def total_frames(self) -> int:
        """Return about how many frames are rendered: handles are counted in full."""
        plan, what = self.plan, self.choice.what
        if what == "edit":
            return plan.frame_count
        places = [self.snapshot.place] if what == "window" else plan.treated()
        windows = [plan.cuts[place].window for place in places if place is not None]
        count = sum(each.before + each.after + 2 * self.settings.handles for each in windows)
        if what == "round_trip":
            count += sum(
                run.end - run.first for run in plan.runs() if not self._is_conformed(run.place)
            )
        return count

    def _is_conformed(self, place: int) -> bool:
        placed = self.edit.placed[place]
        clip, framing = placed.clip, placed_clips.framing_of(placed)
        return (
            not (framing.moves or framing.grades or clip.still)
            and not (clip.has_sound and self.plan.is_sound_changed(place))
            and (clip.width, clip.height) == (self.edit.width, self.edit.height)
            and clip.constant_rate
            and parse_rate(clip.rate) == parse_rate(self.edit.rate)
        )

    def megapixels(self) -> float:
        """Return how many million pixels are written."""
        return megapixels(self.settings.size_of(self.plan.size), self.total_frames())

    def rates(self) -> Rates:
        """Return what a million pixels will take."""
        choice = self.choice
        measured = measured_rates(self._session, choice.format, choice.quality)
        return Rates(*measured) if measured else usual_rates(choice.format, choice.quality)

    def render(self) -> Render:
        """Return the row, not yet added."""
        title = self.file_name()
        width, height = self.settings.size_of(self.plan.size)
        return Render(
            edit_id=self.edit.id,
            cut_id=self.cut.id if self.cut is not None and self.place is not None else None,
            title=title,
            snapshot=self.snapshot.model_dump(mode="json", by_alias=True, exclude_none=True),
            total_frames=self.total_frames(),
            settings={
                "what": self.choice.what,
                "format": self.choice.format,
                "quality": self.choice.quality,
                "width": width,
                "height": height,
                "file_name": title,
                "version": self.edit.version if self.place is None else _version(self.cut),
                "megapixels": self.megapixels(),
            },
        )


def _given(edit_id: uuid.UUID | None) -> uuid.UUID:
    if edit_id is None:
        raise InvalidValue("choose an edit or a cut to render", field="edit")
    return edit_id


def _version(cut: Cut | None) -> int:
    return 0 if cut is None else cut.version
