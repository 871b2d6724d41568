"""What is wrong with a request, field by field, in sentences that say what to do.

The value itself is never repeated: it may be a candidate password.
"""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

_SENTENCES = {
    "missing": "This is missing.",
    "extra_forbidden": "There is no such field here. Leave it out.",
    "json_invalid": "The request is not JSON.",
    "string_type": "Give text.",
    "string_too_short": "Give at least {min_length} characters.",
    "string_too_long": "Shorten it to at most {max_length} characters.",
    "too_long": "Give at most {max_length} of them.",
    "int_type": "Give a whole number.",
    "int_parsing": "Give a whole number.",
    "int_from_float": "Give a whole number.",
    "int_parsing_size": "Give a smaller number.",
    "float_type": "Give a number.",
    "float_parsing": "Give a number.",
    "finite_number": "Give a number that is not infinite.",
    "greater_than_equal": "Give {ge} or more.",
    "less_than_equal": "Give {le} or less.",
    "bool_type": "Give true or false.",
    "bool_parsing": "Give true or false.",
    "literal_error": "Give one of {expected}.",
    "uuid_parsing": "This is no identifier of a policy.",
    "uuid_type": "This is no identifier of a policy.",
    "date_from_datetime_parsing": "Give a day, such as 2026-11-25.",
    "date_parsing": "Give a day, such as 2026-11-25.",
    "datetime_from_date_parsing": "Give a moment, such as 2026-11-25T09:00:00Z.",
    "datetime_parsing": "Give a moment, such as 2026-11-25T09:00:00Z.",
    "timezone_aware": "Say the time zone of the moment, as in 2026-11-25T09:00:00Z.",
    "list_type": "Give a list.",
    "tuple_type": "Give a list.",
    "dict_type": "Give an object with fields.",
    "model_attributes_type": "Give an object with fields.",
}


def sentence(error: Mapping[str, Any]) -> str:
    """One validation error in words."""
    context = error.get("ctx", {})
    if error["type"] == "string_too_short" and context.get("min_length") == 1:
        return "This cannot be empty."
    if error["type"] == "value_error":
        return str(context["error"])
    known = _SENTENCES.get(error["type"])
    return known.format(**context) if known else f"{str(error['msg']).rstrip('.')}."
