"""The feels by which recipes are looked for: tags that a built-in recipe may have, in their order."""

FEELS = ("soft", "fast", "bright", "glitch", "turning", "rolling", "accent")
