"""What a site shows: its pages read by the cascade, face by face, without running scripts."""

from aksara.site.cache import PageCache, cache_of
from aksara.site.fetching import check_address, is_address
from aksara.site.reading import SiteRequest, read_site
from aksara.site.texts import PAGE_SUFFIXES, TEXT_SUFFIXES
from aksara.site.usage import FaceUse, PageUse, SiteUse, TextUse

__all__ = [
    "PAGE_SUFFIXES",
    "TEXT_SUFFIXES",
    "FaceUse",
    "PageCache",
    "PageUse",
    "SiteRequest",
    "SiteUse",
    "TextUse",
    "cache_of",
    "check_address",
    "is_address",
    "read_site",
]
