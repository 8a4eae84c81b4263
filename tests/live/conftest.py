from __future__ import annotations

from collections.abc import Iterator

import pytest

from tests.live.standin import StandIn


@pytest.fixture
def stand_in() -> Iterator[StandIn]:
    made = StandIn()
    yield made
    made.stop()
