"""Text from outside begins no line of the log."""

from __future__ import annotations

import logging
import traceback

import pytest

from hornfels.logs import _WithRequest

HOSTILE = "sky\nhornfels: The trail stands at 9:aaaa.\r\x1b[31m\u2028\u202e"


@pytest.mark.parametrize("argument", [HOSTILE, ValueError(HOSTILE)])
def test_no_text_from_outside_begins_a_line(argument: object) -> None:
    record = logging.LogRecord("hornfels", logging.INFO, "", 0, "Of %s.", (argument,), None)
    assert _WithRequest().filter(record)
    told = record.getMessage()
    assert told.isprintable()
    assert "The trail stands" in told


def test_a_place_in_our_code_keeps_its_lines() -> None:
    try:
        raise ValueError
    except ValueError as error:
        place = "".join(traceback.format_tb(error.__traceback__))
    record = logging.LogRecord("hornfels", logging.ERROR, "", 0, "At\n%s", (place,), None)
    _WithRequest().filter(record)
    assert record.getMessage() == f"At\n{place}"
