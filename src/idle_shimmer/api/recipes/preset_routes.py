"""Presets: single filters that the editor has saved, to be added to other transitions."""

import uuid
from typing import Annotated, Any

from fastapi import APIRouter
from pydantic import BaseModel, Field

from idle_shimmer.core.animation.timing import parse_rate
from idle_shimmer.core.placed import at_rate
from idle_shimmer.core.recipe import Recipe, recipe_to_json
from idle_shimmer.store import filter_presets
from idle_shimmer.store.database import session_scope
from idle_shimmer.store.tables import FilterPreset

router = APIRouter(prefix="/api/presets", tags=["recipes"])


class PresetToSave(BaseModel):
    """A filter to save, as the only one of a recipe; one of its name is replaced only with ``overwrite``."""

    name: Annotated[str, Field(max_length=200)]
    recipe: Recipe
    overwrite: bool = False


class PresetOut(BaseModel):
    """A preset; ``filter`` has every field written out, and is null where it cannot be read.

    Its times in frames are counted at the rate that was asked for.
    """

    id: uuid.UUID
    name: str
    filter: dict[str, Any] | None

    @classmethod
    def of(cls, preset: FilterPreset, recipe: Recipe | None, rate: str) -> "PresetOut":
        """Return the answer for a preset."""
        if recipe is None:
            return cls(id=preset.id, name=preset.name, filter=None)
        document = recipe_to_json(at_rate(recipe, parse_rate(rate)))
        return cls(id=preset.id, name=preset.name, filter=document["filters"][0])


@router.get("")
def get_presets(rate: str = "25") -> list[PresetOut]:
    """Return every preset by name; times in frames are counted at ``rate``."""
    parse_rate(rate)
    with session_scope() as session:
        return [PresetOut.of(*each, rate) for each in filter_presets.presets(session)]


@router.post("", status_code=201)
def save_preset(new: PresetToSave, rate: str = "25") -> PresetOut:
    """Save a filter under a name."""
    with session_scope() as session:
        saved = filter_presets.save(session, new.name, new.recipe, overwrite=new.overwrite)
        return PresetOut.of(saved, new.recipe, rate)


@router.delete("/{preset_id}", status_code=204)
def delete_preset(preset_id: uuid.UUID) -> None:
    """Delete a preset; transitions that were made with it stay as they are."""
    with session_scope() as session:
        filter_presets.delete(session, preset_id)
