"""What no input may exceed: the sizes and counts of what is read, and the work that reading may take.

Fonts, ZIPs, pages and project files come from anywhere. A size that one of them claims is checked before anything is
allocated for it. How much work a table makes is no matter of its size alone, since offsets may lead to one place many
times, and counts may repeat what is stored once; so readers count what they do, and whatever works on what was read
in steps that are not bounded by its size counts them, too.
"""

from __future__ import annotations

from aksara.errors import BeyondBounds

#: Bytes of one file; the largest real fonts stay well under this.
MAX_FILE_SIZE = 100_000_000
#: Bytes of one page or style sheet, of one licence text, of a project file, of a manifest.
MAX_PAGE_SIZE = 10_000_000
MAX_LICENCE_SIZE = 10_000_000
MAX_PROJECT_SIZE = 1_000_000
MAX_MANIFEST_SIZE = 20_000_000
#: Tables of a project file, the builds among them ([[output]]), its keys and values together, and parts of a key.
MAX_PROJECT_TABLES, MAX_PROJECT_OUTPUTS, MAX_PROJECT_VALUES, MAX_KEY_PARTS = 500, 50, 20_000, 8
#: Characters of a family's name; menus of programs show some 30.
MAX_FAMILY_NAME = 1_000
#: Pages of a site, and font files of a folder.
MAX_PAGES = 20_000
MAX_FONT_FILES = 5_000
#: Names that are looked at in folders for one path or pattern, and parts of a pattern.
MAX_LOOKED_AT, MAX_PATTERN_PARTS = 300_000, 64
#: Files of a library that are counted, to say how many were not read.
MAX_LIBRARY_FILES = 20_000
#: Licence texts beside the fonts.
MAX_LICENCES = 40

#: One answer of a server: its bytes as they come and unpacked, the codings around each other, and seconds.
MAX_ANSWER_SIZE, MAX_CODINGS, MAX_ANSWER_SECONDS = 10_000_000, 4, 30.0
MAX_REDIRECTS = 8
#: Characters of an address; browsers and servers take about as many.
MAX_ADDRESS_LENGTH = 4_096
#: What is asked of the servers of one site in all, whether it fails or not: requests (redirects count), and seconds.
MAX_SITE_REQUESTS, MAX_SITE_SECONDS = 5_000, 900.0
#: Of these: pages, how many links away, and their bytes; style sheets; fonts; addresses that are remembered.
MAX_SITE_PAGES, MAX_SITE_DEPTH, MAX_SITE_BYTES = 2_000, 20, 500_000_000
MAX_SITE_SHEETS, MAX_SITE_FONTS, MAX_SITE_LINKS = 300, 500, 20_000
#: Sitemaps that are read, and how deep their elements may go; real ones have three levels.
MAX_SITEMAPS, MAX_SITEMAP_DEPTH = 20, 16

#: Members of one ZIP; a delivery of fonts has a few hundred.
MAX_ZIP_MEMBERS = 20_000
#: Bytes that the fonts of a ZIP may unpack to: so many, and so many times the size of the ZIP. Half of 669 real fonts
#: are packed to less than half of their size, one to a ninth.
_ZIP_BASE, _ZIP_FACTOR = 200_000_000, 8

# Decompressed bytes of one font: in all, and by the size of the file. The largest real ones (complete CJK fonts) stay
# under 70 MB; web fonts of the Debian packages have up to 5.2 times the bytes of their files.
_MAX_FONT_SIZE, _FONT_BASE, _FONT_FACTOR = 160_000_000, 30_000_000, 16
_COLLECTION_BASE, _COLLECTION_FACTOR = 4_000_000, 32
#: Tables of one font; the OpenType registry has fewer than 100 tags.
MAX_TABLES = 512
#: Fonts of one collection; real ones have up to 72.
MAX_COLLECTION = 256
#: Characters of one font. Unicode has some 160,000, and room for 137,000 of private use; a font with more takes 400 MB.
MAX_CHARACTERS = 400_000
#: Bytes of a file that is kept in memory once it is read, and of all such files.
MAX_KEPT_FILE, MAX_KEPT_FILES = 500_000, 8_000_000
#: Bytes that the parsed tables of all fonts of a build may take, by estimate, besides those of the font in hand. What
#: goes is parsed again when it is needed.
MAX_PARSED_SIZE = 8_000_000
#: Decompressed bytes of the extended metadata.
MAX_METADATA = 1_000_000

#: Units of work that any data may take, that each byte of it may take besides, and that no data may exceed.
_WORK_BASE, _WORK_PER_BYTE, _MAX_WORK = 250_000, 2, 6_000_000
#: Numbers that are read at once, and bytes that are read in bulk, which take one unit.
NUMBERS, BULK = 4, 64


def max_unpacked(size: int) -> int:
    """Bytes that the fonts of a ZIP of this size may unpack to."""
    return _ZIP_BASE + _ZIP_FACTOR * size


def max_font_size(size: int) -> int:
    """Bytes that the tables of a font may have in all, decompressed, if its file has that many."""
    return min(_MAX_FONT_SIZE, _FONT_BASE + _FONT_FACTOR * size)


def max_collection_size(size: int) -> int:
    """Bytes that the tables of all fonts of a collection may have, each font's counted, if its file has that many.

    Fonts of a collection share tables, but each has to be looked at. The ten of Noto Sans CJK have 8.5 times the bytes
    of their file.
    """
    return _COLLECTION_BASE + _COLLECTION_FACTOR * size


class Work:
    """The work that may still be done on some data.

    A unit is about one value that is read or made: a microsecond, and a hundred bytes.
    """

    __slots__ = ("left",)

    def __init__(self, size: int) -> None:
        """For data of that many bytes."""
        self.left = min(_WORK_BASE + _WORK_PER_BYTE * size, _MAX_WORK)

    def spend(self, units: int) -> None:
        """Count work before it is done. Raises `BeyondBounds` where no more may be."""
        self.left -= units
        if self.left < 0:
            raise BeyondBounds

    def spend_numbers(self, count: int) -> None:
        """Count numbers that are read or made at once."""
        self.spend(1 + count // NUMBERS)

    def spend_bulk(self, size: int) -> None:
        """Count bytes that are read or made in bulk."""
        self.spend(1 + size // BULK)
