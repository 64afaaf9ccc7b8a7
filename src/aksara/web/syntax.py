"""Writing CSS so that no name can break out of where it stands (CSS Syntax 3, section 4.3.7; CSSOM "serialize")."""

from __future__ import annotations

import re
import unicodedata

from aksara.errors import RequestError

# CSS Fonts 4, sections 2.1.1 and 2.1.2: written without quotes.
GENERIC_FAMILIES = frozenset(
    {
        *("serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui", "math", "emoji"),
        *("ui-serif", "ui-sans-serif", "ui-monospace", "ui-rounded", "fangsong"),
    }
)
#: Values that all properties have (CSS Cascade 5, section 7.3).
CSS_WIDE = frozenset({"inherit", "initial", "unset", "revert", "revert-layer"})
_RESERVED = CSS_WIDE | {"default", "none"}
_CSS = "WebLicence.css"
_IDENTIFIER = re.compile(r"[A-Za-z][A-Za-z0-9-]*")


def string(text: str) -> str:
    """A CSS string. Quotes, backslashes, control characters and "<" (for `</style`) are escaped."""
    return '"' + "".join(_escape(character) for character in text) + '"'


def _escape(character: str) -> str:
    # Lone surrogates cannot be written as UTF-8; a NUL cannot be written at all.
    if character == "\0" or "\ud800" <= character <= "\udfff":
        return "\N{REPLACEMENT CHARACTER}"
    if character in '"\\':
        return "\\" + character
    if character == "<" or unicodedata.category(character) in ("Cc", "Cf", "Zl", "Zp"):
        return f"\\{ord(character):X} "
    return character


def comment_text(text: str) -> str:
    """Text that can neither end a CSS comment nor, in a page, the style sheet."""
    safe = "".join(c if c == "\n" or unicodedata.category(c)[0] != "C" else " " for c in text)
    return safe.replace("*/", "* /").replace("<", "(").replace(">", ")")


def family_name(name: str) -> str:
    """A family as written in `font-family`: generic families and plain single words bare, others quoted."""
    if name in GENERIC_FAMILIES or (_IDENTIFIER.fullmatch(name) and name.lower() not in _RESERVED):
        return name
    return string(name)


def slug(name: str, joiner: str = "-") -> str:
    """ASCII letters and digits of a name, words joined; '' if there are none."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode()
    return joiner.join(re.findall(r"[A-Za-z0-9]+", plain))[:60]


def property_name(family: str) -> str:
    """The custom property of a family: `--penyu-sans`."""
    return "--" + (slug(family).lower() or "web-font")


def check_leading_css(text: str) -> None:
    """Raise `RequestError` for CSS that cannot stand at the head of a style sheet without harming what follows it."""
    if not text.strip():
        return
    # Imported here: most runs bring no CSS of their own.
    import tinycss2

    if "</style" in text.lower() or "@charset" in text.lower():
        raise RequestError(
            "the CSS that the licence demands has '</style' or '@charset' in it; leave these out", parameter=_CSS
        )
    # What is left open swallows what follows: a rule put behind must come out whole.
    try:
        rules = tinycss2.parse_stylesheet(f"{text}\n@font-face {{}}", skip_comments=True, skip_whitespace=True)
    except ValueError as error:
        raise RequestError(f"the CSS that the licence demands cannot be read ({error})", parameter=_CSS) from error
    wrong = next((rule for rule in rules if rule.type == "error"), None)
    last = rules[-1] if rules else None
    if wrong is not None or last is None or getattr(last, "at_keyword", "") != "font-face":
        raise RequestError(
            "the CSS that the licence demands is not whole (a brace, quote or comment is left open, or a semicolon "
            "is missing at its end); correct it",
            parameter=_CSS,
        )
