"""Noise on a lattice of whole coordinates: one octave at a time, for many points at once.

Gradient noise is Perlin's with the quintic fade and twelve edge gradients (K. Perlin, "Improving Noise", SIGGRAPH 2002), its
lattice hashed by integer arithmetic in place of a permutation table so that a loop over points becomes vector code. Value
noise interpolates random numbers in the same way. Evolution is a fourth dimension: lattices that stand at its whole
numbers are blended, their gradients leaning ±`LEAN` along it, so that at whole numbers the noise is that of one lattice.
"""

import numpy as np

from texallon.core.kernel import Array, Float, Int, inlined, kernel

GREATEST = 1.0363538112118038
"""The largest magnitude of Perlin's 2002 noise with edge gradients; dividing by it bounds an octave by ±1."""

LEAN = 0.75
"""The gradients' share along evolution that keeps the variance halfway between two lattices what it is on them."""

BASES = {"gradient": 0, "value": 1}


@inlined
def mixed(n: Int) -> Int:
    """A well-mixed 32-bit number (the finaliser of MurmurHash3, A. Appleby, public domain).

    Parameters
    ----------
    n : int
        32 bits.
    """
    n = np.uint32(np.uint32(n ^ (n >> np.uint32(16))) * np.uint32(0x85EBCA6B))
    n = np.uint32(np.uint32(n ^ (n >> np.uint32(13))) * np.uint32(0xC2B2AE35))
    return np.uint32(n ^ (n >> np.uint32(16)))


@inlined
def corner_hash(x: Int, y: Int, z: Int) -> Int:
    """Five well-mixed bits for a lattice point whose coordinates have been multiplied by the seed's odd numbers.

    Parameters
    ----------
    x, y, z : int
        Coordinate.
    """
    h = np.uint32(x ^ y ^ z)
    return np.uint32(np.uint32(h ^ (h >> np.uint32(15))) * np.uint32(0x2C1B3C6D)) >> np.uint32(27)


@inlined
def edge_gradient(bits: Int, x: Float, y: Float, z: Float) -> Float:
    """Dot product with one of the twelve edges of a cube, chosen by the upper four of five bits (Perlin 2002).

    Parameters
    ----------
    bits : int
        Random bits of a lattice point.
    x, y, z : float
        Coordinate.
    """
    bits = bits >> np.uint32(1)
    u = x if bits < 8 else y
    v = y if bits < 4 else (x if (bits & np.uint32(13)) == 12 else z)
    u = u if (bits & np.uint32(1)) == 0 else -u
    v = v if (bits & np.uint32(2)) == 0 else -v
    return u + v


@inlined
def lean_of(bits: Int) -> Float:
    """±1 by the lowest bit.

    Parameters
    ----------
    bits : int
        Random bits of a lattice point.
    """
    return np.float32(1) - np.float32(2) * np.float32(bits & np.uint32(1))


@inlined
def fade(t: Float) -> Float:
    """6t⁵ − 15t⁴ + 10t³: flat to the second derivative at 0 and 1.

    Parameters
    ----------
    t : float
        0…1.
    """
    return t * t * t * (t * (t * np.float32(6) - np.float32(15)) + np.float32(10))


@inlined
def blend8(
    a: Float, b: Float, c: Float, d: Float, e: Float, f: Float, g: Float, h: Float, u: Float, v: Float, w: Float
) -> Float:
    """Eight corners, x changing fastest, mixed by 0…1 along x, y and z.

    Parameters
    ----------
    a : float
        First coordinate or value.
    b : float
        Second coordinate or value.
    c : float
        Third corner.
    d : float
        Fourth corner.
    e : float
        Fifth corner.
    f : float
        Sixth corner.
    g : float
        Seventh corner.
    h : float
        Eighth corner.
    u, v, w : float
        Coordinate, 0…1.
    """
    near = a + u * (b - a) + v * ((c + u * (d - c)) - (a + u * (b - a)))
    far = e + u * (f - e) + v * ((g + u * (h - g)) - (e + u * (f - e)))
    return near + w * (far - near)


@inlined
def gradient_noise(x: Float, y: Float, z: Float, kx: Int, ky: Int, kz: Int) -> Float:
    """One octave at a point, within ±1 and 0 at whole coordinates; `kx`, `ky`, `kz` are odd numbers that make the seed.

    Parameters
    ----------
    x, y, z : float
        Coordinate.
    kx : int
        Odd number for the lattice along x.
    ky : int
        Odd number for the lattice along y.
    kz : int
        Odd number for the lattice along z.
    """
    one = np.float32(1)
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    rx, ry, rz = x - fx, y - fy, z - fz
    ix, iy = np.uint32(np.uint32(np.int32(fx)) * kx), np.uint32(np.uint32(np.int32(fy)) * ky)
    iz = np.uint32(np.uint32(np.int32(fz)) * kz)
    jx, jy, jz = np.uint32(ix + kx), np.uint32(iy + ky), np.uint32(iz + kz)
    n = blend8(
        edge_gradient(corner_hash(ix, iy, iz), rx, ry, rz),
        edge_gradient(corner_hash(jx, iy, iz), rx - one, ry, rz),
        edge_gradient(corner_hash(ix, jy, iz), rx, ry - one, rz),
        edge_gradient(corner_hash(jx, jy, iz), rx - one, ry - one, rz),
        edge_gradient(corner_hash(ix, iy, jz), rx, ry, rz - one),
        edge_gradient(corner_hash(jx, iy, jz), rx - one, ry, rz - one),
        edge_gradient(corner_hash(ix, jy, jz), rx, ry - one, rz - one),
        edge_gradient(corner_hash(jx, jy, jz), rx - one, ry - one, rz - one),
        fade(rx),
        fade(ry),
        fade(rz),
    )
    return n * np.float32(1 / GREATEST)


@inlined
def leaning_corner(bits: Int, x: Float, y: Float, z: Float, lean: Float) -> Float:
    """A corner's gradient times the way to the point, which lies `lean` away along evolution.

    Parameters
    ----------
    bits : int
        Random bits of a lattice point.
    x, y, z : float
        Coordinate.
    lean : float
        Distance along evolution, 0…1.
    """
    return edge_gradient(bits, x, y, z) * np.float32(1 / GREATEST) + lean_of(bits) * lean


@inlined
def leaning_noise(x: Float, y: Float, z: Float, kx: Int, ky: Int, kz: Int, lean: Float) -> Float:
    """As `gradient_noise`, for a point that lies `lean` away from the lattice along evolution.

    Parameters
    ----------
    x, y, z : float
        Coordinate.
    kx : int
        Odd number for the lattice along x.
    ky : int
        Odd number for the lattice along y.
    kz : int
        Odd number for the lattice along z.
    lean : float
        Distance along evolution, 0…1.
    """
    one = np.float32(1)
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    rx, ry, rz = x - fx, y - fy, z - fz
    ix, iy = np.uint32(np.uint32(np.int32(fx)) * kx), np.uint32(np.uint32(np.int32(fy)) * ky)
    iz = np.uint32(np.uint32(np.int32(fz)) * kz)
    jx, jy, jz = np.uint32(ix + kx), np.uint32(iy + ky), np.uint32(iz + kz)
    return blend8(
        leaning_corner(corner_hash(ix, iy, iz), rx, ry, rz, lean),
        leaning_corner(corner_hash(jx, iy, iz), rx - one, ry, rz, lean),
        leaning_corner(corner_hash(ix, jy, iz), rx, ry - one, rz, lean),
        leaning_corner(corner_hash(jx, jy, iz), rx - one, ry - one, rz, lean),
        leaning_corner(corner_hash(ix, iy, jz), rx, ry, rz - one, lean),
        leaning_corner(corner_hash(jx, iy, jz), rx - one, ry, rz - one, lean),
        leaning_corner(corner_hash(ix, jy, jz), rx, ry - one, rz - one, lean),
        leaning_corner(corner_hash(jx, jy, jz), rx - one, ry - one, rz - one, lean),
        fade(rx),
        fade(ry),
        fade(rz),
    )


@inlined
def corner_value(x: Int, y: Int, z: Int) -> Float:
    """A random number within ±1 for a lattice point.

    Parameters
    ----------
    x, y, z : int
        Coordinate.
    """
    h = np.uint32(x ^ y ^ z)
    h = np.uint32(np.uint32(h ^ (h >> np.uint32(15))) * np.uint32(0x2C1B3C6D))
    # The low bits of a product are poor; the upper ones are folded into them before all are used.
    h = np.uint32(h ^ (h >> np.uint32(12)))
    return np.float32(np.int32(h)) * np.float32(2.0**-31)


@inlined
def value_noise(x: Float, y: Float, z: Float, kx: Int, ky: Int, kz: Int) -> Float:
    """Random numbers at whole coordinates, interpolated between: within ±1.

    Parameters
    ----------
    x, y, z : float
        Coordinate.
    kx : int
        Odd number for the lattice along x.
    ky : int
        Odd number for the lattice along y.
    kz : int
        Odd number for the lattice along z.
    """
    fx, fy, fz = np.floor(x), np.floor(y), np.floor(z)
    ix, iy = np.uint32(np.uint32(np.int32(fx)) * kx), np.uint32(np.uint32(np.int32(fy)) * ky)
    iz = np.uint32(np.uint32(np.int32(fz)) * kz)
    jx, jy, jz = np.uint32(ix + kx), np.uint32(iy + ky), np.uint32(iz + kz)
    return blend8(
        corner_value(ix, iy, iz),
        corner_value(jx, iy, iz),
        corner_value(ix, jy, iz),
        corner_value(jx, jy, iz),
        corner_value(ix, iy, jz),
        corner_value(jx, iy, jz),
        corner_value(ix, jy, jz),
        corner_value(jx, jy, jz),
        fade(x - fx),
        fade(y - fy),
        fade(z - fz),
    )


@inlined
def lattice_keys(seed: Int, octave: Int, slab: Int) -> tuple[Int, Int, Int]:
    """Odd numbers for a lattice, so that no two of its points along an axis share one.

    Parameters
    ----------
    seed : int
        Of the random numbers.
    octave : int
        Picks another lattice.
    slab : int
        Integer part of the evolution.
    """
    own = mixed(np.uint32(seed + np.uint32(octave * 0x9E3779B9 + slab * 0x7FEB352D + 0x1B873593)))
    return np.uint32(own | np.uint32(1)), mixed(own) | np.uint32(1), mixed(mixed(own)) | np.uint32(1)


@kernel
def noise_octave_each(
    position: Array, frequency: Array, seed: Int, octave: Int, evolution: Array, basis: Int, out: Array
) -> None:
    """As `noise_octave`, at an evolution of its own for each point.

    Parameters
    ----------
    position : Array
        `(3, n)` positions in `space`, in its units.
    frequency : Array
        `(3,)` cells to a unit.
    seed : int
        Of the random numbers.
    octave : int
        Picks another lattice.
    evolution : Array
        `(n,)` positions along the fourth axis.
    basis : int
        Which lattice noise, by its number.
    out : Array
        `(width, n)`, filled.
    """
    ax, ay, az = frequency[0], frequency[1], frequency[2]
    one = np.float32(1)
    for i in range(out.shape[0]):
        moment = evolution[i]
        if not abs(moment) < np.float32(1e9):
            out[i] = np.float32(np.nan)
            continue
        slab = np.int64(np.floor(moment))
        r = np.float32(moment - np.floor(moment))
        later = fade(r)
        kx, ky, kz = lattice_keys(seed, octave, slab)
        lx, ly, lz = lattice_keys(seed, octave, slab + 1)
        x, y, z = position[0, i] * ax, position[1, i] * ay, position[2, i] * az
        if basis == 0:
            lean, lean_later = np.float32(LEAN) * r, np.float32(LEAN) * (r - one)
            near = leaning_noise(x, y, z, kx, ky, kz, lean)
            out[i] = (one - later) * near + later * leaning_noise(x, y, z, lx, ly, lz, lean_later)
        else:
            near = value_noise(x, y, z, kx, ky, kz)
            out[i] = (one - later) * near + later * value_noise(x, y, z, lx, ly, lz)


@kernel
def noise_octave(
    position: Array, frequency: Array, seed: Int, octave: Int, evolution: float, basis: Int, out: Array
) -> None:
    """One octave within about ±1 at `position (3, n)` times `frequency (3,)`; `octave` only picks another lattice.

    NaN or infinite coordinates give NaN. Between whole numbers of `evolution` gradient noise may pass ±1 by a little.

    Parameters
    ----------
    position : Array
        `(3, n)` positions in `space`, in its units.
    frequency : Array
        `(3,)` cells to a unit.
    seed : int
        Of the random numbers.
    octave : int
        Picks another lattice.
    evolution : float
        Position along the fourth axis.
    basis : int
        Which lattice noise, by its number.
    out : Array
        `(width, n)`, filled.
    """
    ax, ay, az = frequency[0], frequency[1], frequency[2]
    slab = np.int64(np.floor(evolution))
    r = np.float32(evolution - np.floor(evolution))
    later = fade(r)
    earlier = np.float32(1) - later
    kx, ky, kz = lattice_keys(seed, octave, slab)
    lx, ly, lz = lattice_keys(seed, octave, slab + 1)
    if basis == 0 and r == np.float32(0):
        for i in range(out.shape[0]):
            out[i] = gradient_noise(position[0, i] * ax, position[1, i] * ay, position[2, i] * az, kx, ky, kz)
    elif basis == 0:
        lean, lean_later = np.float32(LEAN) * r, np.float32(LEAN) * (r - np.float32(1))
        for i in range(out.shape[0]):
            x, y, z = position[0, i] * ax, position[1, i] * ay, position[2, i] * az
            out[i] = earlier * leaning_noise(x, y, z, kx, ky, kz, lean)
        for i in range(out.shape[0]):
            x, y, z = position[0, i] * ax, position[1, i] * ay, position[2, i] * az
            out[i] += later * leaning_noise(x, y, z, lx, ly, lz, lean_later)
    else:
        for i in range(out.shape[0]):
            out[i] = value_noise(position[0, i] * ax, position[1, i] * ay, position[2, i] * az, kx, ky, kz)
        if r > np.float32(0):
            for i in range(out.shape[0]):
                n = value_noise(position[0, i] * ax, position[1, i] * ay, position[2, i] * az, lx, ly, lz)
                out[i] = earlier * out[i] + later * n
