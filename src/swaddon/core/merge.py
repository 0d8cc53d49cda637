"""Three-way merge of frozen values: what changed between two of them, made to a third."""

from dataclasses import fields, is_dataclass, replace
from typing import Any, TypeVar

Value = TypeVar("Value")


def merged(before: Value, after: Value, now: Value) -> Value:
    """``now`` with all that differs between ``before`` and ``after``; the rest of it stays as it is.

    Dataclasses are merged field by field. Tuples that grew are added to; of tuples of one length each item is merged.

    >>> merged((1, 2), (1, 2, 3), (5, 2))
    (5, 2, 3)
    """
    if before == after:
        return now
    if now == before:
        return after
    if is_dataclass(before) and type(before) is type(after) is type(now):
        changes = {
            item.name: merged(*(getattr(value, item.name) for value in (before, after, now))) for item in fields(before)
        }
        return replace(now, **changes)  # type: ignore[type-var]
    if isinstance(before, tuple) and isinstance(after, tuple) and isinstance(now, tuple):
        return _merged_items(before, after, now)  # type: ignore[return-value]
    return after


def _merged_items(before: tuple[Any, ...], after: tuple[Any, ...], now: tuple[Any, ...]) -> tuple[Any, ...]:
    if len(after) > len(before) and after[: len(before)] == before:
        return (*now, *(item for item in after[len(before) :] if item not in now))
    if len(before) == len(after) == len(now):
        return tuple(merged(*items) for items in zip(before, after, now, strict=True))
    return after
