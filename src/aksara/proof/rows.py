"""The rows of the proof's charts: a label, and bars, each of a kind, with its bytes and its words."""

from __future__ import annotations

from aksara.proof.content import FamilyProof, PageSize
from aksara.sizes import format_size
from aksara.web.formats import OLD_FORMATS
from aksara.web.model import format_label

#: A bar: its class, bytes, and what stands behind it.
Bar = tuple[str, int, str]
#: Pages that are shown, the heaviest first.
MOST_PAGES = 20


def face_rows(proof: FamilyProof) -> list[tuple[str, list[Bar]]]:
    """What each face takes: as a desktop font, and in each format."""
    rows: list[tuple[str, list[Bar]]] = []
    for web in proof.web.faces:
        bars: list[Bar] = [("before", web.source_size, f"{format_size(web.source_size)} desktop font")]
        made = dict.fromkeys(file.format for file in web.files)
        current = [font_format for font_format in made if font_format not in OLD_FORMATS]
        for font_format in current[::-1]:
            kind = "after" if font_format == current[0] else "middle"
            size = web.size(font_format)
            bars.append((kind, size, f"{format_size(size)} {format_label(font_format)}"))
        rows.append((web.face.label, bars))
    return rows


def page_rows(proof: FamilyProof) -> list[tuple[str, list[Bar]]]:
    """Chart rows of what the first views of the heaviest pages fetch."""
    return [(heavy.page, [_page_bar(heavy, proof.budget)]) for heavy in _heaviest(proof)]


def longest_page(proof: FamilyProof) -> int:
    """Bytes of the longest bar of the pages."""
    return max([page.size for page in proof.pages] + [proof.budget or 1])


def longest_face(proof: FamilyProof) -> int:
    """Bytes of the longest bar of the faces."""
    return max(bar[1] for _, bars in face_rows(proof) for bar in bars)


def _heaviest(proof: FamilyProof) -> list[PageSize]:
    return sorted(proof.pages, key=lambda view: (-view.size, view.page))[:MOST_PAGES]


def _page_bar(page: PageSize, budget: int | None) -> Bar:
    kind = "over" if budget is not None and page.size > budget else "after"
    return kind, page.size, f"{format_size(page.size)} in {page.files} file{'s' * (page.files != 1)}"
