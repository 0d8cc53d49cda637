"""What a stage may read of a request: the paths that it declared, and nothing else.

A result is kept under a key made of the values at the declared paths. A stage that read more would give stale results,
so it gets a view of the request in which nothing else can be reached. Properties and methods work on the view too, so
that what they read counts.
"""

import inspect
from types import FunctionType
from typing import Any

from swaddon.core.artwork.artwork import Artwork

_MISSING = object()


class UndeclaredRead(Exception):  # noqa: N818
    """A stage reads what its key does not hold: a fault of the program."""


class Declared:
    """A view of a value through the paths declared for it."""

    def __init__(self, value: Any, paths: tuple[str, ...], at: str = "") -> None:
        self._value, self._paths, self._at = value, paths, at

    def __getattr__(self, name: str) -> Any:
        value, path = self._value, f"{self._at}.{name}" if self._at else name
        own = inspect.getattr_static(type(value), name, _MISSING)
        if any(path == declared or path.startswith(declared + ".") for declared in self._paths):
            return getattr(value, name)
        if isinstance(own, property) and own.fget is not None:
            return own.fget(self)
        if isinstance(own, FunctionType):
            return own.__get__(self)
        if any(declared.startswith(path + ".") for declared in self._paths):
            return Declared(getattr(value, name), self._paths, path)
        if own is _MISSING and not hasattr(value, name):
            raise AttributeError(f"{type(value).__name__} has no {name}")
        raise UndeclaredRead(f"{path} is read, but only {', '.join(self._paths) or 'nothing'} is declared")


def declared_values(request: Any, paths: tuple[str, ...]) -> tuple[Any, ...]:
    """The values at some paths as they count for a key."""
    return tuple(_plain(_at(request, path)) for path in paths)


def _at(value: Any, path: str) -> Any:
    for name in path.split("."):
        value = getattr(value, name)
    return value


def _plain(value: Any) -> Any:
    """A value whose ``repr`` tells it from others: artwork by its content, mappings in order."""
    if isinstance(value, Artwork):
        return value.content_id, value.file_name, value.file_format, value.page
    if isinstance(value, dict):
        return tuple(sorted((key, _plain(item)) for key, item in value.items()))
    return "" if callable(value) and not isinstance(value, type) else value
