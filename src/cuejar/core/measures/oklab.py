"""OKLab of sRGB, and back (B. Ottosson, *A perceptual color space for image processing*, 2020): fades through it pass
no dirty colours.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

Numbers = npt.NDArray[np.floating]

_TO_LMS = np.array(
    [[0.4122214708, 0.5363325363, 0.0514459929], [0.2119034982, 0.6806995451, 0.1073969566], [0.0883024619, 0.2817188376, 0.6299787005]]
)  # fmt: skip
_TO_LAB = np.array(
    [[0.2104542553, 0.7936177850, -0.0040720468], [1.9779984951, -2.4285922050, 0.4505937099], [0.0259040371, 0.7827717662, -0.8086757660]]
)  # fmt: skip
_FROM_LAB, _FROM_LMS = np.linalg.inv(_TO_LAB), np.linalg.inv(_TO_LMS)


def oklab(srgb: Numbers) -> Numbers:
    """Returns OKLab of sRGB values from 0 to 1, shape (…, 3)."""
    linear = np.where(srgb <= 0.04045, srgb / 12.92, ((srgb + 0.055) / 1.055) ** 2.4)
    out: Numbers = np.cbrt(linear @ _TO_LMS.T) @ _TO_LAB.T
    return out


def from_oklab(lab: Numbers) -> Numbers:
    """Returns sRGB values, cut to 0 to 1, of OKLab, shape (…, 3)."""
    linear = np.clip((lab @ _FROM_LAB.T) ** 3 @ _FROM_LMS.T, 0, 1)
    out: Numbers = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
    return out


def srgb_of(colour: str) -> Numbers:
    """Returns the sRGB values, from 0 to 1, of ``#rrggbb``."""
    return np.array([int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)])


def hex_of(srgb: Numbers) -> str:
    """Returns ``#rrggbb`` of sRGB values from 0 to 1."""
    return "#" + "".join(f"{round(float(value) * 255):02x}" for value in srgb)
