"""What the user gives: fonts and licence texts in files, folders and ZIPs. Bounded and untrusting."""

from aksara.sources.archive import ARCHIVE_MARK, is_own_archive
from aksara.sources.files import (
    is_file,
    is_folder,
    kind_of,
    open_file,
    printable,
    read_file,
    read_start,
    read_text,
    reading_once,
    resolved,
)
from aksara.sources.finding import Sources, collection_member, collection_of, find_fonts, find_sources, texts_beside
from aksara.sources.paths import PROJECT_NAME, PathPattern, common_folder, expand, find_pages, pages_at
from aksara.sources.source import SourceFile
from aksara.sources.walking import MANIFEST_MARK, MANIFEST_NAME, is_own_output

__all__ = [
    "ARCHIVE_MARK",
    "MANIFEST_MARK",
    "MANIFEST_NAME",
    "PROJECT_NAME",
    "PathPattern",
    "SourceFile",
    "Sources",
    "collection_member",
    "collection_of",
    "common_folder",
    "expand",
    "find_fonts",
    "find_pages",
    "find_sources",
    "is_file",
    "is_folder",
    "is_own_archive",
    "is_own_output",
    "kind_of",
    "open_file",
    "pages_at",
    "printable",
    "read_file",
    "read_start",
    "read_text",
    "reading_once",
    "resolved",
    "texts_beside",
]
