"""The light of every picture: key, rim, sky, ground bounce, haze and bloom, for any renderer."""

from __future__ import annotations

import numpy as np

TOWARDS_KEY = np.array([0.42, 0.78, 0.46]) / np.linalg.norm([0.42, 0.78, 0.46])
"""(3,) unit direction to the key light, world."""
# Linear RGB. Key from the upper left front, rim from behind, sky and ground bounce.
KEY_R, KEY_G, KEY_B = np.float32(1.75), np.float32(1.6), np.float32(1.42)
SKY_R, SKY_G, SKY_B = np.float32(0.19), np.float32(0.21), np.float32(0.28)
LOW_R, LOW_G, LOW_B = np.float32(0.08), np.float32(0.065), np.float32(0.065)
RIM_R, RIM_G, RIM_B = np.float32(0.50), np.float32(0.75), np.float32(0.80)
SHADE = np.float32(0.55)
"""What is left of the colour of sprites that do not shine by themselves."""
SHADOW_CELLS, SHADOW_METRES = 192, 5.0
"""The square of ground around the character that its shadow is worked out on."""
BLOOM_LEVELS, BLOOM_FLOOR, BLOOM_STRENGTH = 5, 1.0, 0.3
