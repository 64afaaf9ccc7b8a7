"""PostScript outlines that vary ('CFF2') from the new default on; without any axis they become 'CFF '."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence, Set

import numpy as np
from msgspec.structs import replace
from numpy.typing import NDArray

from aksara.errors import FontError, located
from aksara.font import Font
from aksara.instancing.rebasing import Floats, Rebased, Rebasing, rounded
from aksara.tables import Cff, Cff2, Name, Table
from aksara.tables.cff import FontDict
from aksara.tables.cff.charsets import STANDARD_STRINGS
from aksara.tables.cff.commands import (
    Operand,
    Program,
    axes_of,
    parse_program,
    write_program,
    write_static_program,
)
from aksara.tables.cff.dicts import Blend, Dict, Number, without
from aksara.tables.cff.operators import (
    CID_COUNT,
    DEFAULT_WIDTH,
    NOMINAL_WIDTH,
    ROS,
    VARIATION_DATA,
)
from aksara.tables.name import POSTSCRIPT_NAME
from aksara.tables.variation.item_variation_store import ItemVariationData, ItemVariationStore
from aksara.tables.variation.regions import Region

#: Operators of the Private DICT whose numbers each count from the one before: alignment zones and stem widths.
_STEPS = frozenset((6, 7, 8, 9, 0x0C0C, 0x0C0D))
_IDENTITY = (b"Adobe", b"Identity")


def new_postscript_outlines(
    font: Font, rebasing: Rebasing, advances: NDArray[np.uint16], kept: Set[int] | None = None
) -> list[Table]:
    """'CFF2' on the new axes, or 'CFF ' where none is left; `advances` are those at the new default.

    Glyphs that are not `kept` become empty.
    """
    cff2 = font.table(Cff2)
    regions = [_regions(cff2.store, index) for index in range(len(cff2.region_counts()))]
    rebased = [rebasing.of(region) for region in regions]
    runner, counts = cff2.runner(), cff2.region_counts()
    programs: list[Program] = []
    for glyph, font_dict in enumerate(cff2.font_dict_of):
        own = cff2.variation_data_of(font_dict)
        with located(table=Cff2.TAG, glyph=glyph):
            wanted = kept is None or glyph in kept
            flat = runner.run(glyph, font_dict)[0] if wanted else b""
            programs.append(_moved(parse_program(flat, counts, own), rebased))
    dicts = [
        replace(font_dict, private=_new_private(font_dict.private, rebased), subroutines=[])
        for font_dict in cff2.font_dicts
    ]
    if not rebasing.axis_count:
        return [_static(font, cff2, programs, dicts, advances)]
    charstrings = [
        write_program(program, cff2.variation_data_of(index))
        for program, index in zip(programs, cff2.font_dict_of, strict=True)
    ]
    store = _new_store(rebased, rebasing.axis_count) if cff2.store is not None else None
    return [replace(cff2, charstrings=charstrings, font_dicts=dicts, subroutines=[], store=store)]


def _regions(store: ItemVariationStore | None, data_index: int) -> tuple[Region, ...]:
    data = store.data[data_index] if store is not None else None
    if store is None or data is None:
        return ()
    if any(region >= len(store.regions) for region in data.regions):
        raise FontError(f"item variation data {data_index} name a region that does not exist", table=Cff2.TAG)
    return tuple(store.regions[region] for region in data.regions)


def _moved(program: Program, rebased: Sequence[Rebased]) -> Program:
    """The same commands with the points and edges where they are from the new default on."""
    operands = [operand for command in program.commands for operand in command.operands]
    if not operands:
        return program
    axes = np.fromiter((axis for command in program.commands for axis in axes_of(command)), np.int64, len(operands))
    change = rebased[program.variation_data] if program.variation_data < len(rebased) else None
    new = iter(_moved_operands(operands, axes, change))
    for command in program.commands:
        command.operands = [next(new) for _ in command.operands]
    return program


def _moved_operands(operands: Sequence[Operand], axes: NDArray[np.int64], change: Rebased | None) -> list[Operand]:
    """Steps along each axis: their sums are rounded, not they themselves, so that nothing adds up."""
    values = np.array([operand.value for operand in operands], np.float64)
    deltas = np.zeros((len(operands), len(change.to_default) if change is not None else 0))
    for index, operand in enumerate(operands):
        if operand.deltas:
            deltas[index] = operand.deltas
    steps, new_deltas = np.zeros(len(operands), np.int64), np.zeros((len(operands), 0), np.int64)
    if change is not None:
        values = values + deltas @ change.to_default
        new_deltas = np.zeros((len(operands), len(change.regions)), np.int64)
    for axis in np.unique(axes):
        members = np.flatnonzero(axes == axis)
        places = np.cumsum(values[members])
        whole = np.rint(places).astype(np.int64)
        steps[members] = np.diff(whole, prepend=0)
        if change is not None:
            moved: Floats = np.cumsum(deltas[members] @ change.to_regions, axis=0)
            new_deltas[members] = np.diff(rounded(moved, places - whole, change.overlaps), axis=0, prepend=0)
    return [
        Operand(value, tuple(row) if any(row) else ())
        for value, row in zip(steps.tolist(), new_deltas.tolist(), strict=True)
    ]


def _new_private(private: Dict, rebased: Sequence[Rebased]) -> Dict:
    """The Private DICT with its numbers from the new default on."""
    data_index = private.get(VARIATION_DATA, (0,))[0]
    change = rebased[data_index] if isinstance(data_index, int) and data_index < len(rebased) else None
    return {operator: _new_numbers(operator, operands, change) for operator, operands in private.items()}


def _new_numbers(operator: int, operands: tuple[Number, ...], change: Rebased | None) -> tuple[Number, ...]:
    if change is None or not any(isinstance(operand, Blend) for operand in operands):
        return operands
    listed = [Operand(_real(operand), _deltas(operand)) for operand in operands]
    # Numbers that do not count from one another have an axis each.
    axes = np.zeros(len(listed), np.int64) if operator in _STEPS else np.arange(len(listed))
    moved = _moved_operands(listed, axes, change)
    return tuple(
        Blend(round(blend.value), tuple(map(round, blend.deltas))) if blend.deltas else round(blend.value)
        for blend in moved
    )


def _real(number: Number) -> float:
    value = number.value if isinstance(number, Blend) else number
    return float(value) if isinstance(value, int) else _packed_decimal(value)


def _deltas(number: Number) -> tuple[float, ...]:
    return tuple(_real(delta) for delta in number.deltas) if isinstance(number, Blend) else ()


def _packed_decimal(data: bytes) -> float:
    """A real number of a DICT: a digit or sign in each half byte (Adobe Technical Note 5176, table 5)."""
    signs = "0123456789.EE?-"
    halves = [half for byte in data for half in (byte >> 4, byte & 15)]
    text = "".join("E-" if half == 12 else signs[half] for half in halves if half < 15)
    try:
        return float(text)
    except ValueError:
        return 0.0


def _new_store(rebased: Sequence[Rebased], axis_count: int) -> ItemVariationStore:
    regions = list(dict.fromkeys(region for group in rebased for region in group.regions))
    index = {region: position for position, region in enumerate(regions)}
    data = [
        ItemVariationData(tuple(index[region] for region in group.regions), np.zeros((0, len(group.regions)), np.int32))
        for group in rebased
    ]
    return ItemVariationStore(axis_count, tuple(regions), tuple(data))


def _static(
    font: Font, cff2: Cff2, programs: Sequence[Program], dicts: Sequence[FontDict], advances: NDArray[np.uint16]
) -> Cff:
    """The outlines as 'CFF ', whose charstrings say the advances, too."""
    glyphs = len(programs)
    # Outlines beyond the last glyph that the font counts have no advance.
    widths = np.pad(advances[:glyphs], (0, max(glyphs - len(advances), 0))).tolist()
    default = Counter(widths).most_common(1)[0][0]
    nominal = round(float(np.median(widths)))
    charstrings = [
        write_static_program(program, None if width == default else width - nominal)
        for program, width in zip(programs, widths, strict=True)
    ]
    # Widths stand before subroutines and what else a DICT may end with.
    own: Dict = {DEFAULT_WIDTH: (default,), NOMINAL_WIDTH: (nominal,)}
    dicts = [replace(font_dict, private=own | without(font_dict.private, {VARIATION_DATA})) for font_dict in dicts]
    name = font.find(Name)
    text = (name.get(POSTSCRIPT_NAME) if name is not None else None) or "Font"
    top, strings = dict(cff2.top), [b""] * max(glyphs - len(STANDARD_STRINGS), 0)
    if len(dicts) > 1:
        first = len(STANDARD_STRINGS)
        top = {ROS: (first, first + 1, 0)} | top | {CID_COUNT: (glyphs,)}
        strings = list(_IDENTITY)
    else:
        dicts = [replace(dicts[0], values={})]
    return Cff(
        name=text.encode("ascii", "replace")[:63],
        top=top,
        strings=strings,
        charset=list(range(glyphs)),
        charstrings=charstrings,
        font_dicts=list(dicts),
        font_dict_of=list(cff2.font_dict_of),
        subroutines=[],
    )
