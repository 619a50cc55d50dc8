"""What is known of a medium at a point, and of a brick: named rows in place of bare numbers."""

DENSITY, SCATTERING, ABSORPTION, EMISSION = 0, 1, 4, 7
"""Quantities at a point: density per metre; shares of it by colour that scatter and absorb; radiance per metre by colour."""

FORWARD, SECOND_FORWARD, SECOND_SHARE, QUANTITIES = 10, 11, 12, 13
"""The phase function's two mean cosines, and the share of the second; and how many quantities there are."""

LEAST_ABSORPTION, LEAST_EXTINCTION, MOST_REST, MOST_RESIDUAL, GLOW, HEADER = 0, 3, 6, 7, 8, 9
"""What a brick is bounded by, per metre: the least absorption and extinction by colour; a bound on the extinction beyond the least absorption,
and on that beyond the least extinction; and the light that it sends out, the root of its mean square at corners. And their number."""

SIDE = 8
"""Cells along a brick's side."""

CORNERS = SIDE + 1
"""Corners along a side: nothing is read from a neighbour."""

VALUES = CORNERS**3
"""Values of a brick."""

SHARP = 65535
"""Steps between the least and the largest value of a brick."""

MISSING, EMPTY = 0, -1
"""In the place of a brick's number, from 1: it has not been filled, or nothing is in it."""

MOST_LEVELS = 14
"""Of cells that double in size."""

RECENT = 16
"""Uses by which a brick's stamp may lag behind."""
