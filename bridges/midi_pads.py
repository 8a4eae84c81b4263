"""Pads of a MIDI controller fire cues: ``python -m bridges.midi_pads "My pads" note36=mail-call note37=tea-break``.

Comes with ``pip install 'cuejar[bridges]'``. A cue fires when its note begins, or when its control passes the middle,
again only after it went back below it; ``rest=note40`` brings all to rest. Without mappings it prints what is pressed,
so that you learn the numbers.
"""

from __future__ import annotations

import argparse
import re
import sys
from collections.abc import Iterable
from typing import Any

import httpx

PRESSED = re.compile(r"^(note|control|program)(\d{1,3})=([a-z0-9][a-z0-9_-]{0,63})$")
ALL_TO_REST = "rest"


def mappings(given: Iterable[str]) -> dict[tuple[str, int], str]:
    """Returns which cue each press fires. Raises ValueError: a mapping is invalid."""
    found = {}
    for one in given:
        match = PRESSED.match(one)
        if match is None or int(match[2]) > 127:
            raise ValueError(f"“{one}” is not like note36=mail-call")
        found[match[1], int(match[2])] = match[3]
    return found


def pressed(message: Any) -> tuple[str, int] | None:
    """Returns what a MIDI message presses; nothing for a release."""
    if message.type == "note_on" and message.velocity > 0:
        return "note", int(message.note)
    if message.type == "control_change" and message.value >= 64:
        return "control", int(message.control)
    if message.type == "program_change":
        return "program", int(message.program)
    return None


def run(messages: Iterable[Any], cues: dict[tuple[str, int], str], api: httpx.Client) -> None:
    """Fires cues for as long as messages come. A refusal by Cue Jar is printed, and the next press counts again."""
    up: set[tuple[int, int]] = set()
    for message in messages:
        what = pressed(message)
        if message.type == "control_change":
            control = (message.channel, message.control)
            was_up = control in up
            (up.add if what is not None else up.discard)(control)
            if was_up:
                continue
        if what is None:
            continue
        cue = cues.get(what)
        if cue is None:
            print(f"{what[0]}{what[1]} is pressed and fires nothing", flush=True)
            continue
        try:
            path = "/api/all-to-rest" if cue == ALL_TO_REST else f"/api/cues/{cue}/fire"
            answer = api.post(path, json=None if cue == ALL_TO_REST else {})
            if not answer.is_success:
                print(f"{cue}: {answer.json().get('what', answer.status_code)}", file=sys.stderr)
        except (httpx.HTTPError, ValueError) as error:
            print(f"Cue Jar isn’t answering ({error or type(error).__name__})", file=sys.stderr)


def main() -> None:
    import mido

    parser = argparse.ArgumentParser(description="Pads of a MIDI controller fire cues.")
    parser.add_argument("port", nargs="?", default="")
    parser.add_argument("cues", nargs="*")
    parser.add_argument("--address", default="http://127.0.0.1:8700")
    given = parser.parse_args()
    if not given.port:
        sys.exit("Say which port: " + (", ".join(mido.get_input_names()) or "there is none"))
    try:
        cues = mappings(given.cues)
    except ValueError as error:
        sys.exit(str(error))
    with (
        mido.open_input(given.port) as port,
        httpx.Client(
            base_url=given.address, timeout=5, trust_env=False, limits=httpx.Limits(keepalive_expiry=2)
        ) as api,
    ):
        run(port, cues, api)


if __name__ == "__main__":
    main()
