"""Settings as they come from outside: checked by what is declared of them, and turned into the core's values."""

from dataclasses import MISSING, fields, is_dataclass
from functools import cache
from types import NoneType, UnionType
from typing import Annotated, Any, Union, get_args, get_origin, get_type_hints

from pydantic import BaseModel, ConfigDict, Field, create_model

from swaddon.core.colour.spaces import rgb_from_hex
from swaddon.core.schema import FLAT, Pattern, hints_of, is_colour, kinds_of_items

Colour = Annotated[str, Field(pattern="^#[0-9a-fA-F]{6}$")]


class Strict(BaseModel):
    """A model that refuses what it does not know."""

    model_config = ConfigDict(extra="forbid")


@cache
def model_of(settings: type) -> type[Strict]:
    """A model of a settings class, with the types, ranges and defaults that are declared there."""
    hints, made = get_type_hints(settings, include_extras=True), {}
    for item in fields(settings):
        if FLAT in item.metadata:
            inner = model_of(hints[item.name]).model_fields
            for of, name in item.metadata[FLAT].items():
                made[name] = (inner[of].rebuild_annotation(), inner[of])
        else:
            made[item.name] = (_annotation(hints[item.name]), _default(item))
    return create_model(settings.__name__, __base__=Strict, **made)  # type: ignore[call-overload]


def _default(item: Any) -> Any:
    """The field's own default; settings within settings may be left out."""
    if item.default is not MISSING:
        return item.default
    if item.default_factory is not MISSING:
        settings: type = type(item.default_factory())
        return Field(default_factory=model_of(settings))
    return ...


def _annotation(hint: Any) -> Any:
    if is_colour(hint):
        return Colour
    if is_dataclass(hint):
        return model_of(hint)  # type: ignore[arg-type]
    origin, parts = get_origin(hint), get_args(hint)
    if origin is Annotated:
        marks = [Field(pattern=f"^(?:{mark.regex})$") if isinstance(mark, Pattern) else mark for mark in parts[1:]]
        return Annotated[(_annotation(parts[0]), *marks)]
    if origin in (Union, UnionType):
        return Union[tuple(_annotation(part) for part in parts)]  # noqa: UP007
    if origin is tuple:
        return tuple[tuple(part if part is Ellipsis else _annotation(part) for part in parts)]  # type: ignore[misc]
    return hint


def value_of(settings: type, model: BaseModel) -> Any:
    """The settings that a checked model holds."""
    hints, made = hints_of(settings), {}
    for item in fields(settings):
        hint = hints[item.name]
        if FLAT in item.metadata:
            made[item.name] = hint(**{of: getattr(model, name) for of, name in item.metadata[FLAT].items()})
        else:
            made[item.name] = _value(hint, getattr(model, item.name))
    return settings(**made)


def _value(hint: Any, value: Any) -> Any:
    if get_origin(hint) in (Union, UnionType):
        if value is None:
            return None
        hint = next(part for part in get_args(hint) if part is not NoneType)
    if is_colour(hint):
        return rgb_from_hex(value) if isinstance(value, str) else value
    if is_dataclass(hint):
        return value_of(hint, value)  # type: ignore[arg-type]
    if get_origin(hint) is tuple and isinstance(value, tuple | list):
        return tuple(_value(of, item) for item, of in zip(value, kinds_of_items(hint, len(value)), strict=False))
    return value
