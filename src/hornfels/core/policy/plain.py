"""Settings with spans in seconds, as scripts and the API see them; None for *never* and *until
unlocked*.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypedDict, TypeVar

from hornfels.core.policy.catalogue import (
    TEMPLATE_SETTINGS,
    PlainValue,
    SettingKey,
    TemplateKey,
    Value,
)
from hornfels.core.values.time import seconds, span_from_seconds
from hornfels.refusals import FieldsError


class PlainSettings(TypedDict):
    """All settings of one policy."""

    min_length: int
    complexity: bool
    history_length: int
    reversible_encryption: bool
    min_age: int | float
    max_age: int | float | None
    lockout_threshold: int
    lockout_window: int | float
    lockout_duration: int | float | None


def plain(key: TemplateKey, value: Value) -> PlainValue:
    """A setting's value with a span in seconds."""
    return seconds(value) if TEMPLATE_SETTINGS[key].kind == "span" else value


def value_of(key: TemplateKey, given: PlainValue) -> Value:
    """The setting's value that is meant by a plain one.

    Raises `FieldsError` for one of another kind, and for None where there is no value without end.
    """
    setting = TEMPLATE_SETTINGS[key]
    if given is None and setting.endless:
        return None
    if given is None:
        raise FieldsError((key, f"{setting.label} needs a value."))
    if setting.kind == "switch" and isinstance(given, bool):
        return given
    if setting.kind == "span" and not isinstance(given, bool):
        return span_from_seconds(given)
    if setting.kind == "count" and isinstance(given, int) and not isinstance(given, bool):
        return given
    raise FieldsError((key, f"{setting.label} needs a value of its own kind."))


K = TypeVar("K", SettingKey, TemplateKey)


def values_of(given: Mapping[K, PlainValue]) -> dict[K, Value]:
    """The values that are meant by plain ones; raises `FieldsError` for all that are not right."""
    found: dict[K, Value] = {}
    wrong: list[tuple[str, str]] = []
    for key, value in given.items():
        try:
            found[key] = value_of(key, value)
        except FieldsError as error:
            wrong += error.problems
    if wrong:
        raise FieldsError(*wrong)
    return found
