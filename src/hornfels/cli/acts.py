"""`hornfels act`: what waits for a second person, settled on the machine where there is none."""

from __future__ import annotations

from hornfels.cli.errors import say
from hornfels.cli.people import COMMAND, changing
from hornfels.service import acts


def list_acts() -> None:
    with changing() as session:
        for row in acts.waiting(session):
            say(f"{row.id}: {acts.sentence(row)}. {row.asked_by}: {row.reason}")


def settle(number: int, *, confirmed: bool) -> None:
    """Let it happen, or not."""
    with changing() as session:
        words = acts.sentence(acts.find(session, number))
        if not confirmed:
            acts.withdraw(session, number)
            given = None
        else:
            given = acts.confirm(session, number, COMMAND).one_time
    say(f"{'Done' if confirmed else 'Not done'}: {words}.")
    if given:
        say(f"The password, to be used once within three days: {given}")
