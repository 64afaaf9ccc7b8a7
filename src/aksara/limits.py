"""Limits on inputs: sizes and counts of what is read, and the work that reading may take.

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
#: Bytes of a picture or font that is copied into a page, and of all of them: the page is to open at once.
MAX_COPIED_FILE, MAX_COPIED_IN_ALL = 400_000, 1_500_000
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
#: Bytes that the fonts of a ZIP may unpack to: at least these, and more for a larger ZIP. Half of 669 real fonts are
#: packed to less than half of their size, one to a ninth.
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
MAX_PARSED_SIZE = 16_000_000
#: Decompressed bytes of the extended metadata.
MAX_METADATA = 1_000_000

# ---- Fonts

#: Points of glyphs besides one for each of their bytes; a flag can be repeated, and be all there is of a point.
MAX_REPEATED_POINTS = 100_000
#: Nesting of composites that is followed; renderers give up far earlier, real fonts stay within 6.
MAX_COMPONENT_DEPTH = 64
#: More axes than any font has; renderers would take them, but no page could use them.
MAX_AXES = 64
#: Subroutines of charstrings that call one another; renderers give up at 10 to 16.
MAX_CALL_DEPTH = 16
#: Calls of subroutines that are remembered; with many numbers before them each may be another.
MAX_KNOWN_CALLS = 50_000
#: Bytes of one SVG document of a font and of all together, unpacked; elements within elements.
MAX_SVG_DOCUMENT, MAX_SVG_DOCUMENTS, MAX_SVG_DEPTH = 30_000_000, 120_000_000, 200
#: Paints within paints (COLR 1), beyond which renderers stop.
MAX_PAINT_DEPTH = 64
#: Layers that one glyph is drawn in, those of other glyphs in it included.
MAX_COLOUR_LAYERS = 100_000
#: How many times over its size a table of pictures may be read.
MAX_PICTURE_READS = 4
#: Pictures that stand for others (sbix "dupe"), one behind the other.
MAX_PICTURE_HOPS = 8
#: Numbers of palettes and of colours that a request may name; fonts store them in 16 bits.
MAX_PALETTES = 65_535
#: Installed fonts: files that are looked at, fonts of a collection, tables of one, and bytes of its names.
MAX_INSTALLED_FILES, MAX_INSTALLED_FONTS, MAX_INSTALLED_TABLES, MAX_NAMES_SIZE = 50_000, 64, 256, 2_000_000

# ---- Sites: pages, style sheets, scripts, and what is kept of them

#: Fonts in the site's folders that are known by name, to say where a missing one is.
MAX_KNOWN_NAMES = 20_000
#: Bytes of all that is remembered of a site's font files, and how many of them.
MAX_FACTS_SIZE, MAX_FACTS = 20_000_000, 2_000
#: Modules of one page that are followed, bytes of one (bundles are larger, and import no style sheets), and sheets.
MAX_MODULES, MAX_MODULE_SIZE, MAX_IMPORTED_SHEETS = 300, 300_000, 30
#: Sheets of a page with those that they import, and how deep imports may go.
MAX_PAGE_SHEETS, MAX_IMPORT_DEPTH = 500, 16
#: How deep pages may stand in frames of each other.
MAX_FRAME_DEPTH = 2
#: Pages in frames of a page, and classes that are remembered.
MAX_FRAMES, MAX_PAGE_CLASSES = 20, 20_000
#: Nested counters of one name; deeper ones replace the innermost.
MAX_NESTED_COUNTERS = 64
#: Characters of a style sheet that are searched for names of icons; the rest is not read.
MAX_ICON_SHEET_LENGTH = 2_000_000
#: Cookies that are sent back; some sites redirect in a circle without.
MAX_COOKIES = 50
#: Bytes of answers that are kept whole, of all together.
MAX_KEPT_ANSWERS = 100_000_000
#: Headers of one answer that are kept, and characters of each.
MAX_HEADERS, MAX_HEADER_LENGTH = 100, 2_000
#: Parts of an address that may be the path below which a site is published.
MAX_PATH_PREFIXES = 3
#: Deeper elements become siblings of their ancestors; browsers do the same, about there.
MAX_ELEMENT_DEPTH = 512
#: Elements of a page; what follows is left out.
MAX_ELEMENTS = 300_000
#: Elements that are open at a block's start are made again inside it (HTML, "reconstruct the active formatting
#: elements"), so a page may grow by their product.
MAX_REPEATED_ELEMENTS = 1_000_000
#: `template` elements in one another.
MAX_TEMPLATE_DEPTH = 16
#: Families of one script that are listed.
MAX_SCRIPT_FAMILIES = 20
#: Lines of a Pug template, each of which may be an element; what follows is left out.
MAX_PUG_LINES = 50_000
#: Style sheets that one template is taken to have.
MAX_TEMPLATE_SHEETS = 30
#: Bytes of what is remembered of pages: a site of 20,000 takes half of it.
MAX_PAGE_CACHE = 200_000_000
#: Values within values of a data file; what people write has a handful.
MAX_DATA_DEPTH = 64
#: Rules of one style sheet that are looked at.
MAX_FACE_RULES = 5_000
#: Styles with their parents and rules that are kept for the next pages.
MAX_COMPUTED_STYLES = 50_000
#: A value that is longer once its variables are in place is invalid (CSS Variables 1, section 3.3, "long variables").
MAX_VALUE_LENGTH = 20_000
#: Functions within functions of a value, and variables within variables.
MAX_VALUE_DEPTH = 32
#: Elements that the selectors of a page may look at.
MAX_MATCHING_WORK = 2_000_000
#: Conditions within conditions of @supports; each costs a call within a call.
MAX_SUPPORTS_DEPTH = 24
#: Characters of the number of a list; longer ones are cut.
MAX_COUNTER_LENGTH = 60
#: Counter styles that fall back on one another.
MAX_COUNTER_FALLBACKS = 8
#: Sets of states that are looked at for one element.
MAX_STATE_SETS = 12
#: Characters of a sheet, its rules with nested ones, and how deep they may be nested.
MAX_SHEET_LENGTH, MAX_SHEET_RULES, MAX_RULE_DEPTH = 10_000_000, 200_000, 24
#: Characters of one selector; longer ones are ignored, as invalid ones are.
MAX_SELECTOR_LENGTH = 4_000
#: Characters of all selectors of a sheet whose rules say anything of fonts or text; parsing them takes most of the
#: time.
MAX_SELECTOR_TEXT = 1_000_000
#: Steps of an animation that are looked at.
MAX_KEYFRAMES = 8
#: Tokens of one selector, those in brackets counted once; longer ones are invalid.
MAX_SELECTOR_TOKENS = 400
#: Environments in which a page is read; what further widths and features would change is not looked at.
MAX_ENVIRONMENTS = 96
#: Conditions within conditions of a media query.
MAX_MEDIA_DEPTH = 24
#: Kinds of elements (name, id, classes) for which rules are looked up once.
MAX_ELEMENT_KINDS = 20_000
#: Characters of a style sheet that are searched for classes that set fonts, and such classes.
MAX_CLASS_SHEET_LENGTH, MAX_FONT_CLASSES = 2_000_000, 20_000

# ---- Projects, templates and what stands beside fonts

#: What rendering a user's template may take: bytes of memory besides the program's own, and bytes of the result.
MAX_RENDERING_MEMORY, MAX_RENDERED_SIZE = 500_000_000, 10_000_000
#: Bytes of the file of measured families.
MAX_MEASURED_SIZE = 5_000_000
#: Families in it, and characters that each is measured for.
MAX_MEASURED_FAMILIES, MAX_MEASURED_CHARACTERS = 200, 4_000
#: Folders above the fonts that are tried as the root of the site.
MAX_ROOTS = 12
#: Lines that still name a replaced family; more are the work of search and replace.
MAX_OLD_NAMES = 200
#: Bytes of a style sheet beside fonts that may name icons.
MAX_ICON_SHEET_SIZE = 4_000_000
#: Folders of a project that are searched for what its output left where it was before.
MAX_SEARCHED_FOLDERS = 2_000
#: Bytes of a template of the user's.
MAX_TEMPLATE_SIZE = 1_000_000
#: Style sheets beside fonts, which may name icons, and other texts there that are kept in mind.
MAX_SHEETS_BESIDE, MAX_TEXTS_BESIDE = 50, 50
#: Names of a folder of fonts that are looked at for such texts.
MAX_LISTED = 5_000

# ---- What is kept between runs

#: Receipts of runs that are kept, and bytes that one may have; those of catalogues, one for each project or family.
MAX_RECEIPTS, MAX_RECEIPT_SIZE = 200, 50_000_000
MAX_CATALOGUE_RECEIPTS = 20_000
#: Font files that are kept, and bytes of all of them: those used longest ago go first.
MAX_STORED_FILES, MAX_STORE_SIZE = 20_000, 500_000_000

# ---- Work

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
        """Count work before it is done. Raises `BeyondBounds` if that exceeds the limit."""
        self.left -= units
        if self.left < 0:
            raise BeyondBounds

    def spend_numbers(self, count: int) -> None:
        """Count numbers that are read or made in one step."""
        self.spend(1 + count // NUMBERS)

    def spend_bulk(self, size: int) -> None:
        """Count bytes that are read or made in bulk."""
        self.spend(1 + size // BULK)
