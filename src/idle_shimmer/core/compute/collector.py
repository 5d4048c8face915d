"""Keeps Python's search for circular garbage out of the way.

Loading makes some 200 000 objects, which stay. To search among them takes 0.1 s each time, in which
the interpreter does nothing else.
"""

import gc

_USUAL = gc.get_threshold()
# More objects than one search is worth while modules are loaded.
_WHILE_LOADING = 100_000


def postpone_collection() -> None:
    """Collect seldom, until ``resume_collection``: for the start of a process."""
    gc.set_threshold(_WHILE_LOADING, *_USUAL[1:])


def resume_collection() -> None:
    """Collect as usual from now on, but never among the objects that there are by now."""
    gc.freeze()
    gc.set_threshold(*_USUAL)
