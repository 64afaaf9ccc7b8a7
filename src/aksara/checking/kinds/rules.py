"""Kinds of findings about `@font-face` rules."""

from __future__ import annotations

from aksara.checking.kinds.kind import OTHER_FONT, Case, Kind

RULES = (
    Kind(
        name="rule-ignored",
        group="rules",
        level="error",
        what="a rule without a family, or without a source that browsers can read; missing quotes",
        problem="{problem}",
        effect="browsers ignore the rule, and its text is shown in another font",
        remedy="{remedy}",
    ),
    Kind(
        name="font-missing",
        group="rules",
        level="error",
        what="the font file is missing; where a file of that name is",
        problem='url("{address}") {reason}',
        effect=OTHER_FONT,
        remedy="{remedy}",
        cases={
            "another works": Case(
                level="warning", effect="browsers request it, get an error, and then take the next source"
            ),
            "from the root": Case(
                level="warning",
                effect=OTHER_FONT + ", unless the site's root is another folder",
                remedy="set root in [site] of aksara.toml to the folder that such addresses count from",
            ),
        },
    ),
    Kind(
        name="mixed-content",
        group="rules",
        level="error",
        what="a font by plain HTTP, for pages that come by HTTPS",
        problem='url("{address}") is fetched by plain HTTP',
        effect="browsers block it on pages that come by HTTPS, and show the text in another font",
        remedy="write https:, or a path without a host",
        cases={"in a folder": Case(level="warning")},
    ),
    Kind(
        name="format-unknown",
        group="rules",
        level="error",
        what="a `format()` that no browser knows",
        problem='no browser knows format("{written}")',
        effect="browsers skip this source, and " + OTHER_FONT,
        remedy="{remedy}",
        cases={"another works": Case(level="warning", effect="browsers skip this source")},
    ),
    Kind(
        name="family-without-quotes",
        group="rules",
        level="error",
        what="a `font-family` that browsers ignore, such as `7 Islands`",
        problem="font-family: {written} is not a list of families",
        effect="browsers ignore it, and show the text in the font of the element around it",
        remedy="put names with digits or signs in quotes: {quoted}",
    ),
    Kind(
        name="declaration-broken",
        group="rules",
        level="warning",
        what="text in a rule that is not a declaration",
        problem="this is not a declaration",
        effect="browsers ignore it, up to the next semicolon",
        remedy="look for a missing colon or semicolon, here or in the line above",
        cases={"whole rule": Case(level="error")},
    ),
    Kind(
        name="descriptor-ignored",
        group="rules",
        level="warning",
        what="a descriptor that browsers ignore, and why",
        problem="{name}: {written} {reason}",
        effect="browsers ignore it{default}",
        remedy="correct it, or remove it",
        cases={"unknown": Case(level="note")},
    ),
    Kind(
        name="rule-hidden",
        group="rules",
        level="warning",
        what="a rule that a later one for the same face hides",
        problem="line {line} has a rule for the same weight, style, width and characters",
        effect="browsers use this rule only for characters that the later font does not have",
        remedy="remove one of them, or correct its weight or style",
        cases={
            "same": Case(
                level="note",
                problem="line {line} repeats this rule",
                effect="nothing",
                remedy="remove one of them",
            )
        },
    ),
    Kind(
        name="format-contradicts-file",
        group="rules",
        level="warning",
        what="the file is not what `format()` says",
        problem='format("{written}") describes {file}, which is {container}',
        effect="browsers that cannot read it fetch it all the same, and others may skip it",
        remedy='write format("{right}")',
    ),
    Kind(
        name="better-format-later",
        group="rules",
        level="warning",
        what="a WOFF2 behind a larger file",
        problem="the WOFF2 comes after {container} of the same face",
        effect="browsers take the first source that they know, so every reader fetches the larger file",
        remedy="put the WOFF2 first",
    ),
    Kind(
        name="url-needs-encoding",
        group="rules",
        level="note",
        what="blanks, percent signs and other letters in an address",
        problem='url("{address}") contains {sign}, which is not encoded',
        effect="some servers and caches do not find the file",
        remedy='write url("{right}"), or rename the file',
        cases={"percent sign": Case(level="warning")},
    ),
    Kind(
        name="url-is-template",
        group="rules",
        level="note",
        what="an address that a template or preprocessor completes, and that was not checked",
        problem="a template completes {address}, so this address was not checked",
        effect="none, if the template is rendered; otherwise the font does not load",
        remedy="check the page that is served",
    ),
)
