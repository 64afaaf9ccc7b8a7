"""'SVG ': glyphs as drawings in XML (OpenType 1.9.1, "SVG").

A document may draw several glyphs, each as the element with the ID "glyph" and its number, and share definitions among
them. Documents are cut to the kept glyphs and what these refer to. They are untrusted: what browsers do not run in
fonts is not kept, nor is anything from outside of the document.
"""

from __future__ import annotations

import re
import zlib
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING, ClassVar, Self

from aksara.errors import FontError
from aksara.limits import MAX_SVG_DEPTH, MAX_SVG_DOCUMENT, MAX_SVG_DOCUMENTS
from aksara.offsets import OffsetReader
from aksara.phrases import count_of
from aksara.tables.base import FontTables, Table
from aksara.tables.glyph_map import GlyphMap
from aksara.tables.subsetting import SubsetContext, SubsetScope

# What reads XML is imported where there is some: next to no font has any.
if TYPE_CHECKING:
    from xml.etree.ElementTree import Element

_SVG, _XLINK = "http://www.w3.org/2000/svg", "http://www.w3.org/1999/xlink"
#: Damaged drawings that are reported one by one: a table may have thousands.
_TOLD = 3
_GZIP = b"\x1f\x8b"
_GLYPH = re.compile(r"glyph([0-9]{1,5})")
_URL = re.compile(r"""url\(\s*["']?#([^"')]+)["']?\s*\)""")
#: Elements that fonts may not have (SVG in OpenType, "SVG capability requirements and restrictions").
_REFUSED = frozenset({"script", "foreignObject", "image", "switch", "text", "a", "view", "iframe", "audio", "video"})


class Svg(Table, frozen=True):
    """The document of each glyph, plain; several glyphs may have one. `defects` says in words which were damaged and
    are left out: browsers do without these, and draw the others."""

    TAG: ClassVar[str] = "SVG "
    OPTIONAL: ClassVar[bool] = True

    documents: Mapping[int, bytes]
    defects: tuple[str, ...] = ()

    @classmethod
    def reason_to_drop(cls, scope: SubsetScope) -> str | None:
        return "'COLR' draws the same" if "COLR" in scope.tags else None

    @classmethod
    def parse(cls, data: bytes, font: FontTables) -> Self:
        reader = OffsetReader(data)
        reader.u16()
        listed = reader.offset32()
        if listed is None:
            raise FontError("it has no list of documents", offset=2)
        found: dict[int, bytes] = {}
        read: dict[tuple[int, int], bytes | FontError] = {}
        damaged: dict[str, FontError] = {}
        total = 0
        for _ in range(listed.u16()):
            first, last = listed.u16(), listed.u16()
            extent = listed.u32(), listed.u32()
            label = f"glyph {first}" if first == last else f"glyphs {first} to {last}"
            if last < first:
                damaged[label] = FontError("they end before they start", offset=listed.position)
                continue
            if extent not in read:
                read[extent], size = _readable(listed, *extent)
                total += size
                if total > MAX_SVG_DOCUMENTS:
                    raise FontError("its documents are larger than any real font's", offset=listed.position)
            document = read[extent]
            if isinstance(document, FontError):
                damaged[label] = document
                continue
            listed.work.spend(last - first + 1)
            for glyph in range(first, last + 1):
                found.setdefault(glyph, document)
        if damaged and not found:
            raise next(iter(damaged.values()))
        said = [f"the drawing of {label} is damaged ({error.problem}) and left out" for label, error in damaged.items()]
        if (more := len(said) - _TOLD) > 0:
            said[_TOLD:] = [f"{count_of(more, 'more drawing')}: damaged, and left out"]
        return cls(found, tuple(said))

    def compile(self) -> bytes:
        runs: list[tuple[int, int, bytes]] = []
        for glyph, document in sorted(self.documents.items()):
            if runs and runs[-1][1] == glyph - 1 and runs[-1][2] is document:
                runs[-1] = (runs[-1][0], glyph, document)
            else:
                runs.append((glyph, glyph, document))
        offsets: dict[bytes, int] = {}
        offset = 2 + 12 * len(runs)
        for _, _, document in runs:
            if document not in offsets:
                offsets[document] = offset
                offset += len(document)
        out = bytearray((0).to_bytes(2, "big") + (10).to_bytes(4, "big") + bytes(4) + len(runs).to_bytes(2, "big"))
        for first, last, document in runs:
            out += first.to_bytes(2, "big") + last.to_bytes(2, "big")
            out += offsets[document].to_bytes(4, "big") + len(document).to_bytes(4, "big")
        return bytes(out) + b"".join(offsets)

    def draws(self, glyph: int) -> bool:
        """Whether it has a document for the glyph."""
        return glyph in self.documents

    def defects_found(self) -> Sequence[str]:
        return self.defects

    def subset(self, context: SubsetContext) -> Self | None:
        kept: dict[int, bytes] = {}
        by_document: dict[int, list[int]] = {}
        for glyph in context.glyphs:
            if glyph in self.documents:
                by_document.setdefault(id(self.documents[glyph]), []).append(glyph)
        for glyphs in by_document.values():
            made = _cut(self.documents[glyphs[0]], glyphs, context.glyphs)
            kept |= {context.glyphs[glyph]: made for glyph in glyphs}
        return type(self)(kept) if kept else None


def _readable(listed: OffsetReader, offset: int, length: int) -> tuple[bytes | FontError, int]:
    """A decompressed document, or its problem; and its size."""
    size = 0
    try:
        stored = listed.at(listed.origin + offset).take(length, "a document")
        # One that cannot be unpacked may have been unpacked nearly to its end.
        size = MAX_SVG_DOCUMENT if stored[:2] == _GZIP else len(stored)
        document = _unpacked(stored, listed.origin + offset)
        size = len(document)
        _parsed(document)
    except FontError as error:
        return error, size
    return document, size


def _unpacked(data: bytes, position: int) -> bytes:
    """A decompressed document, limited in size."""
    if data[:2] != _GZIP:
        return data
    stream = zlib.decompressobj(wbits=31)
    try:
        out = stream.decompress(data, MAX_SVG_DOCUMENT)
    except zlib.error as error:
        raise FontError(f"a document cannot be unpacked ({error})", offset=position) from error
    if stream.unconsumed_tail or not stream.eof:
        raise FontError("a document is too large, or cut short", offset=position)
    return out


def _parsed(document: bytes) -> Element:
    """The document's root. Raises `FontError` if it is not SVG or not safe."""
    from xml.etree.ElementTree import ParseError

    from defusedxml.common import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    try:
        root = fromstring(document, forbid_dtd=True)
    except (ParseError, DefusedXmlException, ValueError) as error:
        raise FontError(f"a document is not safe XML ({error})") from error
    if root.tag != f"{{{_SVG}}}svg":
        raise FontError("a document is not SVG")
    _check_depth(root)
    return root


def _cut(document: bytes, glyphs: list[int], new_ids: GlyphMap) -> bytes:
    """The document with only these glyphs, under their new IDs, and what they refer to."""
    from xml.etree.ElementTree import register_namespace, tostring

    register_namespace("", _SVG)
    register_namespace("xlink", _XLINK)
    root = _parsed(document)
    _make_safe(root)
    names = {f"glyph{glyph}": f"glyph{new_ids[glyph]}" for glyph in glyphs}
    if root.get("id", "") not in names:
        needed = _needed(root, names)
        _prune(root, needed, inside=False)
    for element in root.iter():
        _rename(element, names)
    return tostring(root, encoding="unicode").encode()


def _check_depth(root: Element) -> None:
    level = [root]
    for _ in range(MAX_SVG_DEPTH):
        level = [child for element in level for child in element]
        if not level:
            return
    raise FontError(f"a document is nested more than {MAX_SVG_DEPTH} deep")


def _make_safe(root: Element) -> None:
    """Remove scripts, external references, and the text between elements."""
    for parent in list(root.iter()):
        for child in list(parent):
            foreign = not isinstance(child.tag, str) or not child.tag.startswith(f"{{{_SVG}}}")
            if foreign or _local(child.tag) in _REFUSED or _fetches(child):
                parent.remove(child)
        for name, value in list(parent.attrib.items()):
            outside = _local(name) == "href" and not value.strip().startswith("#")
            if name.lower().startswith("on") or outside or "url(" in _URL.sub("", value):
                del parent.attrib[name]
        parent.tail = None
        if _local(str(parent.tag)) != "style":
            parent.text = None


def _fetches(element: Element) -> bool:
    """Whether it is a style sheet that names something outside of the document."""
    text = (element.text or "").lower() if _local(str(element.tag)) == "style" else ""
    return "@import" in text or "\\" in text or "url(" in _URL.sub("", text)


def _local(tag: str) -> str:
    return tag.rpartition("}")[2]


def _references(element: Element) -> Iterator[str]:
    """The IDs that an element refers to, those in it not counted."""
    for name, value in element.attrib.items():
        if _local(name) == "href":
            yield value.strip().removeprefix("#")
        yield from _URL.findall(value)
    if _local(str(element.tag)) == "style" and element.text:
        yield from _URL.findall(element.text)


def _needed(root: Element, glyphs: Mapping[str, str]) -> set[str]:
    """The IDs of the kept glyphs, and of all that they refer to."""
    by_id = {element.get("id", ""): element for element in root.iter() if element.get("id")}
    parents = {child: parent for parent in root.iter() for child in parent}
    needed: set[str] = set()
    waiting = [name for name in glyphs if name in by_id]
    # Style sheets hold for all.
    waiting += [name for style in root.iter(f"{{{_SVG}}}style") for name in _references(style) if name in by_id]
    while waiting:
        name = waiting.pop()
        if name in needed:
            continue
        needed.add(name)
        inside = [by_id[name], *by_id[name].iter()]
        above = by_id[name]
        while above in parents:
            # What stands around it gives it its colours and clips.
            above = parents[above]
            inside.append(above)
        waiting += [reference for element in inside for reference in _references(element) if reference in by_id]
    return needed


def _prune(element: Element, needed: set[str], *, inside: bool) -> bool:
    """Remove what is not needed. Returns whether the element is still needed."""
    here = inside or element.get("id", "") in needed
    kept = False
    for child in list(element):
        is_style = child.tag == f"{{{_SVG}}}style"
        if _prune(child, needed, inside=here) or is_style:
            kept = True
        else:
            element.remove(child)
    return here or kept


def _rename(element: Element, names: Mapping[str, str]) -> None:
    """The numbers of glyphs, wherever they are referred to."""
    for name, value in list(element.attrib.items()):
        if name == "id":
            # Other glyphs' drawings that are only referred to must not be taken for glyphs.
            element.set(name, names.get(value, f"of-{value}" if _GLYPH.fullmatch(value) else value))
        elif _local(name) == "href":
            element.set(name, f"#{_renamed(value.strip().removeprefix('#'), names)}")
        elif "url(" in value:
            element.set(name, _URL.sub(lambda match: f"url(#{_renamed(match[1], names)})", value))
    if element.tag == f"{{{_SVG}}}style" and element.text:
        text = _URL.sub(lambda match: f"url(#{_renamed(match[1], names)})", element.text)
        element.text = re.sub(r"#(glyph[0-9]{1,5})\b", lambda match: f"#{_renamed(match[1], names)}", text)


def _renamed(name: str, names: Mapping[str, str]) -> str:
    return names.get(name, f"of-{name}" if _GLYPH.fullmatch(name) else name)
