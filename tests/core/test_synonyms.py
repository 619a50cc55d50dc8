"""Ops are found by the words that artists use (the words a newcomer typed in vain; common practice, no published source)."""

import pytest

from texallon.core.ops.registry import describe, ops
from texallon.core.ops.synonyms import SYNONYMS


@pytest.mark.parametrize(
    ("word", "op"),
    [
        ("underside", "slope"),
        ("facing", "view angle"),
        ("facing", "slope"),
        ("edge", "view angle"),
        ("rim", "view angle"),
        ("dirt", "noise"),
        ("fresnel", "view angle"),
        ("voronoi", "cellular"),
        ("texture", "image"),
        ("lerp", "mix"),
        ("posterize", "levels"),
    ],
)
def test_a_word_of_the_trade_leads_to_its_op(word: str, op: str) -> None:
    assert any(word in each for each in describe(ops()[op])["synonyms"])


def test_every_op_has_other_words_and_none_is_of_an_op_that_is_not_there() -> None:
    assert set(SYNONYMS) == set(ops())
    assert all(words and name not in words for name, words in SYNONYMS.items())
