"""What the architecture's page says is there: every file and name of its walk exists, and so do the glossary's names."""

import ast
import re
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
WALK = (ROOT / "docs" / "architecture.md").read_text()
STOPS = sorted(set(re.findall(r"`((?:src|web)/[\w./]+\.(?:py|ts|svelte))(?::([\w.]+))?`", WALK)))


def names_in(path: Path) -> set[str]:
    """Functions, classes and methods that a Python file defines, methods as `Class.method`."""
    found = set()
    for node in ast.parse(path.read_text()).body:
        if isinstance(node, (ast.FunctionDef, ast.ClassDef)):
            found.add(node.name)
        if isinstance(node, ast.ClassDef):
            found |= {f"{node.name}.{each.name}" for each in node.body if isinstance(each, ast.FunctionDef)}
    return found


@pytest.mark.parametrize(("file", "name"), STOPS)
def test_a_stop_of_the_walk_exists(file: str, name: str) -> None:
    path = ROOT / file
    assert path.is_file()
    if name:
        assert name in names_in(path)


def test_the_walk_goes_from_the_hand_to_the_pixel() -> None:
    edit, frame = (
        [file for file, _ in re.findall(r"`((?:src|web)/[\w./]+)(?::([\w.]+))?`", each)]
        for each in WALK.split("## Rooms")
    )
    assert edit[0].startswith("web/") and edit[-1].endswith("Stage.svelte") and len(edit) > 25
    assert frame[0].endswith("OrderPanel.svelte") and frame[-1].endswith("QueuePage.svelte")


GLOSSARY = (ROOT / "docs" / "glossary.md").read_text()
TERMS = re.findall(r"^\| \*\*(.+?)\*\* \|", GLOSSARY, re.MULTILINE)


def test_a_word_has_one_meaning() -> None:
    assert len(TERMS) == len(set(TERMS)) > 60
    assert sorted(TERMS, key=str.lower) == TERMS, "in alphabetical order"


@pytest.mark.parametrize("name", re.findall(r"`(\w+)`", GLOSSARY))
def test_a_name_of_the_glossary_is_used(name: str) -> None:
    sources = [*(ROOT / "src").rglob("*.py"), *(ROOT / "web" / "src").rglob("*.svelte")]
    assert any(re.search(rf"\b{name}\b", path.read_text()) for path in sources)
