"""The style sheet: one `@font-face` rule a face, the stacks as custom properties, and how to use them."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from pathlib import PurePath

from aksara.sizes import format_size
from aksara.web.model import LicenceNote, WebFace, WebFamily, format_label
from aksara.web.syntax import comment_text, family_name, property_name, string
from aksara.web.urls import url_value

#: How the style sheet begins; by this Aksara knows its own files again.
MARK = "/* Made by Aksara"
_LINE = 100


def style_sheet(families: Sequence[WebFamily], *, display: str, version: str, licence: LicenceNote) -> str:
    """The whole text. Equal input gives equal text."""
    parts = [_head(families, version, licence)]
    for family in families:
        parts += [rule(family, face, display=display) for face in family.faces]
    parts.append(_properties(families))
    parts.append(usage(families))
    return "\n\n".join(parts) + "\n"


def _head(families: Sequence[WebFamily], version: str, licence: LicenceNote) -> str:
    lines = [f"{MARK} {version}. The next build writes it anew: change the build, not this file."]
    lines += [f"   {comment_text(f'{family.name}: {family.notice}')}" for family in families if family.notice]
    lines += [f"   {comment_text(licence.words)}"] if licence.words else []
    return "\n".join(lines) + " */"


def rule(family: WebFamily, web: WebFace, *, display: str) -> str:
    """The `@font-face` rule of a face, with a comment that names it (CSS Fonts 4, section 4)."""
    face = web.face
    sizes = ", ".join(f"{format_size(web.size(file.format))} {format_label(file.format)}" for file in web.files)
    title = f"{family.name} {face.label}: {len(web.characters):,} characters, {sizes}"
    source = PurePath(face.path).name
    declarations = [
        ("font-family", string(family.name)),
        ("font-style", face.style),
        ("font-weight", str(face.weight)),
    ]
    if face.width != 100:
        declarations.append(("font-stretch", f"{face.width:g}%"))
    declarations.append(("font-display", display))
    sources = [f"{url_value(file.url)} format({_format_name(file.format, web.flavour)})" for file in web.files]
    lines = [f"/* {comment_text(title)}; from {comment_text(source)} */", "@font-face {"]
    lines += [f"  {name}: {value};" for name, value in declarations]
    lines.append("  src: " + ",\n       ".join(sources) + ";")
    lines.append(_wrapped("  unicode-range: " + web.unicode_range + ";"))
    return "\n".join([*lines, "}"])


def _format_name(form: str, flavour: str) -> str:
    if form == "sfnt":
        form = "opentype" if flavour == "OTTO" else "truetype"
    return string(form)


def _wrapped(declaration: str) -> str:
    return "\n".join(textwrap.wrap(declaration, _LINE, subsequent_indent=" " * 17, break_on_hyphens=False))


def stack_value(family: WebFamily) -> str:
    """The value of `font-family`: the web font and what stands behind it."""
    return ", ".join([string(family.name), *(family_name(name) for name in family.stack)])


def property_names(families: Sequence[WebFamily]) -> list[str]:
    """The custom property of each family, told apart by numbers where two would be the same."""
    names: list[str] = []
    for family in families:
        name = base = property_name(family.name)
        number = 2
        while name in names:
            name, number = f"{base}-{number}", number + 1
        names.append(name)
    return names


def _properties(families: Sequence[WebFamily]) -> str:
    names = property_names(families)
    lines = [f"  {name}: {stack_value(family)};" for name, family in zip(names, families, strict=True)]
    return "\n".join([":root {", *lines, "}"])


def usage(families: Sequence[WebFamily]) -> str:
    """A comment with rules to copy: the real family, and a weight and a slant that it has."""
    first = f"var({property_names(families)[0]})"
    faces = [web.face for web in families[0].faces]
    upright = [face.weight for face in faces if face.style == "normal"] or [face.weight for face in faces]
    body = min(upright, key=lambda weight: abs(weight - 400))
    lines = [f"body {{ font-family: {first}; font-weight: {body}; }}"]
    if max(upright) > body:
        lines.append(f"h1, h2, h3, strong {{ font-weight: {max(upright)}; }}")
    slanted = [face.style for face in faces if face.style != "normal"]
    if slanted:
        lines.append(f"em {{ font-style: {slanted[0]}; }}")
    lines += [f".other {{ font-family: var({name}); }}" for name in property_names(families)[1:2]]
    return "/* To use it:\n   " + "\n   ".join(lines) + "\n*/"
