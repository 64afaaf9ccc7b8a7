"""What browsers would refuse a font for, though its meaning is plain: it is written as it must be, and told. What they
set right themselves is set right without a word.

Renderers read such fonts, and so do desktop programs; browsers look at a font before they let a renderer see it.
"""

from __future__ import annotations

from contextlib import suppress
from typing import TypeVar

import numpy as np
from msgspec.structs import replace

from aksara.errors import FontError
from aksara.font import Font
from aksara.tables import OS2, Glyf, Head, Hhea, Maxp, Table, Vhea
from aksara.tables.maxp import FIELDS, VERSION_0_5, VERSION_1_0
from aksara.tables.registry import OPAQUE
from aksara.truetype.boxes import AssembledGlyphs
from aksara.truetype.glyph_data import with_box

_VERSION = 0x10000
_VERTICAL_VERSIONS = (0x10000, 0x11000)
_CONTROL_VALUES = "cvt "
_MOST_ZONES = 2

T = TypeVar("T", bound=Table)


def sanitised(font: Font) -> tuple[Font, list[str]]:
    """The font with such tables in order, and what browsers would refuse about it, in words."""
    tables: list[Table] = []
    said: list[str] = []
    boxes_of: dict[int, tuple[int, int, int, int]] = {}
    if Glyf.TAG in font and (boxes_of := _reversed_boxes(font.table(Glyf))):
        glyphs = list(font.table(Glyf).glyphs)
        for glyph, box in boxes_of.items():
            glyphs[glyph] = with_box(glyphs[glyph], box)
        tables.append(Glyf(glyphs))
        said.append(f"the boxes of {_listed(boxes_of)} are reversed; they are computed again")
    for old, new in (
        (head := font.table(Head), _head(font, head)),
        (hhea := font.table(Hhea), replace(hhea, version=_VERSION, metric_data_format=0)),
        (maxp := font.table(Maxp), _maxp(font, maxp)),
        *((os2, _os2(os2, hhea)) for os2 in [font.find(OS2)] if os2 is not None),
        *((vhea, _vhea(vhea)) for vhea in [font.find(Vhea)] if vhea is not None),
    ):
        if new != old:
            tables.append(new)
        if new != _as_taken(old, new):
            said.append(f"browsers would refuse table '{new.TAG}' ; it was corrected")
    empty = [tag for tag in font if tag in OPAQUE and not font.raw(tag)]
    said += [f"table '{tag}' is empty, and left out" for tag in empty]
    changed = font.with_tables(tables, empty) if tables or empty else font
    if _CONTROL_VALUES in changed and len(font.raw(_CONTROL_VALUES)) % 2:
        changed = changed.with_data({_CONTROL_VALUES: font.raw(_CONTROL_VALUES)[:-1]})
        said.append(f"table '{_CONTROL_VALUES}' ends within a number, which is left out")
    return changed, said


def _as_taken(old: Table, new: Table) -> Table:
    """The table as browsers take it in: minor versions, and the zones of programs, they set right themselves."""
    if isinstance(old, Maxp):
        return new if old.version >> 16 <= VERSION_1_0 >> 16 else old
    if isinstance(old, (Head, Hhea)) and old.version >> 16 == _VERSION >> 16:
        return replace(old, version=_VERSION)
    return old


def _head(font: Font, head: Head) -> Head:
    new = replace(head, version=_VERSION, glyph_data_format=0)
    if new.x_min > new.x_max or new.y_min > new.y_max:
        box = (0, 0, 0, 0)
        if Glyf.TAG in font:
            boxes = font.table(Glyf).boxes()
            box = (*map(int, boxes[:, :2].min(axis=0)), *map(int, boxes[:, 2:].max(axis=0)))  # type: ignore[assignment]
        new = replace(new, x_min=box[0], y_min=box[1], x_max=max(box[0], box[2]), y_max=max(box[1], box[3]))
    return new


def _maxp(font: Font, maxp: Maxp) -> Maxp:
    if Glyf.TAG not in font:
        return maxp if maxp.version == VERSION_1_0 else replace(maxp, version=VERSION_0_5, limits=())
    limits = maxp.limits or (0,) * FIELDS
    # Renderers have a zone of the glyph's points, and one of the program's own.
    zones = min(max(limits[4], 1), _MOST_ZONES)
    return replace(maxp, version=VERSION_1_0, limits=(*limits[:4], zones, *limits[5:]))


def _os2(os2: OS2, hhea: Hhea) -> OS2:
    """With the lines of text that Apple's first form leaves out, and no version whose fields are missing."""
    if os2.win_descent is None:
        os2 = replace(
            os2,
            typo_ascender=hhea.ascender,
            typo_descender=hhea.descender,
            typo_line_gap=hhea.line_gap,
            win_ascent=max(hhea.ascender, 0),
            win_descent=max(-hhea.descender, 0),
        )
    has = (os2.code_page_range2, os2.max_context, os2.upper_optical_point_size)
    newest = next(version for version, field in zip((0, 1, 4, 5), (*has, None), strict=True) if field is None)
    return replace(os2, version=min(os2.version, newest))


def _vhea(vhea: Vhea) -> Vhea:
    version = vhea.version if vhea.version in _VERTICAL_VERSIONS else _VERSION
    return replace(vhea, version=version, metric_data_format=0)


def _reversed_boxes(glyf: Glyf) -> dict[int, tuple[int, int, int, int]]:
    """The true boxes of the glyphs whose headers have them reversed; a damaged glyph is told where it is wanted."""
    stored = glyf.boxes()
    wrong = np.flatnonzero((stored[:, 0] > stored[:, 2]) | (stored[:, 1] > stored[:, 3])).tolist()
    if not wrong:
        return {}
    assembly = AssembledGlyphs(
        lambda glyph: glyf.outlines([glyph])[0].coordinates.astype(np.float64),
        lambda glyph: glyf.composite(glyph) if glyf.is_composite(glyph) else None,
    )
    boxes = {}
    for glyph in wrong:
        with suppress(FontError):
            glyf.component_closure({glyph})  # so that none contains itself
            # Components may be scaled to beyond what a box can say.
            low_x, low_y, high_x, high_y = np.clip(assembly.box(glyph), -0x8000, 0x7FFF).tolist()
            boxes[glyph] = low_x, low_y, high_x, high_y
    return boxes


def _listed(glyphs: dict[int, tuple[int, int, int, int]]) -> str:
    names = ", ".join(str(glyph) for glyph in list(glyphs)[:5])
    return f"glyph {names}" if len(glyphs) == 1 else f"glyphs {names}" + (" …" if len(glyphs) > 5 else "")
