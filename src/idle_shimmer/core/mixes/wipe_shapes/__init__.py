"""The shapes of wipes: one file a family, found in this package.

Source of the names, subtypes and codes: W3C SMIL 3.0, Transition Effects, table of transition types
(SMPTE wipe codes; from memory). The drawings are our own.
"""

from importlib import import_module
from pkgutil import iter_modules

for _module in iter_modules(__path__):
    import_module(f"{__name__}.{_module.name}")
