"""Laws of the house: what a reader may rely on without looking."""

from __future__ import annotations

import re
import subprocess
import sys
from importlib import import_module
from importlib.metadata import distributions
from importlib.util import find_spec
from pathlib import Path

import pytest
from packaging.requirements import Requirement
from packaging.utils import canonicalize_name

from thermion.core import api
from thermion.core.kinds import all_kinds

ROOT = Path(__file__).parent.parent


def tracked(*patterns: str) -> list[Path]:
    listed = subprocess.run(
        ["git", "ls-files", *patterns], cwd=ROOT, capture_output=True, text=True, check=True
    ).stdout.split()
    return [ROOT / name for name in listed]


def test_files_stay_short_and_say_what_they_are_for():
    for path in tracked("thermion/*.py", "bench/*.py"):
        text = path.read_text()
        assert len(text.splitlines()) <= 420, path
        if path.name != "__init__.py" and "versions" not in path.parts:
            assert text.startswith('"""'), path


def test_no_word_about_a_family_outside_its_folder():
    """Neither a list of families nor a rule of one: nobody outside knows an oven from a sail."""
    words = [kind.key for kind in all_kinds().values()] + ["reflector", "irradiance", "lamp_m", "sun_deg"]
    for path in tracked("thermion/*.py", "thermion/*.html", "thermion/*.js"):
        inside = path.relative_to(ROOT).as_posix()
        if inside.startswith(("thermion/core/kinds/", "thermion/core/physics/", "thermion/core/sim/")):
            continue
        if inside.startswith(("thermion/demo/", "thermion/records/migrations/")) or "vendor" in inside:
            continue
        text = path.read_text()
        assert [w for w in words if re.search(rf"\b{w}", text)] == [], inside


def test_a_family_imports_no_other_family():
    for path in tracked("thermion/core/kinds/*/*.py"):
        mine = path.parent.name
        found = re.findall(r"thermion\.core\.kinds\.(\w+)", path.read_text())
        assert set(found) & (set(all_kinds()) - {mine}) == set(), path


ADDRESSES = [
    "curves",
    "oven",
    "heat",
    "melting",
    "lift",
    "sail",
    "rain",
    "sun",
    "claims",
    "scoring",
    "plausibility",
    "findings",
    "schedule",
    "kit",
]


@pytest.mark.parametrize("name", ADDRESSES)
def test_the_addresses_for_other_programs_lead_into_the_rooms(name):
    """docs/methods.md and other programs say thermion.core.curves; inside, the rooms are named."""
    address = import_module(f"thermion.core.{name}")
    rooms = [f"thermion.core.{room}.{name}" for room in ("physics", "judging", "planning")]
    room = next(import_module(r) for r in rooms if find_spec(r))
    mine = [n for n, v in vars(room).items() if getattr(v, "__module__", "") == room.__name__ and n[0] != "_"]
    assert mine
    assert all(getattr(address, n) is getattr(room, n) for n in mine)
    assert getattr(api, name) is address
    for path in tracked("thermion/*.py", "bench/*.py"):
        used = re.search(rf"^\s*(from|import) thermion\.core\.({name}|api)\b", path.read_text(), re.M)
        assert used is None, path


def test_lock_files_have_hashes_and_no_addresses():
    for name in ("requirements.txt", "requirements-dev.txt"):
        text = (ROOT / name).read_text()
        assert "://" not in text
        pinned = re.findall(r"^[a-z][\w.-]*==", text, re.M)
        assert len(pinned) > 20
        assert text.count("--hash=sha256:") > len(pinned)
    lock = (ROOT / "package-lock.json").read_text()
    assert '"resolved"' not in lock
    assert "://" not in lock


def test_a_lock_pins_what_is_asked_for_with_its_extras():
    """Else pip stops with "must have their versions pinned" on the day that package has a newer release."""
    lock = (ROOT / "requirements-dev.txt").read_text()
    pinned = set(re.findall(r"^([a-z][\w.-]*(?:\[[\w,-]+\])?)==", lock, re.M))
    plain = {name.split("[")[0] for name in pinned}
    asked = [
        need
        for found in distributions()
        if canonicalize_name(found.metadata["Name"]) in plain
        for need in map(Requirement, found.requires or [])
        if need.extras and (need.marker is None or need.marker.evaluate({"extra": ""}))
    ]
    assert asked
    for need in asked:
        name = canonicalize_name(need.name)
        assert any(f"{name}[{extra}]" in pinned for extra in need.extras), need


def test_every_dependency_is_explained_and_every_picture_linked():
    decisions = (ROOT / "docs/decisions.md").read_text().lower()
    for name in ("requirements.in", "requirements-dev.in"):
        for line in (ROOT / name).read_text().splitlines():
            if line and not line.startswith(("#", "-r")):
                assert line.lower().split(">")[0] in decisions, line
    readme = (ROOT / "README.md").read_text()
    pictures = tracked("docs/screenshots/*.png")
    assert 0 < len(pictures) < 20
    for picture in pictures:
        assert f"docs/screenshots/{picture.name}" in readme
    for link in re.findall(r"\]\(((?:docs/)[^)]+)\)", readme):
        assert (ROOT / link).exists(), link


@pytest.mark.parametrize("page", ["methods", "addresses"])
def test_what_is_made_from_the_program_is_the_one_it_makes_now(page):
    said = f"import sys; sys.path.insert(0, 'docs'); import make_{page} as m; sys.stdout.write(m.pages())"
    made = subprocess.run([sys.executable, "-c", said], cwd=ROOT, capture_output=True, text=True, check=True)
    assert made.stdout == (ROOT / f"docs/{page}.md").read_text(), "run 'make docs' and commit"


def test_pages_hold_no_script_and_no_style_of_their_own():
    pages = tracked("thermion/web/*/templates/*", "thermion/web/places/*/templates/*")
    assert len(pages) > 60
    for path in pages:
        text = path.read_text()
        assert max(map(len, text.splitlines())) <= 120, path
        assert not re.search(r"\sstyle=|<style|\son(click|change|input|submit|load)=", text), path
        for script in re.findall(r"<script[^>]*>", text):
            assert "src=" in script or "application/json" in script, path


def test_views_know_no_other_views():
    """What two places need stands in a room below them."""
    for path in tracked("thermion/web/places/*/views*.py"):
        assert not re.search(r"^from thermion\.web\.places\.\w+\.views", path.read_text(), re.M), path


def test_colours_are_named_once():
    for path in tracked("assets/styles/*.css", "assets/pictures/*.css"):
        assert not re.search(r"#[0-9a-f]{3,8}\b|rgb\(", path.read_text()), path
    for path in tracked("thermion/web/*/templates/*", "thermion/web/places/*/templates/*"):
        assert not re.search(r"(fill|stroke)=.#", path.read_text()), path


@pytest.mark.parametrize("module", ["thermion.core.physics.curves", "thermion.core.judging.findings"])
def test_the_core_comes_without_web_database_or_pint(module):
    code = (
        f"import sys, {module}; "
        "bad = {'flask', 'sqlalchemy', 'pint', 'pandas', 'jinja2'} & set(sys.modules); "
        "sys.exit(str(bad) if bad else 0)"
    )
    done = subprocess.run([sys.executable, "-c", code], cwd=ROOT, capture_output=True, check=False)
    assert done.returncode == 0, done.stderr
