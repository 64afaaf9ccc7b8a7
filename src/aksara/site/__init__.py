"""Reading a site: the text of its pages by face, found through the cascade, without running scripts.

What reading takes is imported when it is first asked for: most builds read no site.
"""

from typing import TYPE_CHECKING

from aksara.importing import on_demand

if TYPE_CHECKING:
    from aksara.site.access.decoding import decode_page
    from aksara.site.access.exchanges import Exchange, Exchanges
    from aksara.site.cache import PageCache, cache_of
    from aksara.site.icon_classes import icon_names
    from aksara.site.reading import SiteRequest, read_site
    from aksara.site.usage import FaceUse, PageUse, SiteUse, TextUse
    from aksara.site.web_addresses import check_address, is_address

_MODULE_OF = {
    **dict.fromkeys(("check_address", "is_address"), "aksara.site.web_addresses"),
    **dict.fromkeys(("PageCache", "cache_of"), "aksara.site.cache"),
    "decode_page": "aksara.site.access.decoding",
    "icon_names": "aksara.site.icon_classes",
    **dict.fromkeys(("Exchange", "Exchanges"), "aksara.site.access.exchanges"),
    **dict.fromkeys(("SiteRequest", "read_site"), "aksara.site.reading"),
    **dict.fromkeys(("FaceUse", "PageUse", "SiteUse", "TextUse"), "aksara.site.usage"),
}

__all__ = [
    "Exchange",
    "Exchanges",
    "FaceUse",
    "PageCache",
    "PageUse",
    "SiteRequest",
    "SiteUse",
    "TextUse",
    "cache_of",
    "check_address",
    "decode_page",
    "icon_names",
    "is_address",
    "read_site",
]


__getattr__ = on_demand(__name__, _MODULE_OF)
