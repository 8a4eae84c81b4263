"""Letters in place of a picture: of any name, readable on any colour, and never more than text."""

from __future__ import annotations

import xml.etree.ElementTree as ET

import pytest
from hypothesis import given
from hypothesis import strategies as st

from cuejar.core.measures.monogram import face_address, ground, letters, monogram

LINEAR = [v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in (i / 255 for i in range(256))]


def _contrast_with_white(colour: str) -> float:
    """WCAG 2.2, 1.4.3."""
    red, green, blue = (LINEAR[int(colour[i : i + 2], 16)] for i in (1, 3, 5))
    return 1.05 / (0.2126 * red + 0.7152 * green + 0.0722 * blue + 0.05)


@pytest.mark.parametrize(
    ("name", "said"),
    [("bramble_jo", "BJ"), ("owlpost", "O"), ("ferrous wheel the third", "FW"), ("élodie", "É"), ("ßtraße", "S"),
     ("9 gauge", "9G"), ("__", "?"), ("", "?"), ("🚂🚃", "?"), ("猫", "猫")],
)  # fmt: skip
def test_letters_of_a_name(name: str, said: str) -> None:
    assert letters(name) == said


def test_every_ground_carries_white_letters() -> None:
    grounds = {ground(f"v-{n}") for n in range(2_000)}
    assert len(grounds) > 300
    assert min(map(_contrast_with_white, grounds)) >= 4.5
    assert ground("v-owl") == ground("v-owl") != ground("v-kettle")


@given(st.text(max_size=60), st.text(max_size=60))
def test_a_monogram_is_a_picture_whatever_the_name(viewer: str, name: str) -> None:
    root = ET.fromstring(monogram(viewer, name))
    assert [child.tag.rpartition("}")[2] for child in root] == ["rect", "text"]
    assert root[1].text == letters(name)


def test_an_address_has_the_id_as_one_step() -> None:
    assert face_address("yard\x1f../v?x#y") == "/faces/yard%1F..%2Fv%3Fx%23y"
