"""Commands whose options are the fields of a dataclass: one option each, told to Typer by its annotation."""

from collections.abc import Callable
from dataclasses import MISSING, fields
from inspect import Parameter, Signature
from typing import Any, TypeVar, get_type_hints

T = TypeVar("T")


def taking(options: type[T]) -> Callable[[Callable[[T], None]], Callable[..., None]]:
    """Return a decorator for a command that is given ``options``, a dataclass of keywords."""

    def decorate(command: Callable[[T], None]) -> Callable[..., None]:
        def run(**values: Any) -> None:
            command(options(**values))

        hints = get_type_hints(options, include_extras=True)
        parameters = [
            Parameter(
                each.name,
                Parameter.KEYWORD_ONLY,
                default=Parameter.empty if each.default is MISSING else each.default,
                annotation=hints[each.name],
            )
            for each in fields(options)  # type: ignore[arg-type]
        ]
        run.__signature__ = Signature(parameters)  # type: ignore[attr-defined]
        run.__annotations__ = {each.name: each.annotation for each in parameters}
        run.__name__, run.__doc__ = command.__name__, command.__doc__
        return run

    return decorate
