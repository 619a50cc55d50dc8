"""What any JSON must keep to: the size of what is sound, and the place of what is not, wherever it lies."""

import copy
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from texallon.core.document.extent import DEEPEST, EXACT, LONGEST, MOST, check_extent
from texallon.core.document.problem import DocumentError

TEXTS = st.text(st.characters(exclude_characters="\0", exclude_categories=["Cs"]), max_size=6)
NUMBERS = st.integers(-EXACT, EXACT) | st.floats(allow_nan=False, allow_infinity=False)
JSON: st.SearchStrategy[Any] = st.recursive(
    st.none() | st.booleans() | NUMBERS | TEXTS,
    lambda inner: st.lists(inner, max_size=5) | st.dictionaries(TEXTS, inner, max_size=5),
    max_leaves=30,
)


def counted(data: Any) -> int:
    """One for each value and for each character of texts and names, counted plainly."""
    if isinstance(data, dict):
        return 1 + sum(len(name) + counted(each) for name, each in data.items())
    if isinstance(data, list):
        return 1 + sum(map(counted, data))
    return 1 + (len(data) if isinstance(data, str) else 0)


def holders(data: Any) -> list[tuple[Any, str]]:
    """Every object and list in parsed JSON, with the pointer to it."""
    found: list[tuple[Any, str]] = []

    def visit(value: Any, at: str) -> None:
        if isinstance(value, dict):
            found.append((value, at))
            for name, each in value.items():
                visit(each, f"{at}/{name.replace('~', '~0').replace('/', '~1')}")
        elif isinstance(value, list):
            found.append((value, at))
            for index, each in enumerate(value):
                visit(each, f"{at}/{index}")

    visit(data, "")
    return found


@settings(deadline=None)
@given(JSON)
def test_what_is_sound_is_counted_and_left_as_it_is(data: Any) -> None:
    before = copy.deepcopy(data)
    assert check_extent(data) == counted(data)
    assert repr(data) == repr(before)


@settings(deadline=None)
@given(
    st.dictionaries(TEXTS, JSON, min_size=1, max_size=4),
    st.sampled_from([
        (float("nan"), "not a number that JSON knows"),
        (float("-inf"), "not a number that JSON knows"),
        (EXACT + 1, "too large"),
        (-EXACT - 1, "too large"),
        ("a\0b", "the character NUL"),
        ("\ud800", "half of a character"),
    ]),
    st.data(),
)  # fmt: skip
def test_what_is_amiss_is_told_with_its_place(
    data: dict[str, Any], fault: tuple[Any, str], chosen: st.DataObject
) -> None:
    value, reason = fault
    holder, at = chosen.draw(st.sampled_from(holders(data)))
    if isinstance(holder, dict):
        holder["planted"] = value
        at += "/planted"
    else:
        holder.append(value)
        at += f"/{len(holder) - 1}"
    with pytest.raises(DocumentError) as caught:
        check_extent(data)
    (problem,) = caught.value.problems
    assert problem.pointer == at
    assert reason in str(problem)


@pytest.mark.parametrize("name", [3, "a\0", "\udfff"])
def test_a_name_that_is_none_is_refused_where_it_stands(name: Any) -> None:
    with pytest.raises(DocumentError) as caught:
        check_extent({"outer": [{name: 1}]})
    assert caught.value.problems[0].pointer == "/outer/0"


def nested(levels: int) -> Any:
    data: Any = 1
    for level in range(levels):
        data = [data] if level % 2 else {"a": data}
    return data


def test_what_is_as_deep_as_may_be_is_read_and_deeper_is_not() -> None:
    assert check_extent(nested(DEEPEST)) == counted(nested(DEEPEST))
    for levels in (DEEPEST + 1, 5000):
        with pytest.raises(DocumentError, match=f"more than {DEEPEST} deep"):
            check_extent(nested(levels))


def test_as_many_values_and_characters_as_may_be_are_read_and_one_more_is_not() -> None:
    assert check_extent([0] * (MOST - 1)) == MOST
    assert check_extent(["a" * LONGEST]) == LONGEST + 2
    with pytest.raises(DocumentError, match="more than 400,000 values"):
        check_extent([0] * MOST)
    with pytest.raises(DocumentError, match="longer than 4,000,000 characters"):
        check_extent({"a" * LONGEST: "b"})
