"""What several colour kinds share: the spaces colours are taken apart in."""

from __future__ import annotations

from reedloom.kernels.hues import HSV, OKLCH, RGB

SPACES = {"RGB": RGB, "HSV": HSV, "OKLCH": OKLCH}
"""Light as it is; hue, saturation and value as a screen shows them; lightness, chroma and hue as the eye sees
them."""
