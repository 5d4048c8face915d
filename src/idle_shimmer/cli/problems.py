"""How commands fail: one clear line on standard error and exit 2, in place of a trace."""

import errno
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import NoReturn

from idle_shimmer.core.errors import ShimmerError

# No space, no quota, or larger than files may be.
_FULL = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)


@contextmanager
def plain_errors() -> Iterator[None]:
    """Turn errors that are meant for the user into one line and exit 2."""
    try:
        yield
    except ShimmerError as error:
        refuse(str(error))
    except MemoryError as error:
        refuse(str(error) or "there is not enough memory: use a smaller size")
    except PermissionError as error:
        refuse(f"{error.filename}: no permission to read or write it")
    except OSError as error:
        if error.errno in _FULL:
            refuse(
                f"{error.filename or 'the output'}: the disk is full: free some space, or write to"
                " another disk"
            )
        refuse(f"{error.filename or 'file'}: {error.strerror or error}")


def refuse(message: str) -> NoReturn:
    """Print one line on standard error and exit with 2."""
    print(" ".join(f"idle-shimmer: {message}".split()), file=sys.stderr)
    raise SystemExit(2)
