"""Kinds of findings about how servers send files."""

from __future__ import annotations

from aksara.checking.kinds.kind import OTHER_FONT, Case, Kind

SERVER = (
    Kind(
        name="sheet-type-wrong",
        group="server",
        level="error",
        what="a style sheet that is not sent as `text/css`: browsers ignore it",
        problem="the server sends it as {type}, not as text/css",
        effect="browsers ignore the style sheet, and with it the fonts",
        remedy="make the server send Content-Type: text/css",
        cases={
            "page": Case(remedy="make the server send Content-Type: text/css; it may answer every address with a page")
        },
    ),
    Kind(
        name="font-not-allowed",
        group="server",
        level="error",
        what="a font on another host that does not allow your pages to use it (CORS)",
        problem="{address} is allowed {allowed}, and the page is on {origin}",
        effect="browsers refuse it, and " + OTHER_FONT,
        remedy="make that server send Access-Control-Allow-Origin: {origin}, or put the font on your own site",
    ),
    Kind(
        name="address-redirected",
        group="server",
        level="warning",
        what="a redirect, for which readers wait",
        problem="{address} is redirected with {status} to {target}",
        effect="every reader waits for {count} before {what} arrives",
        remedy="write the address that it leads to",
    ),
    Kind(
        name="font-kept-shortly",
        group="server",
        level="warning",
        what="fonts that browsers may not keep for long",
        problem="the server {said}",
        effect="returning readers fetch it again, or wait until the server says that it is unchanged",
        remedy="send Cache-Control: public, max-age=31536000, immutable{once}",
    ),
    Kind(
        name="sheet-kept-long",
        group="server",
        level="warning",
        what="a style sheet kept under the same name for more than a day: readers have old rules after a build",
        problem="browsers may keep it for {time}, and its name stays the same when it changes",
        effect="after the next build readers have old rules, which name missing fonts",
        remedy="send Cache-Control: no-cache with style sheets, or put their hash into the name",
    ),
    Kind(
        name="font-compressed-twice",
        group="server",
        level="warning",
        what="WOFF2 and WOFF that the server compresses once more",
        problem="the server compresses it with {encoding}, although it is compressed",
        effect="it gets no smaller, and costs server and browser time",
        remedy="exclude font/woff2 and font/woff from the server's compression",
    ),
    Kind(
        name="stale-copy",
        group="server",
        level="warning",
        what="another file than the last build made, or two files of one name",
        problem="this is not the file of this name that the last build of the project made",
        effect="readers see the site with older fonts, or with rules that name missing fonts",
        remedy="publish what the last build wrote, and empty the caches between",
        cases={
            "two": Case(
                problem="this has the name of {other}, but other bytes",
                effect="one of them is an old copy: pages differ by where they fetch it",
                remedy="copy the last build to both places",
            )
        },
    ),
    Kind(
        name="font-type-wrong",
        group="server",
        level="warning",
        what="a font that is sent as something else",
        problem="the server sends it as {type}",
        effect="browsers take it, but caches and filters on the way may change it or hold it back",
        remedy="make the server send Content-Type: {right}",
        cases={"generic": Case(level="note")},
    ),
    Kind(
        name="font-kept-under-name",
        group="server",
        level="note",
        what="a font without a hash in its name that browsers keep for long",
        problem="browsers may keep it for {time}, and its name stays the same when it changes",
        effect="after a change readers keep seeing the old font",
        remedy="put a hash of the file into its name, as aksara build does",
    ),
    Kind(
        name="sheet-uncompressed",
        group="server",
        level="note",
        what="a style sheet that is sent uncompressed",
        problem="the server sends its {size:,} bytes uncompressed",
        effect="every reader waits for about four times the bytes before any font is requested",
        remedy="make the server compress text/css",
    ),
    Kind(
        name="page-unread",
        group="server",
        level="note",
        what="a page that could not be read",
        problem="{problem}",
        effect="what it shows was not checked",
        remedy="correct the links that lead there",
    ),
)
