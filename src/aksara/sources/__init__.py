"""What the user gives: fonts and licence texts in files, folders and ZIPs. Bounded and untrusting."""

from aksara.sources.archive import ARCHIVE_MARK, MAX_MEMBERS, is_own_archive
from aksara.sources.finding import MANIFEST_MARK, MANIFEST_NAME, Sources, find_fonts, find_sources, is_own_output
from aksara.sources.paths import PathPattern, common_folder, expand, find_pages, pages_at, read_text
from aksara.sources.source import MAX_FILE_SIZE, SourceFile, printable, read_file

__all__ = [
    "ARCHIVE_MARK",
    "MANIFEST_MARK",
    "MANIFEST_NAME",
    "MAX_FILE_SIZE",
    "MAX_MEMBERS",
    "PathPattern",
    "SourceFile",
    "Sources",
    "common_folder",
    "expand",
    "find_fonts",
    "find_pages",
    "find_sources",
    "is_own_archive",
    "is_own_output",
    "pages_at",
    "printable",
    "read_file",
    "read_text",
]
