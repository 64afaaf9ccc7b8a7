"""Facts about a served font file that findings need: read once, and cached by the hash of its bytes."""

from __future__ import annotations

from hashlib import sha256

from msgspec import Struct

from aksara.container import sniff
from aksara.errors import InputError, NothingDrawn
from aksara.faces import embedding, identify
from aksara.faces.restrictions import restrictions_in
from aksara.font import Font
from aksara.subsetting import SubsetOptions, subset
from aksara.subsetting.sanitising import sanitised
from aksara.subsetting.sequences import drawn_as_one
from aksara.tables import OS2, Cff, Cmap, Glyf
from aksara.tables.cff.operators import ROS
from aksara.tables.registry import CLASSES
from aksara.text.emoji import emoji_set, is_joiner, without_selectors
from aksara.text.sequences import is_private_use
from aksara.truetype.glyph_data import contour_count


class FileFacts(Struct, frozen=True, kw_only=True):
    """A file: its bytes' number and hash, the `container` ("" for no font), and what would make browsers refuse it (""
    for nothing). Of a font that can be read the face that it is by its own account, its characters, and the sequences
    of emoji, of those meant for use, that it draws as one picture."""

    size: int
    sha256: str
    container: str = ""
    problem: str = ""
    family: str = ""
    weight: tuple[float, float] = (400, 400)
    style: str = "normal"
    width: tuple[float, float] = (100, 100)
    characters: frozenset[int] = frozenset()
    forbidden: str = ""
    sequences: frozenset[str] = frozenset()
    #: Fields of its names that restrict its use, each with its words.
    restrictions: tuple[tuple[str, str], ...] = ()
    #: The weight in its `OS/2` table, which its name may contradict.
    said_weight: float = 0

    @property
    def is_of_icons(self) -> bool:
        """Whether most of its characters are for private use."""
        drawn = [code for code in self.characters if code > 0x20]
        return sum(map(is_private_use, drawn)) > len(drawn) / 2


#: Tables without which browsers refuse a font.
_REQUIRED = ("head", "hhea", "maxp", "hmtx", "cmap", "OS/2", "name", "post")


#: Browsers leave these out where they are damaged.
_VARIATION = ("gvar", "cvar", "avar", "HVAR", "VVAR", "MVAR", "STAT", "fvar")
#: What was gone through when it was read, and has nothing to do with outlines.
_LAYOUT = ("GSUB", "GPOS", "GDEF", "BASE", "MATH", "kern")
_OUTLINES = SubsetOptions(costs="none", hints=False)


def facts_of_font(data: bytes, name: str) -> FileFacts:
    """The facts of a file with these bytes."""
    size, digest = len(data), sha256(data).hexdigest()
    container = sniff(data) or ""
    try:
        font = Font.read(data, name)
        font.require_supported()
        if container == "eot":
            raise InputError("it is an EOT, which no current browser supports")
        problem = (_overlapping(data) if container == "sfnt" else "") or _damage(font)
        face = identify(font)
        permission = embedding(font)
        return FileFacts(
            size=size,
            sha256=digest,
            container=container,
            problem=problem,
            family=face.family,
            weight=face.weight_range,
            style=face.style,
            width=face.width_range,
            characters=frozenset(font.characters),
            forbidden=permission.words if permission.forbids_web_fonts else "",
            sequences=_sequences(font),
            restrictions=restrictions_in(font),
            said_weight=said.weight_class if (said := font.find(OS2)) is not None else 0,
        )
    except InputError as error:
        return FileFacts(size=size, sha256=digest, container=container, problem=error.problem)


def _sequences(font: Font) -> frozenset[str]:
    drawn = drawn_as_one(font, emoji_set("all").split()) if any(map(is_joiner, map(chr, font.characters))) else {}
    return frozenset(without_selectors(sequence) for sequence, is_one in drawn.items() if is_one)


def _damage(font: Font) -> str:
    """What browsers would reject in the font: a missing or malformed table, or a broken outline."""
    if lacking := [tag for tag in _REQUIRED if tag not in font]:
        return f"it has no table '{lacking[0]}'"
    if empty := [tag for tag in font if not font.raw(tag)]:
        return f"table '{empty[0]}' is empty"
    for tag, table_class in CLASSES.items():
        if tag in font and not table_class.OPTIONAL and tag not in _VARIATION:
            try:
                font.table(table_class)
            except InputError as error:
                return f"table '{tag}': {error.problem}"
    if Cff.TAG in font and (cff := font.table(Cff)).is_cid_keyed and next(iter(cff.top)) != ROS:
        return "table 'CFF ': ROS is not the first operator of its Top DICT"
    if max(font.table(Cmap).characters().values(), default=0) >= font.num_glyphs:
        return "table 'cmap': it names glyphs that do not exist"
    if Glyf.TAG in font and any(glyph and contour_count(glyph) < -1 for glyph in font.table(Glyf).glyphs):
        return "table 'glyf': an outline with a negative number of contours"
    _, repairs = sanitised(font)
    if repairs:
        return repairs[0]
    try:
        # Every outline is gone through.
        subset(font.with_tables((), [tag for tag in (*_VARIATION, *_LAYOUT) if tag in font]), None, _OUTLINES)
    except NothingDrawn:
        pass
    except InputError as error:
        return error.problem
    return ""


def _overlapping(data: bytes) -> str:
    """Tables of a plain font that lie over one another, which no browser takes (OpenType 1.9.1, "Table directory")."""
    count = int.from_bytes(data[4:6], "big")
    records = (data[position : position + 16] for position in range(12, 12 + 16 * count, 16))
    spans = sorted((int.from_bytes(record[8:12], "big"), int.from_bytes(record[12:16], "big")) for record in records)
    end = 12 + 16 * count
    for start, size in spans:
        if start < end:
            return "its tables overlap"
        end = start + size
    return ""
