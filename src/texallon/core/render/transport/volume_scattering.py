"""How volumes scatter at a place of a ray: which of those that overlap, how much, and into which directions."""

from texallon.core.kernel import Float, Int, inlined
from texallon.core.render.volume.lookup import place_in_brick, three_at, value_at
from texallon.core.render.volume.quantities import DENSITY, FORWARD, SCATTERING, SECOND_FORWARD, SECOND_SHARE
from texallon.core.render.volume.tables import Scratch, VolumeTables
from texallon.core.shade.media.two_lobes import two_lobe_pdf


@inlined
def scattering_at(tables: VolumeTables, scratch: Scratch, s: Int, t: Float) -> tuple[Float, Float, Float]:
    """What a volume scatters at a point of a segment, red, green and blue, per metre.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        The ray's segments.
    s : int
        Number of the segment; in a brick.
    t : float
        Metres along the ray.
    """
    k, brick = scratch.volume[s], scratch.brick[s]
    base, fx, fy, fz = place_in_brick(tables, scratch, s, t)
    density = value_at(tables, k, brick, DENSITY, base, fx, fy, fz)
    r, g, b = three_at(tables, k, brick, SCATTERING, base, fx, fy, fz)
    return density * r, density * g, density * b


@inlined
def choose_volume(
    tables: VolumeTables, scratch: Scratch, count: Int, t: Float, pick: Float
) -> tuple[Int, Float, Float, Float]:
    """Of volumes that overlap, the one that scatters at a place, by how much each does; and its share of what all scatter, over the chance that it was chosen.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        The ray's segments.
    count : int
        How many there are.
    t : float
        Metres along the ray.
    pick : float
        Random, 0…1.

    Returns
    -------
    tuple
        Number of its segment, −1 where nothing scatters; the share of red, green and blue, 1 where it is alone.
    """
    all_r = all_g = all_b = 0.0
    for s in range(count):
        if scratch.enter[s] > t or scratch.leave[s] <= t or scratch.brick[s] < 0:
            continue
        r, g, b = scattering_at(tables, scratch, s, t)
        all_r, all_g, all_b = all_r + r, all_g + g, all_b + b
    total = all_r + all_g + all_b
    left = pick * total
    chosen: Int = -1
    cr = cg = cb = 0.0
    for s in range(count):
        if scratch.enter[s] > t or scratch.leave[s] <= t or scratch.brick[s] < 0:
            continue
        r, g, b = scattering_at(tables, scratch, s, t)
        mine = r + g + b
        if mine <= 0.0:
            continue
        left -= mine
        chosen = s
        if mine >= total:
            return chosen, 1.0, 1.0, 1.0
        scale = total / mine
        cr = r / all_r * scale if all_r > 0.0 else 0.0
        cg = g / all_g * scale if all_g > 0.0 else 0.0
        cb = b / all_b * scale if all_b > 0.0 else 0.0
        if left < 0.0:
            break
    return chosen, cr, cg, cb


@inlined
def phase_at(tables: VolumeTables, scratch: Scratch, s: Int, t: Float, cosine: Float) -> Float:
    """The phase function of a volume at a point of a ray, per steradian.

    Parameters
    ----------
    tables : VolumeTables
        All volumes.
    scratch : Scratch
        The ray's segments.
    s : int
        Number of the segment; in a brick.
    t : float
        Metres along the ray.
    cosine : float
        Of the angle between ways.
    """
    k, brick = scratch.volume[s], scratch.brick[s]
    base, fx, fy, fz = place_in_brick(tables, scratch, s, t)
    return two_lobe_pdf(
        cosine,
        value_at(tables, k, brick, FORWARD, base, fx, fy, fz),
        value_at(tables, k, brick, SECOND_FORWARD, base, fx, fy, fz),
        value_at(tables, k, brick, SECOND_SHARE, base, fx, fy, fz),
    )
