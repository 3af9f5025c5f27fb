"""Colours as eyes see them: contrast (WCAG 2), difference (CIEDE2000), the three colour blindnesses."""

from __future__ import annotations

import math

import numpy as np

BLINDNESS = {  # at full strength, on linear RGB (Machado, Oliveira and Fernandes 2009)
    "none": np.eye(3),
    "protanopia": np.array(
        [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]
    ),
    "deuteranopia": np.array(
        [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]
    ),
    "tritanopia": np.array(
        [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]
    ),
}
_TO_XYZ = np.array(
    [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]
)
_WHITE = np.array([0.95047, 1.0, 1.08883])


def linear(colour: str) -> np.ndarray:
    """A colour such as “#22201C” as linear RGB, 0 to 1."""
    signs = np.array([int(colour[k : k + 2], 16) / 255 for k in (1, 3, 5)])
    return np.where(signs <= 0.04045, signs / 12.92, ((signs + 0.055) / 1.055) ** 2.4)


def contrast(one: str, other: str) -> float:
    """How much two colours differ in lightness, 1 to 21."""
    light, dark = sorted((float(_TO_XYZ[1] @ linear(colour)) for colour in (one, other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def lab(colour: str, blindness: str = "none") -> np.ndarray:
    """CIE L*a*b* of a colour as it is seen."""
    seen = np.clip(BLINDNESS[blindness] @ linear(colour), 0, 1)
    ratio = _TO_XYZ @ seen / _WHITE
    f = np.where(ratio > (6 / 29) ** 3, np.cbrt(ratio), ratio * (29 / 6) ** 2 / 3 + 4 / 29)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


def difference(one: np.ndarray, other: np.ndarray) -> float:
    """CIEDE2000 of two colours in L*a*b* (Sharma, Wu and Dalal 2005)."""
    chroma = (math.hypot(*one[1:]) + math.hypot(*other[1:])) / 2
    g = 0.5 * (1 - math.sqrt(chroma**7 / (chroma**7 + 25**7)))
    a = [colour[1] * (1 + g) for colour in (one, other)]
    c = [math.hypot(x, colour[2]) for x, colour in zip(a, (one, other))]
    h = [math.degrees(math.atan2(colour[2], x)) % 360 for x, colour in zip(a, (one, other))]
    dh = (h[1] - h[0] + 180) % 360 - 180 if c[0] * c[1] else 0.0
    mean_h = (h[0] + dh / 2) % 360 if c[0] * c[1] else h[0] + h[1]
    mean_l, mean_c = (one[0] + other[0]) / 2, sum(c) / 2
    turn = [math.radians(x) for x in (mean_h - 30, 2 * mean_h, 3 * mean_h + 6, 4 * mean_h - 63)]
    t = 1 - 0.17 * math.cos(turn[0]) + 0.24 * math.cos(turn[1])
    t += 0.32 * math.cos(turn[2]) - 0.20 * math.cos(turn[3])
    sl = 1 + 0.015 * (mean_l - 50) ** 2 / math.sqrt(20 + (mean_l - 50) ** 2)
    sc, sh = 1 + 0.045 * mean_c, 1 + 0.015 * mean_c * t
    twist = 60 * math.exp(-(((mean_h - 275) / 25) ** 2))
    rt = -math.sin(math.radians(twist)) * 2 * math.sqrt(mean_c**7 / (mean_c**7 + 25**7))
    dl, dc = (other[0] - one[0]) / sl, (c[1] - c[0]) / sc
    hue = 2 * math.sqrt(c[0] * c[1]) * math.sin(math.radians(dh / 2)) / sh
    return math.sqrt(max(0.0, dl**2 + dc**2 + hue**2 + rt * dc * hue))
