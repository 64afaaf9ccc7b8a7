"""Names of a package that are imported when they are first asked for (PEP 562)."""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping
from importlib import import_module


def on_demand(package: str, module_of: Mapping[str, str]) -> Callable[[str], object]:
    """The package's `__getattr__`: `module_of` tells for each name where it is defined."""

    def get(name: str) -> object:
        if name not in module_of:
            raise AttributeError(f"module '{package}' has no attribute '{name}'")
        value = getattr(import_module(module_of[name]), name)
        setattr(sys.modules[package], name, value)
        return value

    return get
