"""The tables. Every change to them is a migration in ``migrations/versions``."""

from idle_shimmer.store.tables.account_tables import Account, SignedIn, SignInFailure
from idle_shimmer.store.tables.base import Base
from idle_shimmer.store.tables.clip_tables import BeatDetection, Clip, CutDetection, SubjectMatte
from idle_shimmer.store.tables.edit_tables import (
    Cut,
    CutRevision,
    CutVariant,
    Edit,
    EditHistoryStep,
    FilterPreset,
    PlacedClip,
    SavedRecipe,
)
from idle_shimmer.store.tables.installation_tables import Installation
from idle_shimmer.store.tables.render_tables import Render, RenderChoice, RenderSegment

__all__ = [
    "Account",
    "Base",
    "BeatDetection",
    "Clip",
    "Cut",
    "CutDetection",
    "CutRevision",
    "CutVariant",
    "Edit",
    "EditHistoryStep",
    "FilterPreset",
    "Installation",
    "PlacedClip",
    "Render",
    "RenderChoice",
    "RenderSegment",
    "SavedRecipe",
    "SignInFailure",
    "SignedIn",
    "SubjectMatte",
]
