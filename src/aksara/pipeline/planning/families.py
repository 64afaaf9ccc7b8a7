"""Planning families: faces with their characters, stacks and fallback faces."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from aksara.errors import located
from aksara.faces import FaceMetrics, embedding, generic_family, identify, names_for_local
from aksara.font import Font
from aksara.kerning import kerning_in_text
from aksara.notices import Noted, Notice
from aksara.phrases import listed
from aksara.pipeline.planning.icons import icon_width, pictures_of
from aksara.pipeline.planning.metric_samples import sampled_metrics
from aksara.pipeline.planning.planned import FacePlan, FamilyPlan, OtherWay
from aksara.pipeline.planning.reading import FacesOfFonts
from aksara.pipeline.planning.variable_fonts import SettledFace, other_way, variation_left
from aksara.pipeline.request import FamilyRequest
from aksara.subsetting import draws_any, has_visible
from aksara.subsetting.localised_forms import east_asian_languages, localised_characters, with_languages_only
from aksara.subsetting.sequences import drawn_as_one, with_sequences_only
from aksara.tables import Name
from aksara.tables.name import COPYRIGHT
from aksara.text import CharacterSelection, Frequencies, frequencies_for, text_frequencies
from aksara.text.scripts import COMMON, script_of
from aksara.text.sequences import Sequences
from aksara.text_widths import widths_in_text
from aksara.web.fallback import SetFace, fallback_faces
from aksara.web.font_matching import DesiredFace, best_match, missing_faces
from aksara.web.stack import close_stack, complete_stack, unmatched_scripts
from aksara.web.system_families import SystemFamily

if TYPE_CHECKING:
    from aksara.pipeline.planning.site_needs import FaceNeed, FamilyNeeds

#: Emoji that are named one by one.
_NAMED = 6
# What the elements strong and em ask for of any family that has more than one face.
_STANDARD = (DesiredFace(700), DesiredFace(400, "italic"), DesiredFace(700, "italic"))

_SPACE = 0x20
#: Characters of the family's text that are added to each face's own, which may be too few to be typical.
_BLENDED = 60
#: Of a face's text, the share of letters whose width in words is not known from which on no fallback face is fitted.
_TOO_MUCH_UNKNOWN = 0.3


class Share(Struct, frozen=True):
    """What one face gets: characters (None: all), sequences (None: all), which characters no page shows yet, how many
    are written in it, and the languages of its text (tags; None: any). `guessed` are those of them that its letters
    tell alone."""

    characters: frozenset[int] | None
    sequences: Sequences | None = None
    letters: frozenset[int] = frozenset()
    written: int = 0
    languages: frozenset[str] | None = None
    guessed: frozenset[str] = frozenset()


class Wanted(Struct, frozen=True):
    """What is wanted of a family's faces: the same `characters` of all of them (None: every one), or what the site
    `needs` of each. `besides` are characters that every face gets; with `all_faces` those are made, too, that the site
    does not ask for. So with `sequences`, which are those that every face gets where there are needs. `languages` are
    those of text (tags, "" where some says none), besides those that needs have; None: any."""

    characters: frozenset[int] | None
    sequences: Sequences | None = None
    needs: FamilyNeeds | None = None
    besides: frozenset[int] = frozenset()
    all_faces: bool = False
    languages: frozenset[str] | None = None

    def of_faces(self, faces: Sequence[SettledFace]) -> list[Share | None]:
        """What each face gets; None for one that is not to be made."""
        if self.needs is None:
            share = self._in_languages(Share(self.characters, self.sequences), (), self.characters or frozenset())
            return [share for _ in faces]
        shares: dict[int, list[FaceNeed]] = {}
        for need in self.needs.faces if faces else ():
            match = best_match([face.face for face in faces], need.desired)
            index = next(index for index, settled in enumerate(faces) if settled.face is match)
            shares.setdefault(index, []).append(need)
        return [self._share(shares.get(index, ())) for index in range(len(faces))]

    def _share(self, needs: Sequence[FaceNeed]) -> Share | None:
        if not needs:
            if not self.all_faces or self.needs is None:
                return None
            needs, of_all = self.needs.faces, self.of_all or frozenset()
            return self._in_languages(Share(of_all, self._sequences_of(needs)), needs, of_all)
        shown = self.besides.union(*(need.shown for need in needs))
        letters = frozenset().union(*(need.letters for need in needs)) - shown
        written = sum(need.written for need in needs)
        return self._in_languages(Share(shown | letters, self._sequences_of(needs), letters, written), needs, shown)

    def _sequences_of(self, needs: Iterable[FaceNeed]) -> Sequences | None:
        if self.sequences is None:
            return None
        return self.sequences | Sequences(frozenset().union(*(need.sequences for need in needs)))

    def _in_languages(self, share: Share, needs: Iterable[FaceNeed], shown: frozenset[int]) -> Share:
        """The share, with the languages of its text."""
        if self.languages is None:
            return share
        tags = self.languages.union(*(need.languages for need in needs))
        guessed = east_asian_languages(shown, self.languages) - tags if "" in tags else frozenset[str]()
        return replace(share, languages=tags | guessed, guessed=guessed)

    @property
    def of_all(self) -> frozenset[int] | None:
        """What every face would get if nothing were known of faces."""
        if self.needs is None:
            return self.characters
        return self.besides.union(*(need.characters for need in self.needs.faces))


def plan_faces(request: FamilyRequest, faces: Sequence[SettledFace], wanted: Wanted) -> Noted[list[FacePlan]]:
    """Those faces that are wanted and have any of the characters."""
    notices: list[Notice] = []
    static = [face for face in faces if not face.font.is_variable]
    # What is installed under a variable font's names may be any of its instances.
    names = dict(zip(map(id, static), names_for_local([(face.face, face.font) for face in static]), strict=True))
    plans = []
    for settled, share in zip(faces, wanted.of_faces(faces), strict=True):
        font = settled.font
        if share is None:
            continue
        if not draws_any(font, share.characters):
            empty = has_visible(font, share.characters)
            text = "draws nothing for the characters asked for: their glyphs are empty"
            notices.append(Notice(font.path, f"{text if empty else 'has none of the characters asked for'}; left out"))
            continue
        local = names.get(id(settled), ()) if request.local else ()
        if request.local and not local:
            text = "its names could mean another face, so no installed copy of it is tried (local)"
            notices.append(Notice(font.path, text))
        plans.append(_plan_face(settled, request, share, local))
        notices += _in_parts(plans[-1])
    return Noted(plans, tuple(notices))


def plan_unused(request: FamilyRequest, faces: Sequence[SettledFace], wanted: Wanted) -> list[FacePlan]:
    """The faces that are not wanted, as they would be made if they were."""
    unused = []
    for settled, share in zip(faces, wanted.of_faces(faces), strict=True):
        if share is None and draws_any(settled.font, wanted.of_all):
            unused.append(_plan_face(settled, request, Share(wanted.of_all, wanted.sequences), ()))
    return unused


def _plan_face(settled: SettledFace, request: FamilyRequest, share: Share, local: tuple[str, ...]) -> FacePlan:
    font = settled.font
    with located(file=font.path):
        metrics, samples = sampled_metrics(settled)
        emoji: dict[str, bool] = {}
        if share.sequences is not None:
            emoji = drawn_as_one(font, share.sequences.asked)
            font = with_sequences_only(font, share.sequences, request.features)
        characters = _limited(settled, request, share)
        unlocalised: dict[str, frozenset[int]] = {}
        unsaid: dict[str, frozenset[int]] = {}
        if share.languages is not None and characters is not None:
            font, gone = with_languages_only(font, share.languages)
            unlocalised = {name: codes & characters for name, codes in gone.items() if codes & characters}
            found = localised_characters(font, share.guessed)
            unsaid = {name: codes & characters for name, codes in found.items() if codes & characters}
    return FacePlan(
        face=settled.face,
        font=font,
        source=settled.font,
        permission=embedding(settled.font),
        characters=characters,
        request=request,
        metrics=metrics,
        axes=settled.axes,
        variation=variation_left(settled),
        samples=samples,
        local=local,
        written=share.written,
        letters=share.letters,
        sequences=share.sequences,
        emoji=emoji,
        unlocalised=unlocalised,
        unsaid=unsaid,
    )


class PlannedFaces(Struct, frozen=True):
    """The faces that are made for one request, those that would be if the site used them (`unused`), and all that there
    are, with their fonts."""

    request: FamilyRequest
    wanted: Wanted
    there: FacesOfFonts
    made: Sequence[FacePlan]
    unused: Sequence[FacePlan]


def plan_families(
    faces: PlannedFaces, selection: CharacterSelection, measured: Sequence[SystemFamily] = ()
) -> list[FamilyPlan]:
    """The planned faces family by family."""
    members: dict[str, list[FacePlan]] = defaultdict(list)
    for plan in sorted(faces.made, key=lambda plan: plan.face.sort_key):
        members[plan.face.family].append(plan)
    return [
        _family(member, faces, _frequencies(member, selection, faces.wanted), measured) for member in members.values()
    ]


def _family(
    members: Sequence[FacePlan],
    planned: PlannedFaces,
    frequencies: Frequencies,
    measured: Sequence[SystemFamily],
) -> FamilyPlan:
    request, wanted = planned.request, planned.wanted
    faces = [member.face for member in members]
    name = faces[0].family
    regular = next(member for member in members if member.face is best_match(faces, DesiredFace()))
    pictures = pictures_of(regular.source)
    generic = generic_family(regular.font) if pictures != "icons" else "sans-serif"
    in_text = replace(regular.metrics, widths=_widths_in_text(regular.font, regular.metrics, frequencies))
    if request.stack is not None:
        stack = complete_stack(request.stack, generic)
    elif pictures == "icons":
        # No other family has its icons.
        stack = ("sans-serif",)
    else:
        stack = close_stack(generic, in_text, frequencies, measured)
    names = [member.font.find(Name) for member in members]
    notices = dict.fromkeys(filter(None, (table.get(COPYRIGHT) for table in names if table is not None)))
    desired = request.uses or (_STANDARD if len(members) > 1 else ())
    return FamilyPlan(
        name=name,
        faces=tuple(members),
        stack=stack,
        generic=generic,
        notice="\n   ".join(notices),
        request=request,
        known=frozenset().union(*(font.characters for face, font in planned.there if face.family == name)),
        fallbacks=() if pictures else fallback_faces(name, _set_faces(members, wanted, frequencies), stack, measured),
        unmatched_scripts=() if pictures else unmatched_scripts(stack, in_text, frequencies, measured),
        pictures=pictures,
        icon_width=icon_width(regular.source) if pictures == "icons" else None,
        missing_faces=tuple(missing_faces(faces, desired)),
        other_way=_other_way(members, request, wanted),
        needs=wanted.needs,
        unused=tuple(
            sorted((face for face in planned.unused if face.face.family == name), key=lambda face: face.face.sort_key)
        ),
    )


def _other_way(members: Sequence[FacePlan], request: FamilyRequest, wanted: Wanted) -> OtherWay | None:
    """What else could become of the family's variable fonts."""
    of_variable = [member for member in members if member.font.is_variable]
    if not of_variable:
        return None
    name = members[0].face.family
    fonts = {id(member.source): member.source for member in of_variable}.values()
    faces_of_fonts = [(replace(identify(font), family=name), font) for font in fonts]
    faces_of_fonts += [(member.face, member.source) for member in members if not member.font.is_variable]
    way = other_way(request, faces_of_fonts)
    if way is None:
        return None
    variable, uses, settled = way
    faces = tuple(plan_faces(request, settled, wanted).value)
    if [(face.face, face.axes) for face in faces] == [(face.face, face.axes) for face in of_variable]:
        return None
    return OtherWay(variable=variable, uses=uses, faces=faces, instead_of=tuple(of_variable))


def _limited(settled: SettledFace, request: FamilyRequest, share: Share) -> frozenset[int] | None:
    """The characters that a face gets: those wanted, limited to those it is meant to serve."""
    # A text without a space has one beside it on most pages.
    wanted = share.characters | {_SPACE} if share.characters is not None else None
    for override in request.overrides:
        if override.characters is not None and override.matches(settled.font.path):
            wanted = override.characters if wanted is None else wanted & override.characters
    return wanted


def _in_parts(plan: FacePlan) -> Iterator[Notice]:
    """Notices about requested emoji sequences that the font draws in parts."""
    if sequences := [sequence for sequence, is_one in plan.emoji.items() if not is_one]:
        one = len(sequences) == 1
        what = (
            "an emoji that it does not have whole" if one else f"{len(sequences):,} emoji that it does not have whole"
        )
        yield Notice(
            plan.font.path,
            f"{what}: {listed(sequences, _NAMED)}; readers see {'its' if one else 'their'} parts side by side",
        )


def _set_faces(members: Sequence[FacePlan], wanted: Wanted, of_family: Frequencies) -> list[SetFace]:
    """The faces, each with how often characters occur in its own text, as far as the site has enough of it, and with
    the widths that they have there, kerning included."""
    samples = [(member, face, metrics) for member in members for face, metrics in member.samples]
    faces = [face for _, face, _ in samples]
    counts: dict[int, Counter[int]] = defaultdict(Counter)
    for need in wanted.needs.faces if wanted.needs is not None else ():
        counts[faces.index(best_match(faces, need.desired))].update(need.counts)
    total = sum(count.total() for count in counts.values())
    set_faces = []
    for index, (member, face, metrics) in enumerate(samples):
        # Of a family whose text is not known, regular and bold are used most.
        share = counts[index].total() / total if total else float(face.style == "normal" and face.weight in (400, 700))
        frequencies = _blended(counts[index], of_family)
        kerning = kerning_in_text(member.font, frequencies)
        in_text = _widths_in_text(member.font, metrics, frequencies)
        unknown = metrics.widths.keys() - in_text.keys()
        frequencies = {code: share for code, share in frequencies.items() if code not in unknown}
        widths = {code: width + kerning.get(code, 0.0) for code, width in in_text.items()}
        set_faces.append(SetFace(face, replace(metrics, widths=widths), frequencies, share))
    return set_faces


def _widths_in_text(font: Font, metrics: FaceMetrics, frequencies: Frequencies) -> dict[int, float]:
    """The widths of letters in words; {} if those of many letters of this text are unknown."""
    in_text = widths_in_text(font, metrics.widths)
    unknown = metrics.widths.keys() - in_text.keys()
    share = sum(frequencies.get(code, 0.0) for code in unknown)
    return {} if share > _TOO_MUCH_UNKNOWN * sum(frequencies.values()) else in_text


def _blended(counts: Counter[int], of_family: Frequencies) -> Frequencies:
    """The frequencies of a face's own text, and those of its family as if `_BLENDED` characters more were set in it."""
    total = counts.total() + _BLENDED
    codes = counts.keys() & of_family.keys() if of_family else set(counts)
    return {code: (counts[code] + _BLENDED * of_family.get(code, 0.0)) / total for code in codes | of_family.keys()}


def _frequencies(members: Sequence[FacePlan], selection: CharacterSelection, wanted: Wanted) -> Frequencies:
    """The frequency of each kept character: in the site's text, else in the languages of the font."""
    served = {code for member in members for code in member.metrics.widths}
    kept = served if wanted.of_all is None else served & wanted.of_all
    # A handful of letters makes no language: then as in those of the whole font.
    of_family = text_frequencies(wanted.needs.counts) if wanted.needs is not None else {}
    has_letters = any(script_of(code) != COMMON for code in kept)
    for known in (of_family, selection.frequencies, frequencies_for(kept), frequencies_for(served)):
        own = {code: share for code, share in known.items() if code in kept}
        # Where none of the letters that are kept is in it, it says nothing of them.
        if own and (not has_letters or any(script_of(code) != COMMON for code in own)):
            return own
    return {}
