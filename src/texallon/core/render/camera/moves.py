"""Moving a camera by hand: orbit about its target, slide across the picture, come nearer, and fly through the scene."""

from math import acos, atan2, cos, exp, pi, sin

import numpy as np

from texallon.core.document.camera import Camera

CLOSEST = 1e-3


def orbit(camera: Camera, across: float, down: float) -> Camera:
    """Turn about the target; a drag over the whole width (`across` 1) is half a turn. Never goes over the top.

    Parameters
    ----------
    camera : Camera
        Where it stands and what it looks at.
    across : float
        Shares of the picture's width.
    down : float
        Shares of the picture's height.
    """
    away = np.array(camera.position) - np.array(camera.target)
    radius = float(np.linalg.norm(away))
    azimuth = atan2(away[0], away[2]) - across * pi
    polar = min(max(acos(min(max(away[1] / radius, -1.0), 1.0)) - down * pi, 0.01), pi - 0.01)
    offset = radius * np.array([sin(polar) * sin(azimuth), cos(polar), sin(polar) * cos(azimuth)])
    return _placed(camera, np.array(camera.target) + offset, np.array(camera.target))


def pan(camera: Camera, across: float, down: float, shape: float) -> Camera:
    """Slide so that what lies at the target's distance follows the hand; `shape` is width over height.

    Parameters
    ----------
    camera : Camera
        Where it stands and what it looks at.
    across : float
        Shares of the picture's width.
    down : float
        Shares of the picture's height.
    shape : float
        Width over height.
    """
    position, target = np.array(camera.position), np.array(camera.target)
    forward = target - position
    distance = float(np.linalg.norm(forward))
    forward = forward / distance
    right = np.cross(forward, [0.0, 1.0, 0.0])
    right = right / max(float(np.linalg.norm(right)), 1e-9)
    up = np.cross(right, forward)
    width = distance * camera.film_width / camera.focal_length
    move = -right * across * width + up * down * width / shape
    return _placed(camera, position + move, target + move)


def dolly(camera: Camera, amount: float) -> Camera:
    """Come nearer to the target (`amount` > 0) or step back; each unit changes the distance by a factor of e.

    Parameters
    ----------
    camera : Camera
        Where it stands and what it looks at.
    amount : float
        Above 0 nearer.
    """
    away = np.array(camera.position) - np.array(camera.target)
    radius = float(np.linalg.norm(away))
    nearer = min(max(radius * exp(-amount), CLOSEST), 1e5)
    return _placed(camera, np.array(camera.target) + away * (nearer / radius), np.array(camera.target))


def fly(camera: Camera, across: float, ahead: float) -> Camera:
    """Move camera and target together, to the right and ahead, in shares of the distance between them.

    Parameters
    ----------
    camera : Camera
        Where it stands and what it looks at.
    across : float
        Shares of the picture's width.
    ahead : float
        Shares of the distance to the target.
    """
    position, target = np.array(camera.position), np.array(camera.target)
    forward = target - position
    right = np.cross(forward, [0.0, 1.0, 0.0])
    right = right / max(float(np.linalg.norm(right)), 1e-9) * float(np.linalg.norm(forward))
    move = right * across + forward * ahead
    return _placed(camera, position + move, target + move)


def fit_box(camera: Camera, low: np.ndarray, high: np.ndarray, shape: float = 16 / 9) -> Camera:
    """Look at a box, from the same side as before, so that its bounding sphere fills most of the picture.

    Parameters
    ----------
    camera : Camera
        Where it stands and what it looks at.
    low : Array
        `(3,)` lowest corner, metres.
    high : Array
        `(3,)` highest corner, metres.
    shape : float, optional
        Width over height.
    """
    centre = (low + high) / 2
    radius = max(float(np.linalg.norm(high - low)) / 2, CLOSEST)
    away = np.array(camera.position) - np.array(camera.target)
    away = away / max(float(np.linalg.norm(away)), 1e-9)
    half = 0.5 * camera.film_width / camera.focal_length / max(shape, 1.0)
    distance = radius / sin(atan2(half, 1.0)) * 1.02
    return _placed(camera, centre + away * distance, centre)


def _placed(camera: Camera, position: np.ndarray, target: np.ndarray) -> Camera:
    def rounded(point: np.ndarray) -> tuple[float, float, float]:
        x, y, z = (round(float(value), 5) for value in point)
        return x, y, z

    return camera.model_copy(update={"position": rounded(position), "target": rounded(target)})
