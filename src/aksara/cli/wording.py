"""The command line's wording: option names for the core's parameters."""

from __future__ import annotations

from collections.abc import Sequence

from aksara.cli.flags import FLAGS
from aksara.cli.shells import typed
from aksara.errors import AksaraError, RequestError
from aksara.notices import Notice
from aksara.pipeline.characters import CharacterRequest
from aksara.web.model import Change

#: What helps → how it is said behind the message.
_REMEDIES = {
    "BuildRequest.measured": "; `aksara measure FAMILY` measures one on a computer that has it",
    "BuildRequest.published_licences": " (--publish-licence)",
    "BuildRequest.url": "; leave --url out, and the paths come out right",
    "BuildRequest.links": " (--url /type/<file>, or url in aksara.toml)",
    "BuildRequest.within": " (--allow-outside)",
    "CharacterRequest.languages": " (add languages with --for-language)",
    "FamilyRequest.replaces": " (--replaces FAMILY; replaces in aksara.toml)",
    "FamilyRequest.colour_format": " (--colour-format keeps another)",
    "FamilyRequest.name": " (--family NAME; name in aksara.toml)",
    "FamilyRequest.overrides": " (--face overrides)",
    "FamilyRequest.variable": " (--variable skip takes them instead; variable in aksara.toml)",
    "WebLicence.stated": (
        "\n  If you hold a web licence, say so: --web-licence, and --licensed-to NAME for whom. "
        "If not, ask the seller for one."
    ),
    "languages": "; `aksara languages` lists them all",
    "project": "; `aksara init` writes one",
}


def error_text(error: AksaraError) -> str:
    """The message of an error: it names the option that was wrong, or the line of the project file."""
    text = str(error)
    if isinstance(error, RequestError) and error.location is None and error.parameter:
        option = FLAGS.get(error.parameter)
        text = f"{option}: {error.problem}" if option else error.problem
    return text + _REMEDIES.get(error.remedy, "")


def notice_text(notice: Notice) -> str:
    """The text of a notice, with the option that would change it."""
    return notice.text + _REMEDIES.get(notice.remedy, "")


def change_text(change: Change, characters: CharacterRequest) -> str:
    """The option that makes a change to the request; `characters` are those of the request."""
    if change.parameter == "CharacterRequest.languages" and change.values and _has_other_sources(characters):
        # The option alone would drop the characters of pages and texts, too.
        return f"languages {_listed(change.values)} only"
    return option_text(change)


def option_text(change: Change) -> str:
    """The option that makes a change to the request."""
    option = FLAGS[change.parameter]
    value = _listed(change.values)
    return f"{option} {typed([value])}" if change.values else f"without {option}"


def _has_other_sources(characters: CharacterRequest) -> bool:
    return bool(
        characters.texts or characters.text_files or characters.ranges or characters.scripts or characters.pages
    )


def _listed(values: Sequence[str]) -> str:
    return ",".join(values)
