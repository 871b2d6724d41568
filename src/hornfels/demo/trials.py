"""Trials that the invented observatory keeps: one of them shows what is wrong with the kiosk
accounts' policy.
"""

from __future__ import annotations

from collections.abc import Iterator

from hornfels.core.trials.trial import Trial
from hornfels.demo.tarnholt import ROOT

_GROUPS = f"OU=Groups,{ROOT}"


def demo_trials() -> Iterator[tuple[str, Trial]]:
    """Titles and trials."""
    yield (
        "Kiosk accounts must not accept digits alone",
        Trial("40719", "group", f"CN=GS-Dome-Kiosks,{_GROUPS}", "refused"),
    )
    yield (
        "Night operators may use a phrase of words",
        Trial(
            "Copper-lantern-meadow-thistle", "group", f"CN=GS-Night-Operators,{_GROUPS}", "accepted"
        ),
    )
    yield (
        "Instrument services refuse what a person would type",
        Trial("Spectro-2031", "group", f"CN=GS-Instrument-Services,{_GROUPS}", "refused", "length"),
    )
    yield (
        "Nobody may build a password on their own name",
        Trial("Ilse.Varga-2031-summit", "account", "ilse.varga", "refused", "own_name"),
    )
    yield (
        "A device that retries every 5 minutes must not lock service accounts",
        Trial(
            "",
            "group",
            f"CN=GS-Instrument-Services,{_GROUPS}",
            "stays_open",
            story="25 bad every 5 min",
        ),
    )
