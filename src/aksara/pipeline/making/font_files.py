"""Making the files of one font: subset, compress, verify. Nothing here knows where the files will lie.

The same font and recipe give the same bytes, whatever site they are for.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextlib import suppress

from msgspec import Struct, field
from msgspec.structs import replace

from aksara.container import Effort, add_metadata, sniff
from aksara.container.woff2.glyf import transform
from aksara.errors import InputError, OutputError, UnsupportedFont, located
from aksara.font import Font
from aksara.instancing import Limits, narrow
from aksara.pipeline.making.compression import choose_variant, estimated_size
from aksara.pipeline.making.verification import verify_file, verify_svg
from aksara.subsetting import Costs, DroppedTable, FeatureChoice, OmittedFeature, SubsetOptions, needed_glyphs, subset
from aksara.subsetting.glyph_order import GlyphOrder
from aksara.subsetting.renaming import renamed
from aksara.tables import Colr, Glyf, Head, Loca, Maxp
from aksara.threads import WorkBounds
from aksara.web.formats import WebFormat, container_of

#: The orders of glyphs that are tried where there is time.
ORDERS: tuple[GlyphOrder, ...] = ("characters", "groups")
_TECHNOLOGIES = {"SVG ": "color-SVG", "sbix": "color-sbix", "CBDT": "color-CBDT"}
#: How much larger the WOFF metadata may make a file, unless it names who may use the font.
_METADATA_SHARE = 1.05


class FontRecipe(Struct, frozen=True, kw_only=True):
    """Everything besides the font that its files depend on.

    `axes` is what remains of a variable font's axes; with `axes_may_stay` they stay whole where that is smaller, since
    the CSS keeps to the limits, which is told where they were `axes_asked` for. There are `characters` to keep (None:
    all), `features` over the default ones, `hints` or not, `licence_text` or not (see `SubsetOptions`), `formats` to
    make, and `metadata` (XML) for those that have a place for it; with `require_metadata` at whatever price. `family`
    is the name that the font gets in place of its own ("": it keeps that).
    """

    characters: frozenset[int] | None
    features: FeatureChoice
    hints: bool
    formats: tuple[WebFormat, ...]
    effort: Effort
    licence_text: bool = True
    axes: Limits = field(default_factory=dict)
    axes_may_stay: bool = False
    axes_asked: bool = False
    metadata: bytes = b""
    require_metadata: bool = False
    family: str = ""


class FontFile(Struct, frozen=True):
    """One file: its format and its bytes."""

    format: WebFormat
    data: bytes


class FontFiles(Struct, frozen=True, kw_only=True):
    """The files of a font, one per format, and their content.

    `characters` are those that are served; `features` were kept, `omitted` could have been; `hint_size` is about how
    many bytes hints take in a WOFF2; `dropped` tables were left out. `table_size` is the bytes of all tables before
    compression. `technology` is what a browser must know to draw it, besides the format ("" for nothing).
    """

    files: tuple[FontFile, ...]
    flavour: str
    characters: frozenset[int]
    features: frozenset[str]
    omitted: tuple[OmittedFeature, ...]
    hint_size: int
    dropped: tuple[DroppedTable, ...]
    table_size: int
    technology: str
    warnings: tuple[str, ...]
    #: Formats that cannot be made of the font, each with the reason.
    failed: tuple[tuple[WebFormat, str], ...] = ()


def make_font_files(
    font: Font,
    recipe: FontRecipe,
    step: Callable[[WebFormat], None] = lambda _: None,
    *,
    costs: Costs = "all",
    bounds: WorkBounds | None = None,
) -> FontFiles:
    """The font's files. `step` hears of each as it is done; `costs` says what is found out of costs; `bounds` are those
    of the build.

    Raises `InputError` (or a subclass) for a font that cannot be used, `OutputError` where a made file is not as it
    must be.
    """
    bounds = bounds or WorkBounds()
    with bounds.cutting:
        cut, variants = _cut(font, recipe, costs=costs)
        font.trim_parsed()
    # Chosen at once, so that the others need not be kept while the first is compressed.
    with bounds.compression.taken(cut.table_size):
        chosen = [choose_variant(variants, font_format, recipe.effort) for font_format in recipe.formats]
    del variants
    files: list[FontFile] = []
    failed: list[tuple[WebFormat, str]] = []
    for font_format, variant in zip(recipe.formats, chosen, strict=True):
        try:
            with bounds.compression.taken(cut.table_size):
                files.append(FontFile(font_format, _file(variant, font_format, recipe)))
        except (InputError, OutputError) as error:
            # One that cannot be made does not take the others with it.
            failed.append((font_format, str(error)))
            if len(failed) == len(recipe.formats):
                with located(file=font.path):
                    raise
        step(font_format)
    return replace(cut, files=tuple(files), failed=tuple(failed))


def reckoned_size(font: Font, recipe: FontRecipe, bounds: WorkBounds) -> int:
    """About how large the first of a font's files is; a tenth of the time of making it."""
    with bounds.cutting:
        _, variants = _cut(font, recipe, costs="none")
        font.trim_parsed()
    return min(estimated_size(variant, recipe.formats[0]) for variant in variants)


def as_if_made(font: Font, recipe: FontRecipe, kept: FontFiles, bounds: WorkBounds) -> FontFiles | None:
    """The files that were kept, if they are what `make_font_files` makes; None if they are not.

    What costs much to find out, and decides nothing (`omitted`, `hint_size`), is believed.
    """
    with bounds.cutting:
        cut, variants = _cut(font, recipe, costs="none")
        font.trim_parsed()
    if tuple(file.format for file in kept.files) != recipe.formats:
        return None
    for file in kept.files:
        if not any(_is_of(file, variant, recipe) for variant in variants):
            return None
    return replace(cut, files=kept.files, omitted=kept.omitted, hint_size=kept.hint_size)


def _is_of(file: FontFile, font: Font, recipe: FontRecipe) -> bool:
    """Whether a file holds the font, as `_file` makes it."""
    if file.format == "svg":
        return file.data == _file(font, "svg", recipe)
    for metadata in {recipe.metadata, b""} if file.format in ("woff2", "woff") else {b""}:
        with suppress(OutputError, InputError):
            verify_file(file.data, _with_outlines_of(font, file.format), metadata)
            return sniff(file.data) == container_of(file.format)
    return False


def _cut(font: Font, recipe: FontRecipe, *, costs: Costs) -> tuple[FontFiles, Sequence[Font]]:
    """The files' content as far as known before compression, and the subset in all variants worth comparing."""
    options = SubsetOptions(features=recipe.features, hints=recipe.hints, licence_text=recipe.licence_text, costs=costs)
    font = renamed(font, recipe.family) if recipe.family else font
    source = _narrowed(font, recipe, options)
    cut = subset(source, recipe.characters, options)
    warnings = list(cut.warnings)
    if recipe.axes and cut.font.is_variable:
        # Rounded again, numbers are less regular, and may take more bytes than limits save.
        whole = subset(font, recipe.characters, options)
        size, size_of_whole = (estimated_size(made.font, recipe.formats[0]) for made in (cut, whole))
        more = f"{max(round(100 * (size / size_of_whole - 1)), 1)}%"
        if size > size_of_whole and recipe.axes_may_stay:
            source, cut, warnings = font, whole, list(whole.warnings)
            if recipe.axes_asked:
                warnings.append(
                    f"its axes stay whole, since the file would be about {more} larger; the CSS keeps to the limits"
                )
        elif size > size_of_whole:
            warnings.append(
                f"limiting its axes saves nothing: the file is about {more} larger than with the whole axes"
            )
    if "woff2" not in recipe.formats and Glyf.TAG in cut.font:
        with located(table=Glyf.TAG):
            # A WOFF2 is made of points; the other formats copy outlines as they are, cut short or not, and browsers
            # refuse those.
            transform({tag: cut.font.raw(tag) for tag in (Glyf.TAG, Loca.TAG, Head.TAG, Maxp.TAG)})
    if "svg" in recipe.formats and cut.font.is_variable:
        warnings.append("an SVG font cannot vary: it has the font's default")
    variants = [*cut.variants]
    if recipe.effort == "most":
        for order in ORDERS:
            options = replace(options, order=order, costs="none")
            variants += subset(source, recipe.characters, options).variants
    known = FontFiles(
        files=(),
        flavour=font.flavour,
        characters=frozenset(cut.characters),
        features=cut.features | ({"kern"} if "kern" in cut.font else set()),
        omitted=cut.omitted,
        hint_size=cut.hint_size,
        dropped=cut.dropped,
        table_size=sum(cut.font.sizes().values()),
        technology=technology_of(cut.font),
        warnings=tuple(warnings),
    )
    return known, variants


def technology_of(font: Font) -> str:
    """How a colour font draws, as `tech()` names it (CSS Fonts 4, section 11.1)."""
    if Colr.TAG in font:
        return "color-COLRv1" if font.table(Colr).needs_paints else "color-COLRv0"
    technologies = [technology for tag, technology in _TECHNOLOGIES.items() if tag in font]
    # Of several ways a browser takes the one that it knows.
    return technologies[0] if len(technologies) == 1 else ""


def _narrowed(font: Font, recipe: FontRecipe, options: SubsetOptions) -> Font:
    """The font with its axes limited; only the outlines that the characters can need are worked out."""
    if not recipe.axes or recipe.characters is None:
        return narrow(font, recipe.axes)
    return narrow(font, recipe.axes, needed_glyphs(font, recipe.characters, options))


def _with_outlines_of(font: Font, font_format: WebFormat) -> Font:
    """The font with outlines of the kind that a format has. Raises `UnsupportedFont` where they cannot be had."""
    is_postscript = font.outlines in ("CFF", "CFF2")
    if font_format in ("ttf", "eot") and is_postscript:
        from aksara.truetype_outlines import with_truetype_outlines  # hardly a build needs it

        return font.once(with_truetype_outlines)
    if font_format == "otf" and not is_postscript:
        raise UnsupportedFont("its outlines are TrueType, and OTF is for PostScript ones; choose ttf or sfnt")
    return font


def _file(font: Font, font_format: WebFormat, recipe: FontRecipe) -> bytes:
    """The file in that format, verified as it will be written."""
    if font_format == "svg":
        from aksara.svg_fonts import svg_font  # hardly a build makes one

        data = svg_font(font)
        verify_svg(data, font)
        return data
    font, container = _with_outlines_of(font, font_format), container_of(font_format)
    assert container is not None
    data = font.write(container, effort=recipe.effort)
    metadata = recipe.metadata if font_format in ("woff2", "woff") else b""
    noted = add_metadata(data, metadata)
    if not recipe.require_metadata and len(noted) > len(data) * _METADATA_SHARE:
        noted, metadata = data, b""
    verify_file(noted, font, metadata)
    return noted
