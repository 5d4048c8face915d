"""The errors that the core raises: what happened, to which field, and what to do."""


class ShimmerError(Exception):
    """Base of every error of this project whose message is meant to be read by the editor.

    ``field`` is the path of the offending field (``filters[0].length.peak``) or None.
    """

    def __init__(self, message: str, *, field: str | None = None) -> None:
        super().__init__(message)
        self.message = message
        self.field = field

    def __str__(self) -> str:
        return f"{self.field}: {self.message}" if self.field else self.message


class InvalidValue(ShimmerError, ValueError):
    """Give the field a value inside its range, of the kind that it takes."""


class RecipeError(ShimmerError, ValueError):
    """Correct the named fields of the recipe; ``problems`` lists every one of them."""

    def __init__(self, problems: list[tuple[str, str]]) -> None:
        field, message = problems[0]
        super().__init__(message, field=field or None)
        self.problems = problems

    def __str__(self) -> str:
        return "; ".join(f"{path}: {text}" if path else text for path, text in self.problems)

    def messages(self) -> str:
        """Return the messages without the fields, as a text to be shown."""
        text = "; ".join(text for _, text in self.problems)
        return text[:1].upper() + text[1:]


class SpareFramesMissing(ShimmerError, ValueError):
    """Shorten the mix's span, or move the in or out point, until the clips have the frames."""
