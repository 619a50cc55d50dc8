"""The stage's picture in the making: a coarse film, one of half size, the full one, and what of them an edit leaves standing."""

import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np

from texallon.core.document import Shot
from texallon.core.kernel import Array
from texallon.core.render.camera.view import make_view
from texallon.core.render.files import Files
from texallon.core.render.film.denoise import denoise
from texallon.core.render.film.film import Film, PrimaryCache, Region
from texallon.core.render.film.light_mix import mix_light_groups
from texallon.core.render.light.lights import Lights, make_lights
from texallon.core.render.light.mesh_lights import MeshLights, join_emitters, make_mesh_lights
from texallon.core.render.render_frame import backdrop_picture, group_weights
from texallon.core.render.scene.scene import Scene
from texallon.core.render.surface.materials import make_materials
from texallon.core.render.transport.context import RenderContext, frame_seed
from texallon.engine.light_mix_preview import QUIET, LightMixPreview

SMOOTHED = 64
"""Samples up to which the stage shows the denoised picture."""

COARSE_PIXELS = 14_400
"""Size of the first picture, about."""

SHOWN_AT = (1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48)
"""Samples after which a picture is sent; from there on every 32."""


@dataclass(frozen=True)
class StageImage:
    """A picture `(height, width, 3)` for the stage, of a kind (`coarse`, `half`, `full`), from some samples."""

    picture: Array
    kind: str
    samples: int
    rough: bool = False
    """Whether a better one follows at once."""


@dataclass(frozen=True)
class _Smooth:
    """What the denoiser made of a film, and how the light groups were weighed."""

    film: Film
    weights: Array
    picture: Array


def traced_alike(one: Shot, other: Shot) -> bool:
    """Whether shots differ at most in what is done with the light when it has been traced: light groups' weights, and bloom."""
    if one is other:
        return True
    names = [[group.name for group in shot.light_groups] for shot in (one, other)]
    return names[0] == names[1] and one == other.model_copy(
        update={"light_groups": one.light_groups, "bloom": one.bloom}
    )


class StagePicture:
    """Films of one window, kept as long as nothing that they show has changed."""

    def __init__(self, files: Files, pool: ThreadPoolExecutor) -> None:
        self._files, self._pool = files, pool
        self._primary = PrimaryCache()
        self._key = ""
        self.film: Film | None = None
        """The full picture in the making."""
        self._half: Film | None = None
        self._rough: Array | None = None
        self._smooth: _Smooth | None = None
        self._quick = False
        self._groups: tuple[Film, int, Array] | None = None
        self._balance: tuple[tuple[Film, int, bool], LightMixPreview] | None = None
        self._glow: tuple[object, MeshLights] | None = None
        self._lights: tuple[object, Lights] | None = None
        self._job: tuple[tuple[Scene, tuple[int, int], int | None, Region | None], Shot, RenderContext] | None = None
        self.seconds = 0.0
        """Spent on the picture so far."""
        self._sampling = 0.0

    def begin(
        self,
        shot: Shot,
        scene: Scene,
        size: tuple[int, int],
        frame: int | None,
        region: Region | None,
        wanted: Callable[[], bool],
    ) -> RenderContext:
        """What to render. Films that no longer show the shot are thrown away.

        Shots that are traced alike give the same job again, whatever samples came between.
        """
        state = (scene, size, frame, region)
        kept = self._job
        if kept is not None and kept[0] == state and traced_alike(kept[1], shot):
            return replace(kept[2], wanted=wanted)
        context = self._make_job(shot, scene, size, frame, wanted)
        worn = [(item.look, item.parts, item.priority, item.group) for item in shot.objects if item.visible]
        parts = [
            scene.key, context.materials.key(), context.view.key().hex(), shot.environment, shot.lights, shot.backdrop,
            [group.name for group in shot.light_groups], shot.bounces, shot.limits, shot.seed, shot.sampling.noise, worn,
            region,
        ]  # fmt: skip
        key = "|".join(str(part) for part in parts)
        if key != self._key:
            self._key = key
            self.film = self._half = self._smooth = self._rough = self._groups = self._balance = None
            self.seconds = self._sampling = 0.0
        self._job = (state, shot, context)
        return context

    def _make_job(
        self, shot: Shot, scene: Scene, size: tuple[int, int], frame: int | None, wanted: Callable[[], bool]
    ) -> RenderContext:
        """Lights and shining surfaces are looked at again only when they changed."""
        lit = (shot.environment, shot.lights, [group.name for group in shot.light_groups], shot.backdrop, scene.radius)
        if self._lights is None or self._lights[0] != lit:
            self._lights = (lit, make_lights(shot, self._files, scene.radius))
        materials = make_materials(shot, frame)
        worn = [(item.look, item.parts) for item in shot.objects if item.visible]
        shining = (scene.key, materials.emission_key(), worn)
        if self._glow is None or self._glow[0] != shining:
            self._glow = (shining, make_mesh_lights(scene, materials))
        sources = join_emitters(self._lights[1], self._glow[1], scene)
        return RenderContext(
            scene, materials, self._lights[1], sources, make_view(shot.camera, *size), shot.bounces, shot.limits,
            frame_seed(shot.seed, shot.frames.first if frame is None else frame), wanted, final=False,
            backdrop=backdrop_picture(shot, self._files), view_seed=shot.seed,
        )  # fmt: skip

    @property
    def begun(self) -> bool:
        """Whether the full picture has any samples."""
        return self.film is not None and self.film.samples > 0

    def first(self, shot: Shot, context: RenderContext) -> StageImage:
        """A picture at once: the one in the making, or a coarse one."""
        film = self.film
        if film is not None and film.samples:
            return StageImage(self._balanced(film, shot, context), "full", film.samples, self._quick)
        width, height = context.view.width, context.view.height
        scale = max(2, round((width * height / COARSE_PIXELS) ** 0.5))
        small = self._new(shot, context, max(width // scale, 8), max(height // scale, 8))
        small.add_sample(_resized(shot, context, small), self._pool, self._primary)
        self._rough = small.denoised(context.check, group_weights(shot))
        return StageImage(self._rough, "coarse", small.samples)

    def half(self, shot: Shot, context: RenderContext) -> StageImage:
        """A picture of half size."""
        film = self._half or self._new(shot, context, max(context.view.width // 2, 8), max(context.view.height // 2, 8))
        self._half = film
        film.add_sample(_resized(shot, context, film), self._pool)
        self._rough = film.denoised(context.check, group_weights(shot))
        return StageImage(self._rough, "half", film.samples)

    def more(self, shot: Shot, context: RenderContext, region: Region | None) -> StageImage | None:
        """One more sample; a picture where it is time for one."""
        if self._quick and self.film is not None:  # what was weighed anew in haste is made well first
            shown = StageImage(self._weighed_well(self.film, shot, context), "full", self.film.samples)
            self._quick = False
            return shown
        if self.film is not None and self.finished(shot):  # no sample more than was asked for
            return self.first(shot, context)
        film = self.film or self._new(shot, context, context.view.width, context.view.height, region)
        self.film = film
        begun = time.perf_counter()
        film.add_sample(context, self._pool, self._primary)
        self._sampling += time.perf_counter() - begun
        count = film.samples
        if count in SHOWN_AT or count % 32 == 0 or self.finished(shot):
            return StageImage(self._smoothed(film, shot, context), "full", count)
        return None

    def finished(self, shot: Shot) -> bool:
        """Whether the picture is as good as the shot asks for."""
        film = self.film
        return film is not None and (film.samples >= shot.sampling.samples or film.done)

    def seconds_left(self, shot: Shot) -> float | None:
        """How long until it is, at most."""
        film = self.film
        if film is None or not film.samples:
            return None
        return 0.0 if film.done else self._sampling / film.samples * max(shot.sampling.samples - film.samples, 0)

    def _new(self, shot: Shot, context: RenderContext, width: int, height: int, region: Region | None = None) -> Film:
        return Film(width, height, len(context.lights.names), False, shot.sampling.noise, region)

    def _balanced(self, film: Film, shot: Shot, context: RenderContext) -> Array:
        """The film with its light groups weighed as the shot says now; in haste, where they were weighed otherwise before."""
        weights, smooth = group_weights(shot), self._smooth
        self._quick = False
        if smooth is None or smooth.film is not film or smooth.weights.shape != weights.shape:
            return self._smoothed(film, shot, context)
        if (smooth.weights == weights).all():
            return smooth.picture
        self._quick = True
        known = self._groups if self._groups is not None and self._groups[:2] == (film, film.samples) else None
        state = (film, film.samples, known is not None)
        if self._balance is None or self._balance[0] != state:
            groups = known[2] if known else np.stack([film.group(number) for number in range(film.groups)])
            noisy = known is None and film.samples < QUIET
            self._balance = (state, LightMixPreview(smooth.picture, smooth.weights, groups, noisy))
        return self._balance[1].mix_light_groups(weights)

    def _weighed_well(self, film: Film, shot: Shot, context: RenderContext) -> Array:
        """The same without haste: each light group is smoothed by itself, so that the next weights are an addition."""
        weights = group_weights(shot)
        if film.samples > SMOOTHED:
            return self._smoothed(film, shot, context)
        if self._groups is None or self._groups[:2] != (film, film.samples):
            guides = film.albedo(), film.normal()
            pictures = [denoise(film.group(number), *guides, context.check) for number in range(film.groups)]
            self._groups = (film, film.samples, np.stack(pictures))
        picture = self._filled(mix_light_groups(self._groups[2], weights), film)
        self._smooth = _Smooth(film, weights, picture)
        return picture

    def _smoothed(self, film: Film, shot: Shot, context: RenderContext) -> Array:
        weights = group_weights(shot)
        picture = film.denoised(context.check, weights) if film.samples <= SMOOTHED else film.picture(weights)
        context.check()
        picture = self._filled(picture, film)
        self._smooth = _Smooth(film, weights, picture)
        return picture

    def _filled(self, picture: Array, film: Film) -> Array:
        """Outside the region the rough picture stays."""
        sampled = film.sampled()
        if sampled.all() or self._rough is None:
            return picture
        height, width, _ = picture.shape
        small = self._rough
        rows = np.arange(height) * small.shape[0] // height
        columns = np.arange(width) * small.shape[1] // width
        return np.where(sampled[:, :, None], picture, small[rows[:, None], columns[None]])


def _resized(shot: Shot, context: RenderContext, film: Film) -> RenderContext:
    return replace(context, view=make_view(shot.camera, film.width, film.height))
