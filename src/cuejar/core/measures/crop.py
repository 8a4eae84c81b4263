"""A square cut out of a picture, given relative to the picture so that it fits one of any size."""

from __future__ import annotations

from typing import NamedTuple


class Square(NamedTuple):
    """A square in pixels; ``left`` and ``top`` are its upper left corner."""

    left: int
    top: int
    side: int


def square(width: int, height: int, x: float = 0.5, y: float = 0.5, zoom: float = 1) -> Square:
    """Returns the square around a point, moved so that it lies within the picture.

    Args:
        width, height: of the picture, at least 1.
        x, y: its middle, as shares of width and height.
        zoom: by how much it is smaller than the largest square, at least 1.
    """
    side = max(1, round(min(width, height) / max(1.0, zoom)))

    def begin(whole: int, middle: float) -> int:
        return min(whole - side, max(0, round(middle * whole - side / 2)))

    return Square(begin(width, x), begin(height, y), side)
