"""Real faces beside those that a browser would fake."""

from __future__ import annotations

from aksara.proof.content import AskedFace, FamilyProof
from aksara.proof.samples import can_set, opening, texts_for
from aksara.web.font_matching import best_match, synthesis
from aksara.web.model import WebFace
from aksara.web.syntax import string

_DOES = {"slants": "slanted", "thickens": "thickened"}


def face_of(proof: FamilyProof, asked: AskedFace) -> WebFace:
    """The face that readers get."""
    return next(web for web in proof.web.faces if web.face is asked.face)


def faked_from(proof: FamilyProof, asked: AskedFace) -> WebFace | None:
    """The face that a browser would take and change if this one were not there; None where it would change nothing."""
    text = sample_of(proof, asked)
    others = [
        web
        for web in proof.web.faces
        if web.face is not asked.face and synthesis(asked.desired, web.face) and can_set(web, text)
    ]
    if not others:
        return None
    nearest = best_match([web.face for web in others], asked.desired)
    return next(other for other in others if other.face is nearest)


def faked_style(asked: AskedFace) -> str:
    """Declarations with which a browser fakes the face out of one that is declared upright and of weight 400."""
    declarations = ["font-synthesis: weight style"]
    if asked.desired.weight >= 600:
        declarations.append("font-weight: 700")
    if asked.desired.style != "normal":
        declarations.append("font-style: italic")
    return "; ".join(declarations)


def real_style(proof: FamilyProof, asked: AskedFace) -> str:
    """Declarations that set a variable face to the requested style; "" for a static face."""
    web = face_of(proof, asked)
    if web.variation is None:
        return ""
    wanted = {"wght": float(asked.desired.weight), "wdth": asked.desired.width}
    if asked.desired.style != "normal":
        # Negative to the right.
        wanted |= {"slnt": -90.0, "ital": 1.0}
    places = {
        axis.tag: min(max(wanted[axis.tag], axis.minimum), axis.maximum)
        for axis in web.variation.axes
        if axis.tag in wanted
    }
    settings = ", ".join(f"{string(tag)} {value:g}" for tag, value in places.items())
    return f"font-variation-settings: {settings}" if settings else ""


def faked_words(asked: AskedFace) -> str:
    """The declarations that show what a browser does to the nearest face."""
    done = [_DOES[faked] for faked in synthesis(asked.desired, asked.face)]
    return f", {' and '.join(done)} by the browser" if done else ""


def sample_of(proof: FamilyProof, asked: AskedFace) -> str:
    """A line in the words of the site."""
    web = face_of(proof, asked)
    face_index = next(face_index for face_index, face in enumerate(proof.web.faces) if face is web)
    return opening(texts_for(web, proof.texts.get(face_index, ()), proof.languages)[0][1])


def verdict(proof: FamilyProof) -> str:
    """Whether anything is faked, in a sentence."""
    missing = [asked for asked in proof.asked if not asked.is_real]
    whose = "the site asks for" if any(asked.written for asked in proof.asked) else "that is asked for"
    if not missing:
        return f"No: each weight and style {whose} is a real face."
    faked = [asked for asked in missing if synthesis(asked.desired, asked.face)]
    names = ", ".join(asked.desired.label for asked in missing)
    if faked:
        return f"Yes: there is no {names}, and browsers make it up."
    return f"There is no {names}; readers get the nearest face as it is."
