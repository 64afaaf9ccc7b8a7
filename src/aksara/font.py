"""`Font`: the tables of one font by tag, parsed when first asked for.

Tables that nobody touches stay the bytes they were.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from hashlib import sha256
from pathlib import Path
from typing import TypeVar, cast

from msgspec import Struct, field

from aksara import container
from aksara.compressibility import compressed_size
from aksara.container import Effort, FontFormat
from aksara.errors import FontError, InputError, UnsupportedFont, located
from aksara.parsed_tables import ParsedTables
from aksara.sources import SourceFile, collection_member
from aksara.tables import Cff, Cff2, Cmap, Glyf, Head, Hhea, Hmtx, Loca, Maxp, Table

#: Bytes of a number or another small value in memory.
_BYTES_OF_VALUE = 10

T = TypeVar("T", bound=Table)
V = TypeVar("V")

#: What a font cannot do without ('OS/2', 'name' and 'post' are missing from some that browsers take).
_REQUIRED: tuple[type[Table], ...] = (Head, Hhea, Maxp, Hmtx, Cmap)
_TRUETYPE: tuple[type[Table], ...] = (Loca, Glyf)

#: Tables by which fonts draw in colour, without outlines where need be.
COLOUR_TAGS = ("COLR", "SVG ", "sbix", "CBDT")


class Shared(Struct):
    """What fonts of one collection need not find out each for itself: the characters of a 'cmap' and a number of
    glyphs, the number of outlines in a 'CFF ' or 'CFF2', and the SHA-256 of tables."""

    characters: dict[tuple[bytes, int], Mapping[int, int]] = field(default_factory=dict)
    outline_counts: dict[bytes, int] = field(default_factory=dict)
    digests: dict[bytes, bytes] = field(default_factory=dict)

    def digest(self, table: bytes) -> bytes:
        """The SHA-256 of a table."""
        if table not in self.digests:
            self.digests[table] = sha256(table).digest()
        return self.digests[table]


class Font:
    """The tables of one font.

    `path` is only for messages; `container` tells what the tables came in
    ('sfnt', 'woff', 'woff2') and `size` how many bytes that had; `metadata` is the XML
    that came with a WOFF or WOFF2; `shared` is what fonts of one collection have in common; `parsed` bounds what
    stays parsed.
    """

    def __init__(
        self,
        tables: Mapping[str, bytes],
        flavour: str = "\0\1\0\0",
        *,
        path: str = "",
        container: FontFormat = "sfnt",
        size: int = 0,
        metadata: bytes = b"",
        shared: Shared | None = None,
        parsed: ParsedTables | None = None,
    ) -> None:
        self._data = dict(tables)
        self._owner = parsed or ParsedTables(None)
        #: Parsed tables by class, and what was made of them by what made it.
        self._kept: dict[object, object] = {}
        self._shared = shared or Shared()
        self._digest = ""
        self._compressed_sizes: dict[str, int] = {}
        self.flavour = flavour
        self.path = path
        self.container = container
        self.size = size
        self.metadata = metadata

    @classmethod
    def read(cls, data: bytes, path: str = "") -> Font:
        """The font in the bytes of a TTF, OTF, WOFF or WOFF2 file; of a collection the first.

        Raises `FontError` where they are damaged, `UnsupportedFont` where they are no font that Aksara reads.
        """
        return cls.read_all(data, path)[0]

    @classmethod
    def read_all(cls, data: bytes, path: str = "", parsed: ParsedTables | None = None) -> list[Font]:
        """All fonts of a file; those of a collection have paths as `fonts.ttc#2`. `parsed` bounds what stays parsed.

        Raises as `read` does.
        """
        with located(file=path):
            container_fonts = container.read(data)
        shared = Shared()
        fonts = []
        for index, member in enumerate(container_fonts, 1):
            # Of a collection's size, which its fonts share, each has its part.
            tables = sum(map(len, member.tables.values()))
            fonts.append(
                cls(
                    _with_outlines(member.tables),
                    member.flavour,
                    path=f"{path}#{index}" if len(container_fonts) > 1 else path,
                    container=member.container,
                    size=len(data) if len(container_fonts) == 1 else min(tables, len(data)),
                    metadata=member.metadata,
                    shared=shared,
                    parsed=parsed,
                )
            )
        return fonts

    def __contains__(self, tag: str) -> bool:
        return tag in self._data

    def __iter__(self) -> Iterator[str]:
        return iter(self._data)

    def raw(self, tag: str) -> bytes:
        """The bytes of a table; KeyError if there is none."""
        return self._data[tag]

    def compressed_size(self, tag: str) -> int:
        """The approximate size of a table in WOFF2; KeyError if there is none."""
        if tag not in self._compressed_sizes:
            self._compressed_sizes[tag] = compressed_size(self._data[tag])
        return self._compressed_sizes[tag]

    def table(self, table_class: type[T]) -> T:
        """The parsed table of that class. Raises `FontError` if it is missing or damaged."""
        table = self._kept.get(table_class)
        if table is None:
            with located(file=self.path, table=table_class.TAG):
                if table_class.TAG not in self._data:
                    raise FontError("it is missing")
                data = self._data[table_class.TAG]
                table = table_class.parse(data, self)
            self._owner.note(self._kept, table_class.TAG, len(data))
            self._kept[table_class] = table
        assert isinstance(table, table_class)
        return table

    def find(self, table_class: type[T]) -> T | None:
        """The parsed table of that class, or None if the font has none."""
        return self.table(table_class) if table_class.TAG in self else None

    def once(self, make: Callable[[Font], V]) -> V:
        """The result of `make` for the font, kept as long as its parsed tables."""
        made = self._kept.get(make)
        if made is None:
            made = make(self)
            self._owner.note(self._kept, "", _size_of(made))
            self._kept[make] = made
        return cast(V, made)

    def expect_work(self, times: int) -> None:
        """The font will be worked on that many times, and stays parsed so long; each ends with `trim_parsed`."""
        self._owner.expect(self._kept, times)

    def trim_parsed(self) -> None:
        """Work on this font is done for now: parsed tables are dropped down to what its owner allows."""
        if not self._owner.trim(self._kept):
            for table in list(self._kept.values()):
                if isinstance(table, Table):
                    table.forget()

    def with_tables(self, changed: Iterable[Table], dropped: Iterable[str] = ()) -> Font:
        """A font with these tables in place of its own, and without the dropped tags."""
        gone = set(dropped)
        data = {tag: body for tag, body in self._data.items() if tag not in gone}
        data.update({table.TAG: table.compile() for table in changed})
        return Font(data, self.flavour, path=self.path, container=self.container, size=self.size)

    def replaced(self, changed: Iterable[Table] = (), dropped: Iterable[str] = ()) -> Font:
        """As `with_tables`, to stand in the font's place: the same owner bounds what stays parsed, and what is known of
        its tables need not be found out again."""
        font = self.with_tables(changed, dropped)
        font._owner, font._shared = self._owner, self._shared  # one of ours
        for outlines in (Cff, Cff2):
            # They take longest to parse, and depend on no other table.
            parsed = self._kept.get(outlines)
            if parsed is not None and font._data.get(outlines.TAG) is self._data[outlines.TAG]:
                font._owner.note(font._kept, outlines.TAG, len(self._data[outlines.TAG]))
                font._kept[outlines] = parsed
        return font

    def with_data(self, data: Mapping[str, bytes]) -> Font:
        """A font with these bytes as its tables of these tags."""
        return Font(self._data | dict(data), self.flavour, path=self.path, container=self.container, size=self.size)

    def write(self, font_format: FontFormat, *, effort: Effort = "normal", metadata: bytes = b"") -> bytes:
        """The font file in that format, with extended metadata (XML) if it has a place for it (WOFF and WOFF2)."""
        with located(file=self.path):
            data = container.write(font_format, self._data, self.flavour, effort=effort)
            return container.add_metadata(data, metadata)

    def as_read(self) -> Font:
        """The font as it is once it has been written and read again."""
        tables = _with_outlines(self._data)
        return self if tables is self._data else Font(tables, self.flavour, path=self.path)

    def table_digest(self, tag: str) -> str:
        """SHA-256 of a table's bytes, in hexadecimal; fonts of a collection share what is found out."""
        return self._shared.digest(self._data[tag]).hex()

    @property
    def digest(self) -> str:
        """SHA-256 of the font's tables, in hexadecimal: the same for the same font in any container."""
        if not self._digest:
            # 'head' differs by a sum over the whole file, which each container writes again.
            parts = (tag.encode("latin-1") + self._shared.digest(self._plain(tag)) for tag in sorted(self._data))
            self._digest = sha256(self.flavour.encode("latin-1") + b"".join(parts)).hexdigest()
        return self._digest

    def _plain(self, tag: str) -> bytes:
        return container.without_checksum(self._data[tag]) if tag == Head.TAG else self._data[tag]

    @property
    def is_variable(self) -> bool:
        """Whether it has axes of variation."""
        return "fvar" in self

    def require_supported(self) -> None:
        """Raise `UnsupportedFont` for a kind that cannot be made into web fonts yet, `FontError` if tables lack."""
        if self.outlines == "none" and ("EBDT" in self or "bdat" in self):
            raise UnsupportedFont("a font of bitmaps only, which browsers do not support", file=self.path)
        for table_class in (*_REQUIRED, *(() if self.outlines in ("CFF", "CFF2") else _TRUETYPE)):
            if table_class.TAG not in self:
                raise FontError("it is missing", file=self.path, table=table_class.TAG)
        if "glyf" in self and not len(self.raw("glyf")) and not any(tag in self for tag in COLOUR_TAGS):
            raise UnsupportedFont(
                "a font without outlines (bitmaps only), which browsers do not support", file=self.path
            )

    @property
    def num_glyphs(self) -> int:
        """The number of glyphs; for CFF, renderers count the outlines themselves."""
        count = self.table(Maxp).num_glyphs
        if not _is_postscript(self):
            return count
        # Fonts of a collection share their outlines, which take long to read; of most only the number matters.
        known, outlines = self._shared.outline_counts, postscript_outlines(self)
        data = self._data[outlines.TAG]
        if data not in known:
            known[data] = len(self.table(outlines).charstrings)
        return min(count, known[data])

    @property
    def characters(self) -> Mapping[int, int]:
        """Code point → glyph ID, as a browser sees it; glyphs beyond the last one are left out. Not to be changed."""
        known, key = self._shared.characters, (self._data.get(Cmap.TAG, b""), self.num_glyphs)
        characters = known.get(key)
        if characters is None:
            with located(file=self.path, table=Cmap.TAG):
                characters = known[key] = _of_glyphs(self.table(Cmap).characters(), key[1])
        return characters

    @property
    def outlines(self) -> str:
        """'TrueType', 'CFF', 'CFF2' or 'none'."""
        return next((name for tag, name in _OUTLINES.items() if tag in self), "none")

    def sizes(self) -> dict[str, int]:
        """Bytes of each table, by tag."""
        return {tag: len(body) for tag, body in self._data.items()}


def _with_outlines(tables: Mapping[str, bytes]) -> Mapping[str, bytes]:
    """The tables of a font, with empty outlines if it has pictures alone: browsers take it either way, and everything
    else need not know of such fonts."""
    pictures = any(tag in tables for tag in COLOUR_TAGS)
    if not pictures or any(tag in tables for tag in _OUTLINES) or not {Head.TAG, Maxp.TAG} <= tables.keys():
        return tables
    count = int.from_bytes(tables[Maxp.TAG][4:6], "big")
    head = tables[Head.TAG]
    # Offsets of two bytes each ("indexToLocFormat").
    return {**tables, Glyf.TAG: b"", Loca.TAG: bytes(2 * count + 2), Head.TAG: head[:50] + bytes(2) + head[52:]}


def _size_of(made: object) -> int:
    """About how many bytes of memory something takes that was made of a font: other fonts count, with what is in lists
    and tuples."""
    if isinstance(made, Font):
        return sum(made.sizes().values())
    return sum(map(_size_of, made)) if isinstance(made, list | tuple) else _BYTES_OF_VALUE


def _of_glyphs(characters: Mapping[int, int], count: int) -> Mapping[int, int]:
    """The characters without those of glyphs that do not exist."""
    if max(characters.values(), default=0) < count:
        return characters
    return {code: glyph for code, glyph in characters.items() if glyph < count}


def postscript_outlines(font: Font) -> type[Cff] | type[Cff2]:
    """The table that has the outlines of a font whose outlines are not TrueType."""
    return Cff if Cff.TAG in font else Cff2


def _is_postscript(font: Font) -> bool:
    return Cff.TAG in font or Cff2.TAG in font


_OUTLINES = {"glyf": "TrueType", "CFF ": "CFF", "CFF2": "CFF2"}


def open_font(path: Path | str) -> Font:
    """The font in a file; of a collection the first, or that of a path such as `fonts.ttc#2`.

    Raises `InputError` (or a subclass) if it cannot be read or is no font.
    """
    file, member = collection_member(Path(path))
    return open_fonts(SourceFile(file, str(file), None, member))[0]


def open_fonts(file: SourceFile, parsed: ParsedTables | None = None) -> list[Font]:
    """The font in a file that was given, or all of a collection, or the one that is meant of it. `parsed` bounds what
    stays parsed of them.

    Raises `InputError` (or a subclass) if it cannot be read, is no font, or has no font of that number.
    """
    fonts = Font.read_all(file.read(), file.name, parsed)
    if file.number is None:
        return fonts
    if not 1 <= file.number <= len(fonts):
        raise InputError(f"{file.name}: there is no font {file.number}; it holds {len(fonts)}")
    return fonts[file.number - 1 : file.number]
