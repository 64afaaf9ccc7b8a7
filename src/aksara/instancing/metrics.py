"""Advances, side bearings and font-wide metrics from the new default on: 'hmtx' and 'vmtx' with 'HVAR' and 'VVAR',
'VORG', and what 'MVAR' varies."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import TypeVar

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from aksara.font import Font
from aksara.instancing.outlines import NewOutlines
from aksara.instancing.rebasing import Floats, Rebasing
from aksara.instancing.stores import rebased_store
from aksara.tables import OS2, Gasp, Glyf, Gvar, Hhea, Hmtx, Hvar, Mvar, Post, Table, Vhea, Vmtx, Vorg, Vvar
from aksara.tables.metrics import Metrics
from aksara.tables.post import PostHeader
from aksara.tables.variation.glyph_metrics import MetricsVariations
from aksara.truetype.outlines import END, START

#: The fields that metrics of 'MVAR' stand for (OpenType 1.9.1, "MVAR", "Value tags").
_OS2_FIELDS = {
    **{"hasc": "typo_ascender", "hdsc": "typo_descender", "hlgp": "typo_line_gap", "hcla": "win_ascent"},
    **{"hcld": "win_descent", "xhgt": "x_height", "cpht": "cap_height", "sbxs": "y_subscript_x_size"},
    **{"sbys": "y_subscript_y_size", "sbxo": "y_subscript_x_offset", "sbyo": "y_subscript_y_offset"},
    **{"spxs": "y_superscript_x_size", "spys": "y_superscript_y_size", "spxo": "y_superscript_x_offset"},
    **{"spyo": "y_superscript_y_offset", "strs": "y_strikeout_size", "stro": "y_strikeout_position"},
}
_HHEA_FIELDS = {"hcrs": "caret_slope_rise", "hcrn": "caret_slope_run", "hcof": "caret_offset"}
_VHEA_FIELDS = {
    **{"vasc": "ascender", "vdsc": "descender", "vlgp": "line_gap"},
    **{"vcrs": "caret_slope_rise", "vcrn": "caret_slope_run", "vcof": "caret_offset"},
}
_POST_FIELDS = {"undo": "underline_position", "unds": "underline_thickness"}
#: Renderers move the lines of 'hhea' along with those of 'OS/2'.
_LINES = {"hasc": ("ascender", "typo_ascender"), "hdsc": ("descender", "typo_descender")} | {
    "hlgp": ("line_gap", "typo_line_gap")
}
_VERTICAL_ORIGINS = 3
D = TypeVar("D", OS2, Hhea, Vhea, PostHeader)


def new_horizontal_metrics(font: Font, rebasing: Rebasing, outlines: NewOutlines | None) -> list[Table]:
    """'hmtx' and 'hhea' at the new default, and 'HVAR' from there on."""
    hmtx, hvar = font.table(Hmtx), font.find(Hvar)
    count = len(hmtx.advances)
    new, variations = _new_metrics(hmtx, hvar, rebasing, outlines, axis=0)
    tables: list[Table] = [new, replace(font.table(Hhea), number_of_h_metrics=new.stored_advances)]
    assert len(new.advances) == count
    return [*tables, *variations]


def advances_at(font: Font, locations: Sequence[Rebasing]) -> list[NDArray[np.uint16]]:
    """The advance widths of all glyphs at the new default of each place, in font units, and nothing else of it."""
    hmtx, hvar, gvar = font.table(Hmtx), font.find(Hvar), font.find(Gvar)
    count = len(hmtx.advances)
    if hvar is not None:
        moved = [_to_default(hvar, 0, count, rebasing) for rebasing in locations]
    elif gvar is not None and Glyf.TAG in font:
        moved = _ends_moved(gvar, font.table(Glyf), count, locations)
    else:
        return [hmtx.advances] * len(locations)
    return [_stepped_advances(hmtx.advances, ends) for ends in moved]


def _ends_moved(gvar: Gvar, glyf: Glyf, count: int, locations: Sequence[Rebasing]) -> list[Floats]:
    """How far the end of each glyph moves from its start."""
    found = [np.zeros(count) for _ in locations]
    for glyph, variations in enumerate(gvar.of_glyphs(glyf, range(min(count, len(glyf.glyphs))))):
        regions = tuple(variation.region for variation in variations.variations)
        size = variations.outline.point_count
        ends = np.array([variation.over(size)[[START, END], 0] for variation in variations.variations]).reshape(-1, 2)
        for moved, rebasing in zip(found, locations, strict=True):
            moved[glyph] = (ends[:, 1] - ends[:, 0]) @ rebasing.of(regions).to_default
    return found


def _stepped_advances(advances: NDArray[np.uint16], moved: Floats) -> NDArray[np.uint16]:
    return np.clip(advances + np.rint(moved).astype(np.int64), 0, 0xFFFF).astype(np.uint16)


def new_vertical_metrics(font: Font, rebasing: Rebasing, outlines: NewOutlines | None) -> list[Table]:
    """'vmtx' and 'vhea' at the new default, 'VORG', and 'VVAR' from there on."""
    vmtx, vhea, vvar, vorg = font.find(Vmtx), font.find(Vhea), font.find(Vvar), font.find(Vorg)
    if vmtx is None or vhea is None:
        return []
    new, variations = _new_metrics(vmtx, vvar, rebasing, outlines, axis=1)
    tables: list[Table] = [new, replace(vhea, number_of_v_metrics=new.stored_advances), *variations]
    if vorg is not None and vvar is not None:
        moved = _to_default(vvar, _VERTICAL_ORIGINS, len(vmtx.advances), rebasing)
        origins = {glyph: vorg.origins.get(glyph, vorg.default) for glyph in range(len(vmtx.advances))}
        changed = {glyph: origin + round(moved[glyph]) for glyph, origin in origins.items()}
        tables.append(Vorg(vorg.default, {g: origin for g, origin in changed.items() if origin != vorg.default}))
    return tables


def _new_metrics(
    metrics: Metrics, variations: MetricsVariations | None, rebasing: Rebasing, outlines: NewOutlines | None, axis: int
) -> tuple[Hmtx | Vmtx, list[Table]]:
    """The metrics along x (axis 0) or y (1), and how they vary from there on."""
    assert isinstance(metrics, Hmtx | Vmtx)
    count = len(metrics.advances)
    if variations is not None:
        moved = _to_default(variations, 0, count, rebasing)
    elif outlines is not None:
        # Advances widen as their end moves from their start; downwards a height grows.
        along = outlines.moved[:count, 2 * axis : 2 * axis + 2]
        moved = along[:, 1] - along[:, 0] if axis == 0 else along[:, 0] - along[:, 1]
        moved = np.pad(moved, (0, count - len(moved)))
    else:
        moved = np.zeros(count)
    advances = _stepped_advances(metrics.advances, moved)
    bearings = metrics.side_bearings.astype(np.int64)
    if outlines is not None:
        size = min(count, len(outlines.boxes))
        # The start of a glyph is as far from its box as its bearing says (for heights: above its box).
        edge, sign = (0, 1) if axis == 0 else (3, -1)
        boxes = outlines.boxes[:size, edge] - outlines.old_boxes[:size, edge]
        bearings[:size] += sign * (boxes - np.rint(outlines.moved[:size, 2 * axis]).astype(np.int64))
    new = replace(metrics, advances=advances, side_bearings=np.clip(bearings, -0x8000, 0x7FFF).astype(np.int16))
    return new, [_new_variations(variations, count, rebasing)] if variations is not None and rebasing.axis_count else []


def _to_default(variations: MetricsVariations, map_index: int, count: int, rebasing: Rebasing) -> Floats:
    """How much that metric of each glyph changes at the new default."""
    rows = variations.rows(map_index, range(count))
    if rows is None:
        return np.zeros(count)
    return np.asarray(rows @ rebasing.of(variations.store.regions).to_default, np.float64)


def _new_variations(variations: MetricsVariations, count: int, rebasing: Rebasing) -> MetricsVariations:
    old = [variations.rows(index, range(count)) for index in range(variations.MAPS)]
    store, new_rows = rebased_store(variations.store, [rows for rows in old if rows is not None], rebasing)
    new = iter(new_rows)
    return variations.of_rows(store, [next(new) if rows is not None else None for rows in old])


def new_font_metrics(font: Font, tables: Iterable[Table], rebasing: Rebasing) -> list[Table]:
    """The font-wide metrics at the new default, in `tables` or as they were, and 'MVAR' from there on."""
    mvar = font.find(Mvar)
    if mvar is None or mvar.store is None:
        return []
    rows = mvar.store.rows(list(mvar.values.values()))
    moved = np.rint(rows @ rebasing.of(mvar.store.regions).to_default).astype(np.int64)
    steps = dict(zip(mvar.values, moved.tolist(), strict=True))
    by_tag = {table.TAG: table for table in tables}
    changed = [table for table in _with_steps(font, by_tag, steps) if table is not None]
    if not rebasing.axis_count:
        return changed
    store, (new,) = rebased_store(mvar.store, [rows], rebasing)
    left = Mvar.of_rows(rebasing.axis_count, store.regions, dict(zip(mvar.values, new.tolist(), strict=True)))
    return [*changed, *([left] if left is not None else [])]


def _with_steps(font: Font, by_tag: Mapping[str, Table], steps: Mapping[str, int]) -> Iterable[Table | None]:
    os2, post = by_tag.get(OS2.TAG) or font.find(OS2), by_tag.get(Post.TAG) or font.find(Post)
    hhea, vhea = by_tag.get(Hhea.TAG) or font.table(Hhea), by_tag.get(Vhea.TAG) or font.find(Vhea)
    assert isinstance(hhea, Hhea)
    if isinstance(os2, OS2):
        lines = {
            mine: getattr(hhea, mine) + steps[tag]
            for tag, (mine, theirs) in _LINES.items()
            if tag in steps and getattr(hhea, mine) == getattr(os2, theirs)
        }
        hhea = _with_fields(hhea, lines)
        yield _with_fields(os2, _stepped(os2, _OS2_FIELDS, steps))
    yield _with_fields(hhea, _stepped(hhea, _HHEA_FIELDS, steps))
    if isinstance(post, Post):
        yield replace(post, header=_with_fields(post.header, _stepped(post.header, _POST_FIELDS, steps)))
    if isinstance(vhea, Vhea):
        yield _with_fields(vhea, _stepped(vhea, _VHEA_FIELDS, steps))
    gasp = font.find(Gasp)
    if gasp is not None:
        ranges = [(size + steps.get(f"gsp{n}", 0), how) for n, (size, how) in enumerate(gasp.ranges)]
        yield replace(gasp, ranges=tuple(ranges))


def _with_fields(table: D, fields: Mapping[str, int]) -> D:
    return replace(table, **fields)


def _stepped(table: object, fields: Mapping[str, str], steps: Mapping[str, int]) -> dict[str, int]:
    """The fields that change, with their new values."""
    return {
        name: getattr(table, name) + steps[tag]
        for tag, name in fields.items()
        if steps.get(tag) and getattr(table, name) is not None
    }
