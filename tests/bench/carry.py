"""Large files from others: a review of 10,000 cues, and made-up names for 20,000 calls, next to reading the same as
JSON.
"""

from __future__ import annotations

import json
import random
import time
from collections.abc import Callable
from typing import Any

from cuejar.core.book.book import Book
from cuejar.core.book.files import book_from
from cuejar.core.carry.review import reviewed
from cuejar.core.nights.madeup import MadeUp

CUES, CALLS = 10_000, 20_000


def _took(work: Callable[[], object]) -> float:
    begin = time.perf_counter()
    work()
    return time.perf_counter() - begin


def carry() -> dict[str, Any]:
    beat = {"id": "c", "kind": "caption", "text": "hi {{viewer}}", "length": {"s": 2}}
    told = json.dumps({"cues": [{"id": f"a{i}", "name": f"Whistle {i}", "beats": [beat]} for i in range(CUES)]})
    plain = min(_took(lambda: json.loads(told)) for _ in range(3))
    read: list[Book] = []
    reading = _took(lambda: read.append(book_from(json.loads(told))))
    review = min(_took(lambda: reviewed(Book(), read[0], "cues")) for _ in range(2))
    rng = random.Random(1)
    everybody = [(f"v{i}", f"{rng.choice(['owl', 'nine', 'tea'])}_{i}x") for i in range(CALLS)]
    texts = [f"{name} waves at {rng.choice(everybody)[1]}" for _, name in everybody]
    names: list[MadeUp] = []
    making = _took(lambda: names.append(MadeUp(everybody)))
    renaming = _took(lambda: [names[0].text(text) for text in texts])
    bare = _took(lambda: [text.replace(name, "x") for text, (_, name) in zip(texts, everybody, strict=True)])
    return {
        f"{CUES:,} cues as JSON, s": round(plain, 3),
        "read as a book, s": round(reading, 2),
        "reviewed, s": round(review, 2),
        f"made-up names for {CALLS:,} viewers, s": round(making, 2),
        f"and in {CALLS:,} texts, s": round(renaming, 2),
        "a bare replace of one name in each, s": round(bare, 3),
    }


if __name__ == "__main__":
    print(json.dumps(carry(), indent=1))
