"""`hornfels settings`, and reading them for the other commands."""

from __future__ import annotations

from typing import Any

from pydantic import SecretStr

from hornfels.cli.errors import fail, say
from hornfels.settings import PREFIX, Settings, SettingsError, read_settings


def settings(**given: object) -> Settings:
    """What holds; ends the command where a setting cannot be read."""
    try:
        return read_settings(**given)
    except SettingsError as error:
        fail(str(error))


def list_settings() -> None:
    """Every setting with what holds and what it means."""
    held = settings()
    for name, field in Settings.model_fields.items():
        say(f"{PREFIX}{name.upper()} = {_shown(getattr(held, name))}")
        say(f"    {field.description}")


def _shown(value: Any) -> str:
    if isinstance(value, SecretStr):
        return "(set)"
    return "" if value is None else str(value)
