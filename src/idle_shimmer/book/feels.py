"""The feels by which recipes are looked for, and by which the book is in order."""

from idle_shimmer.core.recipe import Recipe

# Tags that a built-in recipe may have, in their order. Accents inside one shot come last: most cuts want a
# transition.
ACCENT = "accent"
FEELS = ("soft", "fast", "bright", "glitch", "turning", "rolling", ACCENT)


def feel_of(recipe: Recipe) -> str | None:
    """Return the feel under which a recipe stands: accent, else its first; None without one."""
    if ACCENT in recipe.tags:
        return ACCENT
    return next((tag for tag in recipe.tags if tag in FEELS), None)


def place_of(feel: str | None) -> int:
    """Return where a feel stands in the book: recipes without one just before the accents."""
    return (
        FEELS.index(feel) if feel is not None and feel != ACCENT else len(FEELS) + (feel == ACCENT)
    )
