"""The channels against the standard's own list of inputs, and the layers against its node graph, as the MaterialX library publishes both."""

import numpy as np
import pytest

from tests.core.standard_nodes import graph_value
from tests.surfaces import material
from texallon.core.document.channels import CHANNEL_BY_NAME, SURFACE_CHANNELS
from texallon.core.kernel import kernel
from texallon.core.shade.coat import coat_emission_transmittance
from texallon.core.shade.ggx import brushed_alphas
from texallon.core.shade.rows import BRUSHING
from texallon.core.shade.stack import facet_index, roughened
from tools.openpbr_table import PAGE, WHY, library_inputs, page, same_default, same_range

OWN = {"wetness", "bump", "displacement", "displacement_vector", "emission_exposure", "self_lit"}
"""Channels that are ours."""


def test_every_input_of_the_standard_is_a_channel() -> None:
    standard = {each.getName() for each in library_inputs()}
    of_surfaces = {each.name for each in SURFACE_CHANNELS}
    assert standard - of_surfaces == set()
    assert of_surfaces - standard == OWN


@pytest.mark.parametrize("each", library_inputs(), ids=lambda each: each.getName())
def test_defaults_and_ranges_are_the_standards_or_said_to_differ(each: object) -> None:
    name = each.getName()  # type: ignore[attr-defined]
    same = same_range(each, CHANNEL_BY_NAME[name]) and same_default(each, CHANNEL_BY_NAME[name])
    assert same != (name in WHY)


def test_the_page_says_so() -> None:
    assert PAGE.read_text() == page(), "python -m tools.openpbr_table"


@kernel
def layers(m: np.ndarray, z: float, out: np.ndarray) -> None:
    out[0], out[1] = roughened(m, 0), facet_index(m, 0, True)
    out[2], out[3] = brushed_alphas(out[0], m[BRUSHING, 0])
    out[4] = coat_emission_transmittance(m, 0, 0, z)


@pytest.mark.parametrize("seed", range(30))
def test_coat_and_base_meet_as_in_the_published_graph(seed: int) -> None:
    """Roughness, index and emission below a coat, for random values: the graph's own nodes evaluated."""
    rng = np.random.default_rng(seed)
    given = {
        "coat_weight": rng.uniform(), "coat_roughness": rng.uniform(), "coat_ior": rng.uniform(1.05, 2.5),
        "specular_roughness": rng.uniform(), "specular_ior": rng.uniform(1.05, 2.5), "specular_weight": rng.uniform(),
        "specular_roughness_anisotropy": rng.uniform(), "coat_color": rng.uniform(),
    }  # fmt: skip
    z, out = float(rng.uniform(0.05, 1)), np.zeros(5)
    layers(material(**given), z, out)
    inputs = given | {"coat_color": (given["coat_color"],) * 3}
    assert out[0] == pytest.approx(graph_value("effective_specular_roughness", inputs), abs=1e-5)
    assert out[1] == pytest.approx(graph_value("modulated_eta_s", inputs), abs=1e-4)
    assert out[2:4] == pytest.approx(np.maximum(graph_value("main_roughness", inputs), 1e-4), rel=1e-3, abs=1e-5)
    # The emission's closure: mix(1, colour × Schlick(1 − F0, 0, 5), weight), with the graph's own F0.
    bare = graph_value("one_minus_coat_F0", inputs)
    coated = given["coat_color"] * bare * (1 - (1 - z) ** 5)
    assert out[4] == pytest.approx(1 + given["coat_weight"] * (coated - 1), abs=1e-5)
