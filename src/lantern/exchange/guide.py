"""An illustrated guide: what a test does, for people who learn the process; HTML and Markdown."""

from __future__ import annotations

import base64
import io
import zipfile
from dataclasses import dataclass
from importlib.resources import files

from jinja2 import Environment
from PIL import Image, ImageDraw, UnidentifiedImageError

LIGHT = (240, 169, 43)
"""The colour of what is lit, as in the interface."""
WIDEST = 960
"""Pixels that a picture is wide at the most."""
POLICY = "default-src 'none'; img-src data:; style-src 'unsafe-inline'"
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class GuideStep:
    """A step in plain words; `picture` is JPEG or PNG, `box` the lit part in shares of it."""

    words: str
    title: str = ""
    comment: str = ""
    picture: bytes = b""
    box: Box | None = None


@dataclass(frozen=True)
class GuideScene:
    """Steps on one page."""

    page: str
    steps: tuple[GuideStep, ...]


@dataclass(frozen=True)
class Guide:
    """A whole guide; `example` are the values of the row that it follows."""

    name: str
    application: str
    scenes: tuple[GuideScene, ...]
    example: tuple[tuple[str, str], ...] = ()


def lit(picture: bytes, box: Box | None) -> bytes:
    """Return a picture as JPEG with the box lit; nothing when it can not be read."""
    try:
        image = Image.open(io.BytesIO(picture)).convert("RGB")
    except (UnidentifiedImageError, OSError, ValueError):
        return b""
    if image.width > WIDEST:
        image = image.resize((WIDEST, round(image.height * WIDEST / image.width)))
    if box:
        x, y, width, height = box
        left, top = x * image.width - 4, y * image.height - 4
        right, bottom = (x + width) * image.width + 4, (y + height) * image.height + 4
        if right > left and bottom > top:
            ImageDraw.Draw(image).rectangle((left, top, right, bottom), outline=LIGHT, width=4)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=82)
    return out.getvalue()


def as_html(guide: Guide) -> bytes:
    """Return the guide as one HTML file with its pictures inside."""
    environment = Environment(autoescape=True, trim_blocks=True, lstrip_blocks=True)

    def shown(step: GuideStep) -> str:
        picture = lit(step.picture, step.box) if step.picture else b""
        return f"data:image/jpeg;base64,{base64.b64encode(picture).decode()}" if picture else ""

    environment.filters["shown"] = shown
    source = files("lantern.exchange").joinpath("guide.html").read_text(encoding="utf-8")
    return environment.from_string(source).render(guide=guide, policy=POLICY).encode()


def as_markdown(guide: Guide) -> bytes:
    """Return the guide as a ZIP archive: guide.md and the pictures that it shows."""
    out = io.BytesIO()
    lines = [f"# {_plain(guide.name)}", "", f"How it is done in {_plain(guide.application)}."]
    if guide.example:
        lines += ["", "The example:", ""]
        lines += [f"- {_plain(name)}: {_plain(value)}" for name, value in guide.example]
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        number = 0
        for scene in guide.scenes:
            lines += ["", f"## {_plain(scene.page or guide.name)}", ""]
            for step in scene.steps:
                number += 1
                lines.append(f"{number}. {_plain(step.title or step.words)}")
                if step.title:
                    lines += ["", f"   {_plain(step.words)}"]
                if step.comment:
                    lines += ["", f"   {_plain(step.comment)}"]
                picture = lit(step.picture, step.box) if step.picture else b""
                if picture:
                    archive.writestr(f"pictures/{number:02}.jpg", picture)
                    lines += ["", f"   ![Step {number}](pictures/{number:02}.jpg)", ""]
        archive.writestr("guide.md", "\n".join(lines) + "\n")
    return out.getvalue()


def _plain(text: str) -> str:
    """Return a text as one line in which Markdown sees no markup."""
    line = " ".join(text.split())
    return "".join(f"\\{sign}" if sign in "\\`*_[]<>#|" else sign for sign in line)
