"""A site's needs: characters and features by family and face.

A text asks for a list of families; what the first of ours lacks the next one gets. Faces get the letters of their
languages besides, so that text that is written later does not fall into another font.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from aksara.notices import Notice
from aksara.phrases import listed
from aksara.pipeline.characters import site_characters
from aksara.pipeline.planning.expected_letters import ExpectedLetters, letters_to_expect
from aksara.site import SiteUse
from aksara.site.findings import desired_face, desired_faces, nearly_empty, unread_sheets
from aksara.site.usage import BROWSER_DEFAULT, FaceUse, Origin, TextUse
from aksara.web.font_matching import DesiredFace
from aksara.web.syntax import GENERIC_FAMILIES

#: The parameter that says the languages of a site.
_LANGUAGES = "CharacterRequest.languages"
_SPACE = frozenset(b" ")

_REPLACES = "FamilyRequest.replaces"
#: The part of a site's text from which on the families that it names count as those of its text: code may have one.
_NAMED_SHARE = 0.1
#: Files that are named one by one.
_NAMED_FILES = 3


class FaceNeed(Struct, frozen=True, kw_only=True):
    """What one face is asked for: the characters that are shown, `letters` that running text may come to need, how
    often each character is written, where it is first asked for, sequences that it may draw as one picture, and texts
    that are set in it (`samples`, each with the tag of its language)."""

    desired: DesiredFace
    shown: frozenset[int]
    letters: frozenset[int]
    counts: Mapping[int, int]
    origin: Origin
    sequences: frozenset[str]
    samples: tuple[tuple[str, str], ...]
    #: Languages of which only the everyday letters are among `letters`.
    partly: frozenset[str] = frozenset()
    #: Those of all its text (tags), "" where some does not say its own.
    languages: frozenset[str] = frozenset()

    @property
    def characters(self) -> frozenset[int]:
        """All that the face should have."""
        return self.shown | self.letters

    @property
    def written(self) -> int:
        """How many characters are set in it."""
        return sum(self.counts.values())


class FamilyNeeds(Struct, frozen=True):
    """A site's needs of one family, face by face, most used first; `features` are OpenType tags.

    `text_files` counts the files that are no pages and whose text may appear in it.
    """

    faces: tuple[FaceNeed, ...]
    features: frozenset[str]
    text_files: int = 0
    #: Languages of which the faces have only the everyday letters, and those that are shown.
    partly: frozenset[str] = frozenset()

    @property
    def uses(self) -> tuple[DesiredFace, ...]:
        """The weights and styles."""
        return tuple(need.desired for need in self.faces)

    @property
    def counts(self) -> Mapping[int, int]:
        """How often each character is written in the family."""
        total: Counter[int] = Counter()
        for need in self.faces:
            total.update(need.counts)
        return total

    @property
    def written(self) -> int:
        """How many characters are set in it."""
        return sum(need.written for need in self.faces)


class Expectation(Struct, frozen=True):
    """What is expected of text that is written later: it is in these `languages` where the site does not say one.

    `is_of_pictures` tells of a family's name whether it is of icons or emoji: no text that is written later is set in
    these. `cut` are families whose pages fetch only the slices that they need: these may have thousands of letters.
    """

    is_of_pictures: Callable[[str], bool]
    languages: tuple[str, ...] = ()
    cut: frozenset[str] = frozenset()
    thousands: bool = False

    def of_family(self, name: str) -> Expectation | None:
        """That of a family; None where nothing is expected."""
        return None if self.is_of_pictures(name) else replace(self, thousands=name in self.cut)


def find_needs(
    site: SiteUse,
    known: Mapping[str, frozenset[int]],
    replaces: Mapping[str, str],
    expectation: Expectation | None = None,
) -> dict[str, FamilyNeeds]:
    """The site's needs of each family that it names.

    `known` are the families of the build with the characters that any of their fonts has; `replaces` says which of
    them stands for another name. Without an `expectation` faces need what is shown and no more.
    """
    ours = {name.casefold(): name for name in known}
    ours |= {other.casefold(): name for other, name in replaces.items()}
    asked: dict[str, dict[DesiredFace, list[tuple[FaceUse, frozenset[int]]]]] = {}
    for use in site.faces:
        left = use.codes
        for family in use.face.families:
            name = ours.get(family.casefold())
            if name is None or not left:
                continue
            for desired in desired_faces(use):
                asked.setdefault(name, {}).setdefault(desired, []).append((use, left))
            left -= known[name]
    texts = frozenset(site_characters(SiteUse((), texts=site.texts)))
    sequences = frozenset().union(*(text.sequences for text in site.texts))
    result = {
        name: _family(uses, expectation.of_family(name) if expectation is not None else None)
        for name, uses in asked.items()
    }
    if texts and result:
        # Text of data files may appear anywhere in running text.
        name = max(result, key=lambda family: result[family].written)
        letters = frozenset[int]()
        if expectation is not None and expectation.of_family(name) is not None:
            letters = letters_to_expect({"": len(texts)}, texts, expectation.languages).letters
        result[name] = _with_texts(_with_emphasis(result[name], site.texts), texts, letters, len(site.texts))
    # Of what data hold only sequences that a font has count, and so do no harm to others.
    return {name: _with_sequences(needs, sequences) for name, needs in result.items()}


def _family(
    asked: Mapping[DesiredFace, Sequence[tuple[FaceUse, frozenset[int]]]], expectation: Expectation | None
) -> FamilyNeeds:
    needs = [_face(desired, uses, expectation) for desired, uses in asked.items()]
    needs.sort(key=lambda need: (-need.written, need.desired.weight, need.desired.style, need.desired.width))
    features = {tag for uses in asked.values() for use, _ in uses for tag in use.features}
    partly = frozenset[str]().union(*(need.partly for need in needs))
    return FamilyNeeds(tuple(needs), frozenset(features), partly=partly)


def _face(
    desired: DesiredFace, uses: Sequence[tuple[FaceUse, frozenset[int]]], expectation: Expectation | None
) -> FaceNeed:
    counts: Counter[int] = Counter()
    languages: Counter[str] = Counter()
    for use, codes in uses:
        counts.update({code: count for character, count in use.characters.items() if (code := ord(character)) in codes})
        languages.update(use.languages)
    shown = frozenset(counts) | _SPACE
    expected = ExpectedLetters(frozenset())
    if expectation is not None:
        expected = letters_to_expect(languages, shown, expectation.languages, thousands=expectation.thousands)
    first = next((use for use, _ in uses if not use.hidden), uses[0][0])
    return FaceNeed(
        desired=desired,
        shown=shown,
        letters=expected.letters - shown,
        partly=expected.partly,
        languages=frozenset(languages),
        counts=counts,
        origin=first.origin,
        sequences=frozenset().union(*(use.sequences for use, _ in uses)),
        samples=tuple(sample for use, _ in uses if not use.hidden for sample in use.samples),
    )


def letters_to_come(site: SiteUse, languages: Sequence[str]) -> frozenset[int]:
    """The letters of the languages of all text: of families that no page names yet."""
    counts: Counter[str] = Counter()
    for use in site.faces:
        counts.update(use.languages)
    return letters_to_expect(counts, frozenset(site_characters(site)), languages).letters


def _with_emphasis(needs: FamilyNeeds, texts: Iterable[TextUse]) -> FamilyNeeds:
    """The family with the faces of what texts emphasise, beside the face of its running text."""
    upright = (need for need in needs.faces if need.desired.style == "normal" and need.desired.weight < 550)
    running = next(upright, needs.faces[0])
    regular = running.desired
    bold = 400 if regular.weight < 350 else 700 if regular.weight < 550 else max(900, regular.weight)
    desired_by_kind: dict[str, DesiredFace] = {
        "em": replace(regular, style="italic"),
        "strong": replace(regular, weight=bold),
        "both": replace(regular, style="italic", weight=bold),
    }
    faces = {need.desired: need for need in needs.faces}
    for text in texts:
        for kind, line in text.emphasis.items():
            desired = desired_by_kind[kind]
            if desired not in faces:
                origin = Origin(text.path, line, "strong" if kind == "strong" else "em")
                faces[desired] = replace(running, desired=desired, origin=origin, counts={}, samples=())
    return replace(needs, faces=tuple(faces.values()))


def _with_texts(needs: FamilyNeeds, texts: frozenset[int], letters: frozenset[int], files: int) -> FamilyNeeds:
    faces = tuple(
        replace(need, shown=need.shown | texts, letters=(need.letters | letters) - need.shown - texts)
        for need in needs.faces
    )
    return replace(needs, faces=faces, text_files=files)


def _with_sequences(needs: FamilyNeeds, sequences: frozenset[str]) -> FamilyNeeds:
    faces = tuple(replace(need, sequences=need.sequences | sequences) for need in needs.faces)
    return replace(needs, faces=faces)


def unnamed_family(name: str, site: SiteUse, ours: Collection[str]) -> Notice:
    """A notice about a family that no page uses, with the families that text and headings use now."""
    text, remedy = _unnamed(site, ours)
    return Notice(name, text, remedy)


def _unnamed(site: SiteUse, ours: Collection[str]) -> tuple[str, str]:
    uses: dict[str, list[FaceUse]] = {}
    for use in site.faces:
        name = next((family for family in use.face.families if family not in GENERIC_FAMILIES), "")
        # Nobody has asked for the browser's own.
        if name and not use.hidden and name not in ours and use.face.families != BROWSER_DEFAULT:
            uses.setdefault(name, []).append(use)
    total = sum(use.count for use in site.faces if not use.hidden)
    if sum(use.count for of_name in uses.values() for use in of_name) < _NAMED_SHARE * total:
        uses.clear()
    if not uses and is_made_by_scripts(site):
        return "scripts write the text of these pages, so every face gets all characters of the site", ""
    text = "no page uses this family yet, so every face gets all characters of the site"
    if not uses:
        return text, _REPLACES
    running = max(uses, key=lambda name: sum(use.count - use.in_headings for use in uses[name]))
    headings = max(uses, key=lambda name: sum(use.in_headings for use in uses[name]))
    present = f"its running text is in {_figures(running, uses[running])}"
    if headings != running:
        present += f", its headings in {_figures(headings, uses[headings])}"
    return f"{text}; say which family it replaces: {present}", _REPLACES


def _figures(name: str, uses: Sequence[FaceUse]) -> str:
    faces = len({desired_face(use.face) for use in uses})
    return f"{name} ({_plural(sum(use.count for use in uses), 'character')} in {_plural(faces, 'face')})"


def is_made_by_scripts(site: SiteUse) -> bool:
    """Whether most pages show almost nothing without scripts, so that the faces they use are unknown."""
    pages = [page for page in site.pages if not page.template]
    return 2 * len(nearly_empty(pages)) > len(pages)


def site_notices(site: SiteUse, languages: Sequence[str]) -> list[Notice]:
    """What could not be read of a site, and pages that show next to nothing without their scripts.

    `languages` are those that the request names.
    """
    notices = [Notice(page.page, problem) for page in site.pages for problem in page.problems]
    notices += [Notice(text.path, text.problem) for text in site.texts if text.problem]
    for (address, reason), pages in sorted(unread_sheets(site.pages).items()):
        where = f" ({_plural(pages, 'page')} of the site ask for it)" if pages > 1 else ""
        notices.append(Notice(address, f"{reason}{where}"))
    if site.uncompiled:
        text = "no CSS is made of them here, so it is not known which faces text is set in; give the built site"
        notices.append(Notice(listed(site.uncompiled, _NAMED_FILES), text))
    if site.unread:
        text = "templates in Haml and Slim are not read, so what they show is not known; give the built site"
        notices.append(Notice(listed(site.unread, _NAMED_FILES), text))
    if empty := nearly_empty(site.pages):
        more = f" and {len(empty) - 1} more" if len(empty) > 1 else ""
        text = "next to no text without scripts; what these add is not counted"
        text += ", so faces that no page shows are made, too" if is_made_by_scripts(site) else ""
        notices.append(Notice(f"{empty[0].page}{more}", text))
    templates = [page for page in site.pages if page.template]
    # Pages beside templates say it for them: scripts of a site that is built, say.
    says = any(page.language or any(use.languages.keys() - {""} for use in page.faces) for page in site.pages)
    if templates and not (says or site.languages or languages):
        text = "these templates do not say their language; every face gets the letters of English"
        notices.append(Notice(f"{templates[0].page}{' and others' * (len(templates) > 1)}", text, _LANGUAGES))
    return notices


def _plural(count: int, noun: str) -> str:
    return f"{count:,} {noun}{'s' * (count != 1)}"
