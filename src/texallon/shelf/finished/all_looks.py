"""All finished looks, in the order in which the shelf shows them."""

from functools import cache

from texallon.shelf.finished import Finished, burnt, ice_and_glass, metals, soft, stone_and_earth, wood_and_cloth


@cache
def finished_looks() -> dict[str, Finished]:
    """Every look that ships, by its name."""
    made = [
        stone_and_earth.stone(), stone_and_earth.brick(), wood_and_cloth.bark(), wood_and_cloth.leather(), metals.cast_iron(),
        metals.brass(), metals.copper_green(), wood_and_cloth.painted_wood(), soft.wax(), soft.porcelain(), wood_and_cloth.cloth(),
        stone_and_earth.soil(), stone_and_earth.sand(), ice_and_glass.snow(), ice_and_glass.ice(), ice_and_glass.glass(),
        ice_and_glass.milk_glass(), ice_and_glass.water(), soft.slime(), burnt.charcoal(), burnt.soot(), metals.gold_leaf(),
        soft.pearl(), wood_and_cloth.paper(),
    ]  # fmt: skip
    return {each.name: each for each in made}
