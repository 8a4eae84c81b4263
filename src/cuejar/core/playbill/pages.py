"""The playbill as one self-contained HTML page (no script, light and dark, readable on a phone) and as Markdown."""

from __future__ import annotations

import re
from dataclasses import asdict
from importlib.resources import files
from typing import Any

import pystache

from cuejar.core.playbill.bill import Bill

_MARKS = re.compile(r"([\\`*_{}\[\]<>#|~])")


def _markdown(text: str) -> str:
    """Returns a text on one line in which Markdown finds no markup (CommonMark, 2.4)."""
    return _MARKS.sub(r"\\\1", " ".join(text.split()))


def _view(bill: Bill) -> dict[str, Any]:
    def entries(rows: list[Any]) -> list[dict[str, Any]]:
        return [{**asdict(row), "does": row.does.said} for row in rows]

    return {
        **{key: text.said for key, text in bill.texts.items()},
        "has_rewards": bool(bill.rewards),
        "entries": entries(bill.rewards),
        "has_chats": bool(bill.chats),
        "chats": entries(bill.chats),
        "has_writing": bool(bill.writing or bill.swatches),
        "ways": [text.said for text in bill.writing],
        "has_swatches": bool(bill.swatches),
        "swatches": [
            {"name": name, "hex": value, "last": (name, value) == bill.swatches[-1]} for name, value in bill.swatches
        ],
        "has_cast": bool(bill.cast),
        "voices": [{"name": one.name, "words": one.words.said, "sample": one.sample} for one in bill.cast],
        "has_winners": bool(bill.winners),
        "won": [one._asdict() for one in bill.winners],
        "has_safety": bool(bill.safety),
        "safe": [text.said for text in bill.safety],
    }


def _rendered(name: str, bill: Bill, escape: Any = None) -> str:
    template = files("cuejar.core.playbill").joinpath(name).read_text("utf-8")
    renderer = pystache.Renderer(escape=escape) if escape is not None else pystache.Renderer()
    made: str = renderer.render(template, _view(bill))
    return made


def html(bill: Bill) -> str:
    return _rendered("playbill.html.mustache", bill)


def markdown(bill: Bill) -> str:
    return re.sub(r"\n{3,}", "\n\n", _rendered("playbill.md.mustache", bill, _markdown)).strip() + "\n"
