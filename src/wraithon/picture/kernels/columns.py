"""Columns of the tables that kernels of the picture pass to each other."""

from __future__ import annotations

import numpy as np

# ---- placed sprites (N, SPRITE_COLUMNS): centre in samples, 1 / distance, half extents in samples, rotation, colour
CENTRE_X, CENTRE_Y, NEARNESS, HALF_WIDTH, HALF_HEIGHT, COSINE, SINE = range(7)
RED, GREEN, BLUE, OPACITY, SHARPNESS = range(7, 12)
"""Colour, opacity, and 1 / the distance over which the sprite fades into what is behind it."""
SPRITE_COLUMNS = 12
FIRST_TEXEL, TEXEL_SIDE, IS_GREY = range(3)
"""Which texels a sprite shows, as whole numbers (N, PICK_COLUMNS)."""
PICK_COLUMNS = 3

# ---- boxes (M, BOX_COLUMNS) around triangles and shells, in samples
B_LEFT, B_RIGHT, B_TOP, B_BOTTOM, B_NEAREST, B_MEAN = range(6)
"""Extent, and 1 / distance of the nearest point and on average."""
BOX_COLUMNS = 6

# ---- patches (N, PATCH_COLUMNS): where the planes of what a shell shows begin, first column and row, extent, pitch
P_FIRST, P_LEFT, P_TOP, P_WIDTH, P_HEIGHT, P_PITCH = (np.uint64(k) for k in range(6))
PATCH_COLUMNS = 6

# ---- records (N, RECORD_COLUMNS) of what is composited; a record is one line of the processor's memory
R_X, R_Y, R_DISTANCE, R_SHARPNESS, R_U_RIGHT, R_U_DOWN, R_V_RIGHT, R_V_DOWN = (np.uint64(k) for k in range(8))
"""Centre, distance, sharpness, and what u and v grow by for each pixel right and down."""
R_HALF_WIDTH, R_HALF_HEIGHT = R_U_RIGHT, R_U_DOWN
"""Of a speck, which shows one texel."""
R_RED, R_GREEN, R_BLUE, R_COVER, R_FIRST, R_WAY, R_REACH_X, R_REACH_Y = (np.uint64(k) for k in range(8, 16))
"""Colour and what is covered, each times the opacity; as whole numbers the first texel (or the number of a triangle
or shell), and the texture's side shifted by 3 with the way it is composited; how far it reaches across and down."""
RECORD_COLUMNS = 16

# ---- triangles (F, TRIANGLE_COLUMNS) that are composited, two lines of memory each
T_LEFT, T_RIGHT, T_TOP, T_BOTTOM, T_X, T_Y = (np.uint64(k) for k in range(6))
"""Extent, and the first corner."""
T_B_RIGHT, T_B_DOWN, T_C_RIGHT, T_C_DOWN, T_NEAR_A, T_NEAR_B, T_NEAR_C = (np.uint64(k) for k in range(6, 13))
"""What the shares of the second and third corner grow by for each pixel right and down; 1 / distance of each."""
T_U, T_U_B, T_U_C, T_V, T_V_B, T_V_C, T_RED, T_RED_B, T_RED_C = (np.uint64(k) for k in range(13, 22))
"""UV at the first corner, and how much more it is at the others; so for red, and three columns on each for green and
blue, all times the opacity and a texel's unit."""
T_OPACITY, T_OPACITY_B, T_OPACITY_C, T_SHARPNESS = (np.uint64(k) for k in range(28, 32))
TRIANGLE_COLUMNS = 32
SKIN_COLUMNS = 3
"""Of a triangle's texture, as whole numbers: first texel, side, and how it is composited."""

# ---- vertices (N, VERTEX_COLUMNS) of a mesh that is shaded
V_NX, V_NY, V_NZ, V_U, V_V, V_FIGURE = (np.uint64(k) for k in range(6))
"""Normal, UV, and the number that a colour scale shows."""
VERTEX_COLUMNS = 8

# ---- decals (N, DECAL_COLUMNS) on the ground
D_X, D_Z, D_INVERSE_HALF, D_COSINE, D_SINE, D_RED, D_GREEN, D_BLUE, D_OPACITY = (np.uint64(k) for k in range(9))
DECAL_COLUMNS = 9
S_LEFT, S_RIGHT, S_TOP, S_BOTTOM = range(4)
"""Columns and rows (N, 4) that a decal or light touches; ends are left out."""

# ---- lights (N, LIGHT_COLUMNS): position, reach in metres, colour
L_X, L_Y, L_Z, L_REACH, L_RED, L_GREEN, L_BLUE = (np.uint64(k) for k in range(7))
LIGHT_COLUMNS = 7

# ---- colours (N, 4)
ALPHA = 3
