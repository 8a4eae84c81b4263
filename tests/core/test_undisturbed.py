"""The garbage collector rests during a rehearsal; afterwards it is as before, whatever happened."""

from __future__ import annotations

import gc
from collections.abc import Iterator
from typing import Any

import pytest

from cuejar.core.book.files import book_from
from cuejar.core.engine.engine import Engine
from cuejar.core.engine.rehearsal import play, undisturbed
from cuejar.core.facts import happenings as h

BOOK = book_from(
    {
        "cues": [
            {
                "id": "bell",
                "name": "Bell",
                "beats": [{"id": "c", "kind": "caption", "text": "ding", "length": {"s": 2}}],
            }
        ]
    }
)


@pytest.fixture(autouse=True)
def as_before() -> Iterator[None]:
    enabled = gc.isenabled()
    yield
    gc.unfreeze()
    (gc.enable if enabled else gc.disable)()


def collector() -> tuple[bool, bool]:
    return gc.isenabled(), gc.get_freeze_count() > 0


def test_it_rests_and_goes_on() -> None:
    gc.enable()
    gc.unfreeze()
    with undisturbed():
        assert collector() == (False, True)
        with undisturbed():
            assert collector() == (False, True)
        assert collector() == (False, True), "one inside another changes nothing"
    assert collector() == (True, False)


def test_what_a_show_froze_at_its_start_stays_so() -> None:
    gc.enable()
    gc.freeze()
    with undisturbed():
        assert not gc.isenabled()
    assert collector() == (True, True)


def test_where_somebody_switched_it_off_it_stays_off() -> None:
    gc.disable()
    gc.unfreeze()
    with undisturbed():
        pass
    assert collector() == (False, False)


def test_a_night_that_is_broken_off_lets_it_go_on() -> None:
    gc.enable()
    gc.unfreeze()
    with pytest.raises(ZeroDivisionError), undisturbed():
        raise ZeroDivisionError
    assert collector() == (True, False)
    orders: Any = play(Engine(BOOK), [(0, h.Pad("bell")), (5_000, h.Pad("bell"))])
    first = next(orders)
    assert first.at == 0 and collector() == (False, True)
    orders.close()  # The listener raises.
    assert collector() == (True, False)
